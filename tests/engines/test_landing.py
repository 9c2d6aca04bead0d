"""Files that are landed in an embedded database: rows that cannot be read, its memory, how long it takes."""

import csv
import gzip
import re
from datetime import UTC, datetime, time, timedelta
from decimal import Decimal
from math import inf, nan

import pyarrow
import pytest
from large import NAMES, csv_text, deliveries
from pyarrow import parquet

from pravix.engines import landed, landing
from pravix.engines import place as place_module
from pravix.engines.landed import LandedPlace, _Landed
from pravix.engines.staying import read_anywhere
from pravix.errors import InputError
from pravix.processors import processors
from pravix.relation.types import Kind, column_type
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.temporary import temporary_folder

ALWAYS = 1 << 20
"""Memory in which nothing fits."""

WRONG = {
    "ragged": (b"D-1,2026-01-01\n", "row 120002 has 2 fields where the header has 3"),
    "wide": (b"D-1,depot,kg 3,4\n", "row 120002 has 4 fields where the header has 3"),
    "quoted": (b'D-1,"North" depot,kg 3\n', "row 120002 has a quote that is never closed"),
    "long": (b"D-1,depot," + b"kg" * 1_500_000 + b"\n", "row 120002 is longer than 2 MB"),
    "western": (b"D-1,M\xfchle,kg 3\n", "row 120002 is not in UTF-8"),
}


@pytest.mark.parametrize("wrong", WRONG)
def test_a_row_that_cannot_be_read_is_named_wherever_it_stands(wrong, tmp_path):
    line, told = WRONG[wrong]
    rows = b"".join(b"D-%06d,depot %d,kg %d\n" % (n, n % 7, n % 13) for n in range(120_000))
    path = tmp_path / "flat.csv"
    path.write_bytes(b"delivery,depot,weight\n" + rows + line + rows)
    with pytest.raises(InputError) as refused:
        read_anywhere(str(path), Reading(memory=ALWAYS))
    assert str(refused.value).startswith(f"flat.csv: {told}")
    assert refused.value.hint


@pytest.mark.parametrize("end", ["\n", "\r\n"])
@pytest.mark.parametrize("packed", [False, True])
def test_lines_may_end_as_on_windows(end, packed, tmp_path):
    rows = deliveries(3_000)
    data = csv_text(rows).replace("\n", end).encode()
    path = tmp_path / ("flat.csv.gz" if packed else "flat.csv")
    path.write_bytes(gzip.compress(data) if packed else data)
    found = read_anywhere(str(path), Reading(memory=ALWAYS))
    assert found.flat.row_count == 3_000
    wanted = dict(enumerate(map(tuple, rows), 2))
    assert {
        int(n): row for n, row in zip(found.relation.row_numbers, found.relation.rows(), strict=True)
    } == {int(n): wanted[int(n)] for n in found.relation.row_numbers}
    found.flat.place.close()


def test_wide_characters_are_landed_one_way_round_and_refused_the_other(tmp_path):
    rows = [[*row[:4], "Dörf 😀", *row[5:]] for row in deliveries(6_000)]
    text = csv_text(rows).replace("\n", "\r\n")
    path = tmp_path / "flat.csv"
    path.write_bytes(b"\xff\xfe" + text.encode("utf-16-le"))
    found = read_anywhere(str(path), Reading(memory=ALWAYS))
    assert found.flat.row_count == 6_000
    assert set(found.relation.column("village").texts()) == {"Dörf 😀"}
    found.flat.place.close()
    path.write_bytes(b"\xfe\xff" + text.encode("utf-16-be"))
    with pytest.raises(InputError, match="in UTF-16, and does not fit into memory"):
        read_anywhere(str(path), Reading(memory=ALWAYS))


def test_lines_that_end_in_two_ways_are_refused(tmp_path):
    lines = csv_text(deliveries(6_000)).splitlines()
    path = tmp_path / "flat.csv"
    path.write_bytes("".join(line + ("\r\n" if n > 5_000 else "\n") for n, line in enumerate(lines)).encode())
    with pytest.raises(InputError, match="its lines end in different ways"):
        read_anywhere(str(path), Reading(memory=ALWAYS))


