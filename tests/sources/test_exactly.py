"""What is read is what stands there: code pages, totals and remarks, headers, workbooks, the values of databases."""

import datetime
import json
from decimal import Decimal

import pytest
from databases import POSTGRES, new_database
from openpyxl import Workbook
from sqlalchemy import create_engine, text

from pravix.errors import InputError
from pravix.sources.connecting import shown_url
from pravix.sources.read import read_source
from pravix.sources.reading import Reading

WESTERN = {
    "french": "Glacière à Orléans, forêt près du château où l'abeille butine",
    "spanish": "Señal de la montaña, corazón de niño, ¿cuándo?",
    "portuguese": "São João, coração da mãe, três maçãs",
    "german": "Größe der Bienenstöcke, süßer Honig für alle",
    "swedish": "Åsa från Öland har två älgar på ängen",
    "danish": "Bræddefløjt på øen, blåbær og rødgrød",
    "italian": "perché la città è così, già più caffè",
    "english": "a café at 12 °C costs 5 €",
    "one letter": "Señal",
}
OTHERS = {
    "cp1250": "Łódź żółć kraków ćma", "cp1254": "İstanbul şeker çiğdem ağaç", "mac_roman": "Glacière forêt été",
    "cp850": "Straße Größe Öl", "cp1251": "Привет мир как дела сегодня", "cp1253": "Αθήνα και Θεσσαλονίκη",
    "shift_jis": "日本語テスト東京都港区", "cp1257": "šūpoles āķis ļoti žņaugt",
}  # fmt: skip


def written(tmp_path, content, name="a.csv"):
    path = tmp_path / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return str(path)


@pytest.mark.parametrize("language", WESTERN)
@pytest.mark.parametrize("rows", [1, 12, 500])
def test_western_texts_are_read_as_western(tmp_path, language, rows):
    words = WESTERN[language].replace(",", "").split()
    lines = ["no,told", *(f"{n},{words[n % len(words)]} {words[(n * 7) % len(words)]}" for n in range(rows))]
    lines.append(f"{rows},{WESTERN[language].replace(',', '')}")
    found = read_source(written(tmp_path, "\n".join(lines).encode("cp1252")))
    assert [",".join(row) for row in found.relation.rows()] == lines[1:]
    assert "the encoding is a guess: Windows-1252" in str(found.account)


@pytest.mark.parametrize("codec", OTHERS)
def test_other_texts_are_read_as_what_they_are(tmp_path, codec):
    content = "\n".join(["no;told", *(f"{n};{OTHERS[codec]}" for n in range(20))])
    found = read_source(written(tmp_path, content.encode(codec)))
    assert found.relation.column("told").present_values == [OTHERS[codec]]
    assert "the encoding is a guess" in str(found.account)


def test_a_guess_says_what_another_would_read(tmp_path):
    found = read_source(written(tmp_path, "no,told\n1,Señal\n2,x\n".encode("cp1252")))
    assert "as in Señal; Windows-1250 (Central European) would read Seńal (--encoding cp1250)" in str(
        found.account
    )
    assert "guess" not in str(read_source(written(tmp_path, "no,told\n1,Señal\n2,x\n")).account)


DRUMS = ["drum,place,kg,crates", "1,Ost,10.5,3", "2,Nord,20,4", "3,Ost,30,5", "4,Kap,15,6", "5,Lom,12,7"]


@pytest.mark.parametrize(
    ("row", "out"),
    [
        ("Total Energies,Paris,,1", False), ("Total,,87.5,", True), ("Total,,87.5,25", True), ("Total,,,", True),
        ("Grand total:,,1,1", True), ("Sum,,87.5,25", True), ("Mean,,17.5,5", True), ("Count,,5,", True),
        ("Total wine,Rome,3,", False),
    ],
)  # fmt: skip
def test_a_total_adds_up_or_stands_out_or_is_asked_about(tmp_path, row, out):
    last = read_source(written(tmp_path, "\n".join([*DRUMS, row]) + "\n"))
    assert (last.relation.row_count == 5) is out
    assert ("1 total row left out: 7" in str(last.account)) is out
    if not out and row.count(",,"):
        assert "is row 7" in str(last.account)
        assert "--skip 7" in str(last.account)
        assert (
            read_source(written(tmp_path, "\n".join([*DRUMS, row])), Reading(skip=(7,))).relation.row_count
            == 5
        )


def test_a_total_in_the_middle_that_is_none_is_kept(tmp_path):
    lines = [*DRUMS[:3], "Total Energies,Paris,,1", *DRUMS[3:]]
    found = read_source(written(tmp_path, "\n".join(lines)))
    assert found.relation.row_count == 6
    assert "is row 4 (Total Energies) data? It was kept; --skip 4 leaves it out" in str(found.account)


@pytest.mark.parametrize(
    ("row", "out"),
    [("9,,,", False), ("Heather farm,,,", False), ("* weighed without the lid,,,", True),
     ("Source: the office of the co-operative,,,", True), ("_____,,,", True)],
)  # fmt: skip
def test_a_last_row_with_its_first_cell_only_is_a_remark_only_if_it_looks_like_one(tmp_path, row, out):
    lines = [
        "farm,place,kg,crates",
        *(f"{name} farm,Ost,{n},{n}" for n, name in enumerate(["Lime", "Rape", "Fir"])),
    ]
    found = read_source(written(tmp_path, "\n".join([*lines, row])))
    assert (found.relation.row_count == 3) is out
    assert ("is row 5" in str(found.account)) is (not out and not row.startswith("9"))


