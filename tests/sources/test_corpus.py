"""A corpus of difficult files: each read as a careful person would read it, or refused in one line."""

import datetime
import gzip
import io
import zipfile

import pytest
from openpyxl import Workbook

from pravix.errors import InputError
from pravix.sources import told
from pravix.sources.read import read_source
from pravix.sources.reading import Reading

NAMES = ("drum", "honey", "kg")
ROWS = [
    ("2001", "Lime", "17.5"),
    ("2002", "Heather", "18.0"),
    ("2003", "Rape", "21.5"),
    ("2004", "Fir", "9.5"),
]
TABLE = [NAMES, *ROWS]


def text(rows, mark=",", end="\n"):
    return end.join(mark.join(row) for row in rows) + end


def book(rows, merged=(), title="Deliveries", more=()):
    made = Workbook()
    sheet = made.active
    sheet.title = title
    for row in rows:
        sheet.append([cell if cell != "" else None for cell in row])
    for area in merged:
        sheet.merge_cells(area)
    for name, cells in more:
        other = made.create_sheet(name)
        for row in cells:
            other.append(row)
    stream = io.BytesIO()
    made.save(stream)
    return stream.getvalue()


NUMBERED = [NAMES, *[(int(a), b, float(c)) for a, b, c in ROWS]]
PLAIN = [NAMES, *[(a, b, c.removesuffix(".0")) for a, b, c in ROWS]]