@pytest.mark.parametrize("end", ["\n", "\r\n"])
@pytest.mark.parametrize(("blank", "at_end"), [(0, 0), (0, 3), (1, 1), (2, 0), (2, 2)])
def test_blank_lines_after_which_rows_are_numbered_otherwise_are_told(blank, at_end, end, tmp_path):
    lines = csv_text(deliveries(3_000)).splitlines()
    lines[2_500:2_500] = [""] * blank
    path = tmp_path / "flat.csv"
    path.write_bytes((end.join(lines) + end * at_end).encode())
    found = read_anywhere(str(path), Reading(memory=ALWAYS))
    told = {0: None, 1: "1 blank line left out; rows are numbered without it", 2: "2 blank lines left out"}
    assert ("blank" in str(found.account)) == bool(blank)
    assert not blank or told[blank] in str(found.account)
    assert found.flat.row_count == 3_000
    found.flat.place.close()


START = datetime(2026, 1, 1)
HOURS = [START + timedelta(hours=n) for n in range(2_000)]
VALUES = {
    "moments": (pyarrow.timestamp("s"), HOURS),
    "parts of seconds": (pyarrow.timestamp("us"), [one + timedelta(microseconds=500 * (one.hour % 3)) for one in HOURS]),
    "billionths": (pyarrow.timestamp("ns"), [n * 3_600_000_000_007 for n in range(2_000)]),
    "zoned": (pyarrow.timestamp("us", "Europe/Berlin"), [one.replace(tzinfo=UTC) for one in HOURS]),
    "days": (pyarrow.date32(), [one.date() for one in HOURS]),
    "times": (pyarrow.time64("us"), [time(n % 24, n % 60, 0, (n % 3) * 250_000) for n in range(2_000)]),
    "doubles": (pyarrow.float64(), [n / 7 * 10.0 ** (n % 50 - 25) for n in range(2_000)]),
    "doubles and none": (pyarrow.float64(), [n / 3 if n % 50 else nan for n in range(2_000)]),
    "whole doubles": (pyarrow.float64(), [float(n % 60) for n in range(2_000)]),
    "odd doubles": (pyarrow.float64(), [(nan, inf, -inf, -0.0, 1e300, -5e-324, 0.1 + 0.2)[n % 7] for n in range(2_000)]),
    "floats": (pyarrow.float32(), [n / 7 for n in range(2_000)]),
    "decimals": (pyarrow.decimal128(30, 3), [Decimal(n) / 8 for n in range(2_000)]),
    "great numbers": (pyarrow.uint64(), [(1 << 63) + n for n in range(2_000)]),
    "bytes": (pyarrow.binary(), [bytes([n % 256]) for n in range(2_000)]),
    "flags": (pyarrow.bool_(), [(True, False, None)[n % 3] for n in range(2_000)]),
    "coded": (pyarrow.dictionary(pyarrow.int8(), pyarrow.string()), [f" a{n % 9} " for n in range(2_000)]),
    "nothing": (pyarrow.null(), [None] * 2_000),
}  # fmt: skip


@pytest.mark.parametrize("kind", VALUES)
def test_values_of_parquet_are_the_same_texts_in_memory_and_landed(kind, tmp_path):
    form, values = VALUES[kind]
    path = str(tmp_path / "flat.parquet")
    cells = pyarrow.array(values, form)
    parquet.write_table(pyarrow.table({"no": range(2_000), "value": cells}), path)
    landed = read_anywhere(path, Reading(memory=1))
    landed.flat.place.close()
    assert sorted(landed.relation.rows()) == sorted(read_source(path).relation.rows())