def test_a_header_with_missing_names_is_asked_about_and_never_read_as_data(tmp_path):
    content = "drum,,kg,,\nGrey Saddle,Lime,3,4,5\nRed Hill,Lime,4,5,6\nBlue,Fir,7,8,9\n"
    with pytest.raises(InputError, match="row 1: column 2 of 5 has no name"):
        read_source(written(tmp_path, content))
    found = read_source(written(tmp_path, content), Reading(number_names=True))
    assert found.relation.names == ("drum", "column 2", "kg", "column 4", "column 5")
    assert found.relation.row_count == 3


def test_quotes_after_a_space_are_quotes(tmp_path):
    found = read_source(written(tmp_path, 'drum, "honey", "kg"\n1, "Lime, white", "3"\n2, "Fir", "4"\n'))
    assert found.relation.names == ("drum", "honey", "kg")
    assert found.relation.rows() == [("1", "Lime, white", "3"), ("2", "Fir", "4")]


def test_a_zero_byte_in_a_cell_is_named(tmp_path):
    path = written(
        tmp_path, "\n".join(json.dumps({"a": n, "b": "x\0y" if n == 2 else "z"}) for n in range(4)), "a.jsonl"
    )
    with pytest.raises(InputError, match=r"a\.jsonl, row 3, column b: the cell holds a zero byte"):
        read_source(path)


def workbook(tmp_path, fill):
    book = Workbook()
    fill(book)
    book.save(tmp_path / "a.xlsx")
    return str(tmp_path / "a.xlsx")


def table(sheet, rows=6):
    sheet.append(["drum", "honey", "kg"])
    for n in range(rows):
        sheet.append([f"D{n}", "Lime", n + 0.5])


def test_a_cover_and_a_hidden_sheet_do_not_stop_the_one_table(tmp_path):
    def fill(book):
        book.active.title = "Cover"
        book.active["B2"] = "Deliveries"
        table(book.create_sheet("Drums"))
        hidden = book.create_sheet("Codes")
        table(hidden)
        hidden.sheet_state = "hidden"

    found = read_source(workbook(tmp_path, fill))
    assert found.relation.row_count == 6
    assert "the only visible table; left out: Cover (no table) and Codes (hidden)" in str(found.account)


@pytest.mark.parametrize("cell", ["XFD1048576", "XFD40000"])
def test_a_stray_cell_far_away_is_one_clear_line(tmp_path, cell):
    def fill(book):
        table(book.active)
        book.active[cell] = "x"

    with pytest.raises(InputError, match="reaches to column 16,384 and row"):
        read_source(workbook(tmp_path, fill))


def test_the_values_of_postgresql_are_read_as_they_are():
    with new_database(POSTGRES) as url:
        engine = create_engine(url.replace("postgresql://", "postgresql+psycopg://"))
        with engine.begin() as connection:
            connection.execute(
                text(
                    "CREATE TABLE t (a double precision, b numeric(30, 12), c timestamp, d jsonb, e integer[], f bytea, "
                    "g double precision, h date, i timestamptz)"
                )
            )
            connection.execute(
                text(
                    "INSERT INTO t VALUES (0.12345678901234568, 583339848934428427.500000000001, '2026-05-01 00:00', "
                    "'{\"n\": 1.10, \"x\": null}', '{1,2}', '\\xdeadbeef', 'infinity', '2026-05-01', '2026-05-01 00:00+00')"
                )
            )
        engine.dispose()
        (row,) = read_source(url, Reading(table="t")).relation.rows()
    assert row[:8] == (
        "0.12345678901234568", "583339848934428427.500000000001", "2026-05-01 00:00:00", '{"n": 1.10, "x": null}',
        "[1, 2]", "deadbeef", "inf", "2026-05-01",
    )  # fmt: skip
    assert datetime.datetime.fromisoformat(row[8]).timestamp() == 1777593600


def test_the_values_of_sqlite_are_read_as_they_are(tmp_path):
    engine = create_engine(f"sqlite:///{tmp_path}/a.db")
    with engine.begin() as connection:
        connection.execute(text("CREATE TABLE t (a REAL, b NUMERIC(20, 2), c TIMESTAMP, d BLOB, e DATE)"))
        insert = text("INSERT INTO t VALUES (:a, :b, :c, :d, :e)")
        rows = [
            {"a": 0.1 + 0.2, "b": 17.5, "c": "2026-05-01 00:00:00", "d": b"\xde\xad", "e": "2026-02-30"},
            {"a": float("inf"), "b": 3, "c": None, "d": None, "e": "soon"},
        ]
        connection.execute(insert, rows)
    engine.dispose()
    found = read_source(f"sqlite:///{tmp_path}/a.db", Reading(table="t")).relation.rows()
    assert found == [
        ("0.30000000000000004", "17.50", "2026-05-01 00:00:00", "dead", "2026-02-30"),
        ("inf", "3.00", "", "", "soon"),
    ]
    assert Decimal(found[0][0]) == Decimal(repr(0.1 + 0.2))


def test_a_mistyped_path_of_sqlite_makes_no_file(tmp_path):
    with pytest.raises(InputError, match="there is no file"):
        read_source(f"sqlite:///{tmp_path}/mistyped.db", Reading(table="t"))
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(
    ("url", "shown"),
    [
        (
            "postgresql://ida:s3cret@h:5/db?password=s3cret&sslmode=require",
            "postgresql://ida:***@h:5/db?sslmode=require",
        ),
        ("mysql://h/db?user=ida&password=s3cret", "mysql://h/db"),
        ("postgresql://ida:s3@cret@h/db", "postgresql://***"),
        ("s3cret", "***"),
        ("sqlite:////tmp/a.db", "sqlite:////tmp/a.db"),
    ],
)
def test_a_url_is_shown_without_what_is_secret(url, shown):
    assert shown_url(url) == shown