READ = {
    # name: (file name, content, expected names and rows, row numbers, words of the account)
    "comma": ("a.csv", text(TABLE), TABLE, None, "comma between cells"),
    "semicolon": ("a.csv", text(TABLE, ";"), TABLE, None, "semicolon"),
    "tab": ("a.tsv", text(TABLE, "\t"), TABLE, None, "tab"),
    "bar": ("a.txt", text(TABLE, "|"), TABLE, None, "bar"),
    "caret": ("a.txt", text(TABLE, "^"), TABLE, None, "caret"),
    "tilde": ("a.txt", text(TABLE, "~"), TABLE, None, "tilde"),
    "carriage returns": ("a.csv", text(TABLE, end="\r"), TABLE, None, ""),
    "both line ends": ("a.csv", text(TABLE, end="\r\n"), TABLE, None, ""),
    "no last line end": ("a.csv", text(TABLE).rstrip("\n"), TABLE, None, ""),
    "spaces around values": ("a.csv", text(TABLE, " , "), TABLE, None, ""),
    "marked UTF-8": ("a.csv", text(TABLE).encode("utf-8-sig"), TABLE, None, "UTF-8"),
    "UTF-16": ("a.csv", text(TABLE, "\t").encode("utf-16"), TABLE, None, "UTF-16"),
    "UTF-16, big end first, unmarked": ("a.csv", text(TABLE).encode("utf-16-be"), TABLE, None, "UTF-16"),
    "gzip": ("a.csv.gz", gzip.compress(text(TABLE).encode()), TABLE, None, ""),
    "quoted": ("a.csv", text([tuple(f'"{cell}"' for cell in row) for row in TABLE]), TABLE, None, ""),
    "decimal commas": ("a.csv", text(TABLE, ";").replace(".", ","), TABLE, None, "decimal commas read as points in kg"),
    "decimal commas and thousands": (
        "a.csv", "a;b\n1;1.234,50\n2;17,25\n", [("a", "b"), ("1", "1234.50"), ("2", "17.25")], None, "decimal commas"),
    "three digits after every comma stay": (
        "a.csv", "a;b\n1;1,234\n2;5,678\n", [("a", "b"), ("1", "1,234"), ("2", "5,678")], None, ""),
    "one title line": ("a.csv", "Summer deliveries\n" + text(TABLE), TABLE, [3, 4, 5, 6], "header in row 2"),
    "two title lines and a gap": (
        "a.csv", "Summer deliveries,,\nby the office,,\n,,\n" + text(TABLE), TABLE, [5, 6, 7, 8], "header in row 4"),
    "a total below": ("a.csv", text([*TABLE, ("Total", "", "66.5")]), TABLE, None, "1 total row left out: 6"),
    "a grand total after a gap": (
        "a.csv", text(TABLE) + "\n" + text([("", "Grand total", "66.5")]), TABLE, None, "1 total row left out: 7"),
    "totals between groups": (
        "a.csv", text([*TABLE[:3], ("Subtotal", "", "35.5"), *TABLE[3:], ("Subtotal", "", "31")]), TABLE, [2, 3, 5, 6],
        "2 total rows left out: 4, 7"),
    "a note below": ("a.csv", text(TABLE) + "Weights without the drum.,,\n", TABLE, None, "1 note below the table left out: 6"),
    "a short note below": ("a.csv", text(TABLE) + "Weights without the drum.\n", TABLE, None, "1 note below"),
    "a line to sign on": ("a.csv", text(TABLE) + ",,\nSigned: A. Holm,,\n______,,\n", TABLE, None, "2 notes below the table left out: 7, 8"),
    "blank lines between": ("a.csv", text(TABLE[:3]) + "\n\n" + text(TABLE[3:]), TABLE, [2, 3, 6, 7], "2 blank lines left out"),
    "a blank column at the edge": ("a.csv", text([("", *row) for row in TABLE]), TABLE, None, "1 blank column left out"),
    "delimiters at the end of each line": ("a.csv", text([(*row, "") for row in TABLE]), TABLE, None, "1 blank column left out"),
    "two header lines": (
        "a.csv", "drum,,weight,\n,code,gross,tare\n1,A,20,2\n2,B,30,3\n",
        [("drum", "drum code", "weight gross", "weight tare"), ("1", "A", "20", "2"), ("2", "B", "30", "3")],
        [3, 4], "header in rows 1 and 2"),
    "a line break in a name": ("a.csv", '"net\nweight",b\n1,2\n', [("net weight", "b"), ("1", "2")], None, ""),
    "a line break in a cell": ("a.csv", 'a,b\n1,"x\ny"\n2,z\n', [("a", "b"), ("1", "x\ny"), ("2", "z")], [2, 3], ""),
    "doubled quotes": ("a.csv", 'a,b\n1,"say ""when"""\n', [("a", "b"), ("1", 'say "when"')], None, ""),
    "an inch mark in a cell": ("a.csv", 'a,b\n1,3" pipe\n2,x\n', [("a", "b"), ("1", '3" pipe'), ("2", "x")], None, ""),
    "leading zeros": ("a.csv", "a,b\n007,0\n012,1\n", [("a", "b"), ("007", "0"), ("012", "1")], None, ""),
    "long numbers": ("a.csv", "a\n12345678901234567890\n1e5\n", [("a",), ("12345678901234567890",), ("1e5",)], None, ""),
    "any script": ("a.csv", "蜂蜜,мёд\nアカシア,липа\n🍯,ä\n", [("蜂蜜", "мёд"), ("アカシア", "липа"), ("🍯", "ä")], None, "UTF-8"),
    "a name of 300 characters": ("a.csv", "n" * 300 + ",b\n1,2\n", [("n" * 300, "b"), ("1", "2")], None, ""),
    "one row": ("a.csv", "a,b\n1,2\n", [("a", "b"), ("1", "2")], None, ""),
    "numbers as names": ("a.csv", "drum,2024,2025\n1,5,6\n2,7,8\n", [("drum", "2024", "2025"), ("1", "5", "6"), ("2", "7", "8")], None, ""),
    "a value Total in full rows": (
        "a.csv", "a,b,c\nTotal,1,2\nSum,3,4\n", [("a", "b", "c"), ("Total", "1", "2"), ("Sum", "3", "4")], None, ""),
    "names with outer spaces": ("a.csv", " a ,b \n1,2\n", [("a", "b"), ("1", "2")], None, ""),
    "JSON Lines": (
        "a.jsonl", '{"drum": "007", "kg": 1.50}\n\n{"drum": "8", "full": true}\n',
        [("drum", "kg", "full"), ("007", "1.50", ""), ("8", "", "yes")], [1, 3], "JSON Lines"),
    "gzipped JSON Lines": ("a.jsonl.gz", gzip.compress(b'{"a": 1}\n'), [("a",), ("1",)], [1], "JSON Lines"),
    "workbook": ("a.xlsx", book(NUMBERED), PLAIN, None, "sheet Deliveries"),
    "workbook with titles and totals": (
        "a.xlsx", book([["Deliveries"], [], *NUMBERED, [], ["Total", "", 66.5], ["Checked by the office."]]), PLAIN,
        [4, 5, 6, 7], "header in row 3"),
    "workbook with merged groups": (
        "a.xlsx", book([("keeper", "drum"), ("Ada", 1), (None, 2), ("Milo", 3), (None, 4)], ["A2:A3", "A4:A5"]),
        [("keeper", "drum"), ("Ada", "1"), ("Ada", "2"), ("Milo", "3"), ("Milo", "4")], None, "2 merged ranges"),
    "workbook away from the corner": (
        "a.xlsx", book([[], ["", *NUMBERED[0]], *[["", *row] for row in NUMBERED[1:]]]), PLAIN, [3, 4, 5, 6], "header in row 2"),
    "workbook with an empty second sheet": ("a.xlsx", book(NUMBERED, more=[("Notes", [])]), PLAIN, None, "sheet Deliveries"),
    "workbook with dates": (
        "a.xlsx", book([("day", "at"), (datetime.date(2026, 5, 4), datetime.time(7, 30)), (datetime.datetime(2026, 5, 5, 8, 0, 30), None)]),
        [("day", "at"), ("2026-05-04", "07:30"), ("2026-05-05 08:00:30", "")], None, ""),
    "workbook with numbers": (
        "a.xlsx", book([("a", "b"), (3.0000000000004, True), (100000, False), (0.1 + 0.2, True), (1e-7, True), (-2.50, True)]),
        [("a", "b"), ("3", "yes"), ("100000", "no"), ("0.3", "yes"), ("0.0000001", "yes"), ("-2.5", "yes")], None, ""),
    "workbook with codes as text": ("a.xlsx", book([("a", "b"), ("007", "1e5"), ("012", "x")]), [("a", "b"), ("007", "1e5"), ("012", "x")], None, ""),
}  # fmt: skip