@pytest.mark.parametrize("memory", [None, 1])
def test_numbers_and_moments_of_parquet_come_with_all_that_is_sure(memory, tmp_path):
    path = str(tmp_path / "flat.parquet")
    hours = [START + timedelta(hours=n) for n in range(2_000)]
    table = pyarrow.table({
        "delivery": range(2_000),
        "kg": [(0.1 + 0.2, 12.0, 123456789.012345)[n % 3] for n in range(2_000)],
        "share": [n / 7 for n in range(2_000)],
        "at": hours,
        "day": [START + timedelta(days=n % 300) for n in range(2_000)],
        "checked": [one + timedelta(microseconds=1) for one in hours],
    })  # fmt: skip
    parquet.write_table(table, path)
    found = read_anywhere(path, Reading(memory=memory))
    rows = {row[0]: row[1:] for row in found.relation.rows()}
    assert rows["0"] == ("0.3", "0", "2026-01-01 00:00:00", "2026-01-01", "2026-01-01 00:00:00.000001")
    assert rows["2"][:2] == ("123456789.012345", "0.285714285714286")
    assert "numbers of kg and share are told with the digits that they are sure of" in str(found.account)
    kinds = [column_type(column).kind for column in found.relation.columns]
    assert kinds == [Kind.INTEGER, Kind.DECIMAL, Kind.DECIMAL, Kind.MOMENT, Kind.DATE, Kind.MOMENT]
    if memory:
        found.flat.place.close()


def test_durations_are_refused_outside_memory(tmp_path):
    path = str(tmp_path / "flat.parquet")
    waits = pyarrow.array([timedelta(seconds=n) for n in range(2_000)])
    parquet.write_table(pyarrow.table({"no": range(2_000), "wait": waits}), path)
    with pytest.raises(InputError, match="column wait holds durations"):
        read_anywhere(path, Reading(memory=1))


@pytest.mark.parametrize("quoted", [False, True])
def test_headers_and_blank_rows_among_the_data_are_left_out_and_told(quoted, tmp_path):
    header, *lines = csv_text(deliveries(3_000)).splitlines()
    if quoted:
        lines[0] = ",".join(f'"{cell}"' for cell in lines[0].split(","))
    lines[1_500:1_500] = [header, "," * (len(NAMES) - 1), header]
    path = tmp_path / "flat.csv"
    path.write_text("\n".join([header, *lines]), encoding="utf-8")
    found = read_anywhere(str(path), Reading(memory=ALWAYS))
    assert "2 repeated headers left out; rows are numbered without them" in str(found.account)
    assert "1 blank line left out; rows are numbered without it" in str(found.account)
    assert sorted(found.relation.rows()) == sorted(read_source(str(path)).relation.rows())
    found.flat.place.close()


@pytest.fixture(params=["sure of them", "not sure"])
def few_looked_at(request, monkeypatch):
    """Let the texts of a landed file be those of one line in twenty, however small it is."""
    monkeypatch.setattr(landing, "_WHOLE", 0)
    monkeypatch.setattr(landing, "_FEWEST", 20)
    if request.param == "not sure":
        monkeypatch.setattr(landing, "_MISSED", 0)


def kinds_of_columns(found):
    return [str(row[1]).split("(")[0] for row in found.flat.place.run("DESCRIBE flat")]


def all_landed(path, **more):
    """Return the account of a landed file and all its rows by number, as the database has them."""
    found = read_anywhere(str(path), Reading(memory=1, **more))
    rows = found.flat.place.run("SELECT rowid, * FROM flat ORDER BY rowid")
    told = (
        str(found.account),
        {int(n) + 2: tuple(map(str, cells)) for n, *cells in rows},
        kinds_of_columns(found),
    )
    found.flat.place.close()
    return told


LATE = [f"D-{n:05},depot {n % 7},{n % 13}.5,ok" for n in range(9_000)]
SURPRISES = {
    "nothing": {},
    "a value": {8_990: "D-08990,depot X,1.5,ok", 8_991: "D-08991,depot Y,1.5,late"},
    "a blank": {8_000: "D-08000,,1.5,ok"},
    "spaces": {8_990: "D-08990, depot 1 ,1.5,ok"},
    "spaces where all differ": {8_990: " D-08990,depot 1,1.5,ok"},
    "only spaces": {8_990: "D-08990,  ,1.5,ok"},
    "a header": {7_000: "delivery,depot,kg,remark"},
    "a blank row": {7_000: " ,,,", 7_001: "\u00a0,\t,,"},
    "a cell of two lines": {8_990: 'D-08990,"depot\n1",1.5,ok', 7: 'D-00007,"depot ""N""",1.5,ok'},
    "all at once": {
        11: " D-00011,depot Z,1.5,ok",
        7_000: "delivery,depot,kg,remark",
        7_001: ",,,",
        8_990: 'D-08990,"depot\n1",1.5,"late, very"',
    },
}


@pytest.mark.parametrize(("end", "keep_spaces"), [("\n", False), ("\r\n", True)])
@pytest.mark.parametrize("surprise", SURPRISES)
def test_what_the_lines_looked_at_do_not_show_is_landed_as_well(
    surprise, end, keep_spaces, few_looked_at, tmp_path
):
    lines = [SURPRISES[surprise].get(n, line) for n, line in enumerate(LATE)]
    path = tmp_path / "flat.csv"
    path.write_text("\n".join(["delivery,depot,kg,remark", *lines, ""]), encoding="utf-8", newline=end)
    account, rows, kinds = all_landed(path, keep_spaces=keep_spaces)
    wanted = read_source(str(path), Reading(keep_spaces=keep_spaces))
    assert list(rows.values()) == list(wanted.relation.rows())
    assert list(rows) == list(range(2, len(rows) + 2))
    assert kinds == ["VARCHAR", "ENUM", "ENUM", "ENUM"]
    removed = "outer spaces removed"
    assert (removed in account) == (removed in str(wanted.account))
    assert ("repeated header left out" in account) == (surprise in ("a header", "all at once"))


@pytest.mark.parametrize("late", ["7,5", "x"])
def test_decimal_commas_are_those_of_all_rows(late, few_looked_at, tmp_path):
    lines = [f"D-{n:05};depot {n % 7};{n % 13},5" for n in range(9_000)]
    lines[8_990] = f"D-08990;depot 1;{late}"
    path = tmp_path / "flat.csv"
    path.write_text("\n".join(["delivery;depot;kg", *lines]), encoding="utf-8")
    account, rows, _ = all_landed(path)
    wanted = read_source(str(path))
    assert list(rows.values()) == list(wanted.relation.rows())
    told = "decimal commas read as points in kg"
    assert (told in account) == (told in str(wanted.account)) == (late == "7,5")


def test_a_column_of_more_texts_than_are_listed_is_one_of_texts(few_looked_at, monkeypatch, tmp_path):
    lines = [f"D-{n:05},depot {n % 7},kg {n % 13}" for n in range(4_000)]
    lines[3_000:3_100] = [f"D-{n:05},depot {n},kg 1" for n in range(3_000, 3_100)]
    path = tmp_path / "flat.csv"
    path.write_text("\n".join(["delivery,depot,kg", *lines]), encoding="utf-8")
    monkeypatch.setattr(landing, "_MOST_LISTED", 50)
    _, rows, kinds = all_landed(path)
    assert kinds == ["VARCHAR", "VARCHAR", "ENUM"]
    assert list(rows.values()) == list(read_source(str(path)).relation.rows())


def test_columns_of_which_more_texts_are_expected_are_listed_when_all_are_there(
    few_looked_at, monkeypatch, tmp_path
):
    """What is not in an enumeration costs DuckDB a complaint as long as that: it is not tried often."""
    lines = [f"D-{n:05},depot {n * n % 7_919 % 211},kg {n % 13}" for n in range(9_000)]
    path = tmp_path / "flat.csv"
    path.write_text("\n".join(["delivery,depot,kg", *lines]), encoding="utf-8")
    queries, run = [], LandedPlace.run
    monkeypatch.setattr(LandedPlace, "run", lambda place, sql: queries.append(sql) or run(place, sql))
    monkeypatch.setattr(landing, "_MOST_UNSEEN", 0.5)
    monkeypatch.setattr(landing, "_MISSED", min(landing._MISSED, 100_000))
    _, rows, kinds = all_landed(path)
    assert kinds == ["VARCHAR", "ENUM", "ENUM"]
    assert list(rows.values()) == list(read_source(str(path)).relation.rows())
    assert not [sql for sql in queries if 'TRY_CAST("c1"' in sql]