def written(folder, name, content):
    path = folder / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return str(path)


@pytest.mark.parametrize("case", READ)
def test_difficult_files_are_read_as_a_careful_person_would(tmp_path, case):
    name, content, expected, numbers, told = READ[case]
    source = read_source(written(tmp_path, name, content))
    assert [source.relation.names, *source.relation.rows()] == [tuple(row) for row in expected]
    assert source.relation.row_numbers.tolist() == (numbers or list(range(2, len(expected) + 1)))
    assert told in str(source.account)


HUGE = zipfile.ZipInfo("xl/worksheets/sheet1.xml")

REFUSED = {
    # name: (file name, content, what the message says)
    "empty": ("a.csv", "", "is empty"),
    "only blanks": ("a.csv", ",,\n,,\n", "is empty"),
    "header only": ("a.csv", "a,b\n", "no data rows"),
    "equal names": ("a.csv", "a,b,a\n1,2,3\n", "row 1: columns 1 and 3 are both named a"),
    "a nameless column": ("a.csv", "a,,c\n1,2,3\n", "row 1: column 2 of 3 has no name"),
    "too many cells": ("a.csv", text(TABLE) + "1,2,3,4\n", "row 6 has 4 fields where the header has 3"),
    "too few cells": ("a.csv", text(TABLE) + "2005,Li", "row 6 has 2 fields where the header has 3"),
    "an open quote": (
        "a.csv",
        text(TABLE) + '2005,"Lime,3\n2006,Fir,4\n',
        "a quote is opened and never closed",
    ),
    "zero bytes": ("a.csv", b"a,b\n\0\0\0,1\n", "zero bytes"),
    "a picture": ("a.csv", b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR", "zero bytes"),
    "half of UTF-16": ("a.csv", text(TABLE).encode("utf-16")[:-1], "not utf-16"),
    "a broken gzip": ("a.csv.gz", gzip.compress(text(TABLE).encode())[:-9], "a broken gzip file"),
    "no workbook": ("a.xlsx", b"PK\x03\x04 nothing", "is not a readable workbook"),
    "half a workbook": ("a.xlsx", book(NUMBERED)[:900], "is not a readable workbook"),
    "text called a workbook": ("a.xlsx", text(TABLE), "is not a readable workbook"),
    "an empty workbook": ("a.xlsx", book([]), "no sheet holds data"),
    "two sheets with data": (
        "a.xlsx",
        book(NUMBERED, more=[("Stock", [["a", "b"], [1, 2], [2, 3], [3, 4]])]),
        "2 sheets with data",
    ),
    "nested JSON": ("a.jsonl", '{"a": [1]}\n', "line 1: a is nested"),
    "broken JSON": ("a.jsonl", '{"a": 1}\n{"a"\n', "line 2 is not JSON"),
    "JSON of another kind": ("a.jsonl", "[1]\n", "line 1 is not a JSON object"),
    "no Parquet": ("a.parquet", b"PAR1", "is not a readable Parquet file"),
}


@pytest.mark.parametrize("case", REFUSED)
def test_what_cannot_be_read_is_refused_in_one_line(tmp_path, case):
    name, content, told = REFUSED[case]
    with pytest.raises(InputError) as caught:
        read_source(written(tmp_path, name, content))
    assert told in str(caught.value)
    assert name in str(caught.value)
    assert "\n" not in str(caught.value)


def test_the_corpus_is_large():
    assert len(READ) + len(REFUSED) >= 60


def test_an_archive_of_something_huge_is_refused_early(tmp_path, monkeypatch):
    monkeypatch.setattr("pravix.sources.arriving.MOST_BYTES", 1 << 20)
    monkeypatch.setattr("pravix.sources.workbook.MOST_BYTES", 1 << 20)
    bomb = gzip.compress(b"0" * (1 << 24))
    with pytest.raises(InputError, match="unpacks to more than"):
        read_source(written(tmp_path, "a.csv.gz", bomb))
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * (1 << 24))
    with pytest.raises(InputError, match="unpacks to more than"):
        read_source(written(tmp_path, "a.xlsx", stream.getvalue()))