@pytest.mark.parametrize("form", ["packed", "parquet"])
def test_rows_are_drawn_where_lines_cannot_be_looked_at(form, few_looked_at, tmp_path):
    rows = [tuple(line.split(",")) for line in LATE]
    rows[8_990] = ("D-08990", "depot X", "1.5", "late")
    path = tmp_path / {"packed": "flat.csv.gz", "parquet": "flat.parquet"}[form]
    names = ["delivery", "depot", "kg", "remark"]
    lines = [",".join(row) for row in (names, *rows)]
    if form == "parquet":
        parquet.write_table(pyarrow.table(dict(zip(names, zip(*rows, strict=True), strict=True))), path)
    else:
        path.write_bytes(gzip.compress("\n".join(lines).encode()))
    _, landed_rows, kinds = all_landed(path)
    assert list(landed_rows.values()) == rows
    assert kinds == ["VARCHAR", "ENUM", "ENUM", "ENUM"]


def test_a_table_of_many_columns_is_filled_by_all_processors_and_the_memory_given_back():
    place = LandedPlace("flat.csv", temporary_folder(), 2 << 30)
    given = "SELECT value FROM duckdb_settings() WHERE name = 'memory_limit'"
    try:
        with place.room_for(200):
            ((during,),) = place.run(given)
        ((after,),) = place.run(given)
        assert (during, after) == ("1.0 GiB", "256.0 MiB")
    finally:
        place.close()


@pytest.mark.parametrize(
    ("program", "coming", "limit"),
    [
        (0, 0, "256.0 MiB"),
        (180, 0, "256.0 MiB"),
        (300, 0, "148.0 MiB"),
        (250, 50, "148.0 MiB"),
        (900, 0, "128.0 MiB"),
    ],
)
def test_the_database_does_with_less_memory_where_the_program_takes_much(monkeypatch, program, coming, limit):
    monkeypatch.setattr(landed, "resident_bytes", lambda: program << 20)
    place = LandedPlace("flat.csv", temporary_folder(), 2 << 30)
    given = "SELECT value FROM duckdb_settings() WHERE name = 'memory_limit'"
    try:
        place.yield_memory(coming << 20)
        assert place.run(given) == [(limit,)]
        with place.room_for(200):
            assert place.run(given) == [("1.0 GiB",)]
        assert place.run(given) == [(limit,)]
    finally:
        place.close()


def test_a_statement_that_wants_more_memory_gets_up_to_half_and_one_that_fails_ends_no_other():
    place = LandedPlace("flat.csv", temporary_folder(), 2 << 30)
    texts = "SELECT len(list(DISTINCT repeat('x', 1000) || i)) FROM range({}) t(i)"
    given = "SELECT value FROM duckdb_settings() WHERE name = 'memory_limit'"
    try:
        place.run("CREATE TABLE kept AS SELECT 7 AS kg")
        ((before,),) = place.run(given)
        assert place.run(texts.format(400_000)) == [(400_000,)]
        ((after,),) = place.run(given)
        assert (before, after) == ("256.0 MiB", "1.0 GiB")
        with pytest.raises(InputError, match="Out of Memory"):
            place.run(texts.format(3_000_000))
        assert place.run("SELECT kg FROM kept") == [(7,)]
    finally:
        place.close()


@pytest.mark.parametrize("columns", [4, 15, 90])
def test_groups_have_a_place_each_where_all_of_them_take_little(columns, tmp_path):
    """The memory of these places is not part of what DuckDB holds itself to."""
    path = tmp_path / "flat.csv"
    rows = [",".join(f"honey {n % 50} {place}" for place in range(columns)) for n in range(2_000)]
    path.write_text("\n".join([",".join(f"column {place}" for place in range(columns)), *rows]))
    flat = read_anywhere(str(path), Reading(memory=1)).flat
    try:
        asked = "SELECT value FROM duckdb_settings() WHERE name = 'perfect_ht_threshold'"
        ((bits,),) = flat.place.run(asked)
        bytes_a_place = processors() * columns * 32
        assert 2 ** int(bits) * bytes_a_place <= 64 << 20 < 2 ** (int(bits) + 1) * bytes_a_place
        assert flat.summary(["column 0"], ["column 1", f"column {columns - 1}"]).groups == 50
    finally:
        flat.place.close()


def test_what_cannot_be_read_outside_memory_is_told(tmp_path):
    path = tmp_path / "titled.csv"
    path.write_text("Deliveries of 2026\n\n" + csv_text(deliveries(3_000)), encoding="utf-8")
    with pytest.raises(InputError, match="needs to be read with care, and does not fit into memory"):
        read_anywhere(str(path), Reading(memory=ALWAYS))
    with pytest.raises(InputError, match="holds no Parquet files"):
        read_anywhere(str(tmp_path), Reading(memory=ALWAYS))


def test_what_is_only_seen_at_the_end_or_by_hand_is_not_passed_over(tmp_path):
    path = tmp_path / "summed.csv"
    total = "Total" + "," * (len(NAMES) - 2) + "123456.7,"
    path.write_text(csv_text(deliveries(6_000)) + total + "\n", encoding="utf-8")
    with pytest.raises(InputError, match="needs to be read with care"):
        read_anywhere(str(path), Reading(memory=ALWAYS))
    plainly = tmp_path / "plain.csv"
    plainly.write_text(csv_text(deliveries(6_000)), encoding="utf-8")
    with pytest.raises(InputError, match="a patch is applied there only"):
        read_anywhere(str(plainly), Reading(memory=ALWAYS, patch="patch.csv"))


@pytest.mark.parametrize("mark", [",", ";"])
@pytest.mark.parametrize("end", ["", "Total"])
def test_rows_of_many_bytes_are_read_outside_memory_as_in_memory(mark, end, tmp_path):
    """One row is longer than the end that is looked at first, and sixty are longer than the beginning."""
    path = tmp_path / "wide.csv"
    names = [f"month {place} kg" for place in range(30)]
    rows = [
        [f"D-{n:04}", *(f'{n * place % 97} kg of "lime" {mark}' * 25 for place in range(29))]
        for n in range(90)
    ]
    rows += [["Total", *[""] * 28, "1234.5"]] if end else []
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file, delimiter=mark).writerows([names, *rows])
    if end:
        with pytest.raises(InputError, match="needs to be read with care"):
            read_anywhere(str(path), Reading(memory=1))
        assert read_source(str(path)).relation.row_count == 90
        return
    _, landed_rows, _ = all_landed(path)
    assert list(landed_rows.values()) == list(map(tuple, rows))
    assert list(read_source(str(path)).relation.rows()) == list(map(tuple, rows))


def test_what_takes_long_is_told_with_the_time_that_is_left(tmp_path, monkeypatch):
    path = tmp_path / "flat.csv"
    path.write_text(csv_text(deliveries(3_000)), encoding="utf-8")
    told = []
    read_anywhere(str(path), Reading(memory=1), lambda doing, done: told.append(doing)).flat.place.close()
    assert told[0] == "looking through flat.csv"
    assert told[-1] == "putting flat.csv into a database for a while"
    monkeypatch.setattr(place_module, "_WAIT", 0.0001)
    monkeypatch.setattr(_Landed, "done", lambda self: 25.0)
    told.clear()
    read_anywhere(str(path), Reading(memory=1), lambda doing, done: told.append(doing)).flat.place.close()
    assert any(re.fullmatch(r"looking through flat.csv: 25 %, about \d+ s left", one) for one in told)