def test_a_workbook_that_declares_entities_is_refused(tmp_path):
    stream = io.BytesIO(book(NUMBERED))
    with zipfile.ZipFile(stream) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    evil = b'<!DOCTYPE x [<!ENTITY y SYSTEM "file:///etc/passwd">]>'
    sheet = "xl/worksheets/sheet1.xml"
    parts[sheet] = parts[sheet].replace(b"<worksheet", evil + b"<worksheet", 1)
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        for name, part in parts.items():
            archive.writestr(name, part)
    with pytest.raises(InputError, match="declares XML entities"):
        read_source(written(tmp_path, "a.xlsx", made.getvalue()))


def test_a_formula_has_its_stored_value(tmp_path):
    stream = io.BytesIO(book([("a", "b"), (1, "=A2+1")]))
    with zipfile.ZipFile(stream) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    sheet = "xl/worksheets/sheet1.xml"
    assert b"<v></v>" in parts[sheet] or b"<v />" in parts[sheet]
    parts[sheet] = parts[sheet].replace(b"<v></v>", b"<v>2</v>").replace(b"<v />", b"<v>2</v>")
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        for name, part in parts.items():
            archive.writestr(name, part)
    assert read_source(written(tmp_path, "a.xlsx", made.getvalue())).relation.rows() == [("1", "2")]


@pytest.mark.parametrize("suffix", ["ods", "xls"])
def test_other_workbooks(tmp_path, suffix):
    path = tmp_path / f"a.{suffix}"
    if suffix == "xls":
        import xlwt

        made = xlwt.Workbook()
        sheet = made.add_sheet("Deliveries")
        for line, row in enumerate(NUMBERED):
            for column, cell in enumerate(row):
                sheet.write(line, column, cell)
        made.save(str(path))
    else:
        from odf.opendocument import OpenDocumentSpreadsheet
        from odf.table import Table, TableCell, TableRow
        from odf.text import P

        made = OpenDocumentSpreadsheet()
        sheet = Table(name="Deliveries")
        for row in NUMBERED:
            line = TableRow()
            for cell in row:
                kind = (
                    {"valuetype": "string"}
                    if isinstance(cell, str)
                    else {"valuetype": "float", "value": str(cell)}
                )
                made_cell = TableCell(**kind)
                made_cell.addElement(P(text=str(cell)))
                line.addElement(made_cell)
            sheet.addElement(line)
        made.spreadsheet.addElement(sheet)
        made.save(str(path))
    assert [NAMES, *read_source(str(path)).relation.rows()] == PLAIN


def test_parquet_keeps_texts_and_writes_numbers_and_dates_plainly(tmp_path):
    import pyarrow
    from pyarrow import parquet

    table = pyarrow.table({
        "no": ["007", None, "8"], "kg": [1.5, 2.0, None], "day": [datetime.date(2026, 5, 4)] * 3,
        "kind": pyarrow.array(["a", "b", "a"]).dictionary_encode(),
    })  # fmt: skip
    parquet.write_table(table, tmp_path / "a.parquet")
    found = read_source(str(tmp_path / "a.parquet")).relation
    assert found.rows() == [
        ("007", "1.5", "2026-05-04", "a"),
        ("", "2", "2026-05-04", "b"),
        ("8", "", "2026-05-04", "a"),
    ]
    parquet.write_table(pyarrow.table({"a": [[1]]}), tmp_path / "b.parquet")
    with pytest.raises(InputError, match="column a is nested"):
        read_source(str(tmp_path / "b.parquet"))


def test_values_of_a_parquet_file_of_many_parts_are_told_once(tmp_path, monkeypatch):
    import pyarrow
    from pyarrow import parquet

    kg = [n % 70 / 8 for n in range(1_000)]
    parquet.write_table(pyarrow.table({"kg": kg}), tmp_path / "a.parquet", row_group_size=100)
    real, seen = told._number, []
    monkeypatch.setattr(told, "_number", lambda number: seen.append(number) or real(number))
    found = read_source(str(tmp_path / "a.parquet")).relation
    assert list(map(float, found.column("kg").texts())) == kg
    assert len(seen) == 70
    nothing = pyarrow.table({"kg": pyarrow.array([], pyarrow.float64())})
    parquet.write_table(nothing, tmp_path / "b.parquet")
    with pytest.raises(InputError, match="holds no data rows"):
        read_source(str(tmp_path / "b.parquet"))


def test_two_thousand_columns(tmp_path):
    names = [f"column {number}" for number in range(2000)]
    found = read_source(written(tmp_path, "a.csv", text([names, ["x"] * 2000, ["y"] * 2000])))
    assert list(found.relation.names) == names


def wish(**wishes):
    return Reading(**wishes)


def test_every_reading_can_be_said_otherwise(tmp_path):
    path = written(tmp_path, "a.csv", "Deliveries 2026\n" + text([*TABLE, ("Total", "", "66.5")]))
    found = read_source(path, wish(header=(2, 2), last_row=5))
    assert found.relation.rows() == ROWS[:3]
    assert "2 rows after the last row left out: 6, 7" in str(found.account)
    assert len(read_source(path, wish(header=(2, 2), last_row=99)).relation.rows()) == 5
    with pytest.raises(InputError, match="has no header in row 12"):
        read_source(path, wish(header=(12, 12)))
    latin = written(tmp_path, "b.csv", "a\tb\nä\tx,y\n".encode("cp1252"))
    assert read_source(latin, wish(encoding="cp1252", delimiter="\t")).relation.rows() == [("ä", "x,y")]
    with pytest.raises(InputError, match="there is no encoding nonsense"):
        read_source(latin, wish(encoding="nonsense"))
    with pytest.raises(InputError, match="is not one character"):
        read_source(latin, wish(delimiter=",,"))
    two = written(tmp_path, "c.xlsx", book(NUMBERED, more=[("Stock", [["a", "b"], [1, 2], [2, 3], [3, 4]])]))
    assert read_source(two, wish(sheet="Stock")).relation.rows() == [("1", "2"), ("2", "3"), ("3", "4")]
    assert read_source(two, wish(sheet="1")).relation.rows()[0][0] == "2001"
    with pytest.raises(InputError, match="has no sheet Third") as caught:
        read_source(two, wish(sheet="Third"))
    assert caught.value.hint == "Its sheets: 1 Deliveries and 2 Stock."


def test_equal_and_missing_names_can_be_numbered(tmp_path):
    path = written(tmp_path, "a.csv", "a,,a,a 2\n1,2,3,4\n")
    found = read_source(path, wish(number_names=True))
    assert found.relation.names == ("a", "column 2", "a 3", "a 2")
    assert "column 3 is called a 3" in str(found.account)


def test_ragged_rows_can_be_kept_apart(tmp_path):
    path = written(tmp_path, "a.csv", text(TABLE) + "1,2,3,4\n2005,x\n")
    apart = tmp_path / "apart.csv"
    found = read_source(path, wish(ragged=str(apart)))
    assert found.relation.rows() == ROWS
    assert apart.read_text() == "row\n6,1,2,3,4\n7,2005,x\n"
    assert "2 ragged rows kept apart" in str(found.account)
    with pytest.raises(InputError, match="is there already"):
        read_source(path, wish(ragged=str(apart)))
    assert apart.read_text().count("\n") == 3


def test_group_values_are_filled_only_when_asked(tmp_path):
    rows = [("keeper_no", "keeper", "drum", "note")]
    rows += [
        ("K1", "Ada", "1", ""),
        ("", "", "2", "late"),
        ("", "", "3", ""),
        ("K2", "Milo", "4", ""),
        ("", "", "5", ""),
    ]
    path = written(tmp_path, "a.csv", text(rows))
    found = read_source(path)
    assert found.account.fillable == ("keeper_no", "keeper")
    assert found.relation.column("keeper").texts() == ["Ada", "", "", "Milo", ""]
    filled = read_source(path, wish(fill=("keeper_no", "keeper")))
    assert filled.relation.column("keeper").texts() == ["Ada", "Ada", "Ada", "Milo", "Milo"]
    assert filled.relation.column("note").texts() == ["", "late", "", "", ""]
    assert "keeper filled down in 3 rows" in str(filled.account)
    with pytest.raises(InputError, match="has no column depot to fill"):
        read_source(path, wish(fill=("depot",)))


def test_a_sparse_note_is_not_taken_for_a_group_value(tmp_path):
    rows = [("note", "drum"), ("late", "1"), ("", "2"), ("late", "3"), ("", "4"), ("", "5")]
    assert read_source(written(tmp_path, "a.csv", text(rows))).account.fillable == ()
