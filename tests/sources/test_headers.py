"""Headers as people write them: titles of two cells, units below, the header again, footnotes at the end."""

import pytest

from pravix.sources.layout import units_row
from pravix.sources.read import read_source
from pravix.sources.reading import Reading

HEADER = ["apiary", "forage", "gross", "moisture", "frames"]
ROWS = [
    [f"A{n % 7}", ("lime", "heather")[n % 2], f"{10 + n}.{n % 9}", f"{14 + n % 5}.{n % 3}", str(n % 9)]
    for n in range(40)
]


def read(tmp_path, lines):
    path = tmp_path / "sheet.csv"
    path.write_text("\n".join(",".join(line) for line in lines) + "\n", encoding="utf-8")
    source = read_source(str(path), Reading())
    return source.relation, str(source.account)


@pytest.mark.parametrize("blank", [[""], [""] * 5])
def test_a_title_of_two_cells_above_a_blank_line_is_no_part_of_the_header(tmp_path, blank):
    relation, told = read(tmp_path, [["Deliveries 2026", "Inver"], blank, HEADER, *ROWS])
    assert relation.names == tuple(HEADER)
    assert relation.row_count == 40
    assert "header in row 3" in told


def test_two_lines_of_merged_groups_are_one_header(tmp_path):
    lines = [["Where", "", "Measured", "", "Count"], ["apiary", "forage", "gross", "moisture", ""], *ROWS]
    relation, told = read(tmp_path, lines)
    assert relation.names == ("Where apiary", "Where forage", "Measured gross", "Measured moisture", "Count")
    assert "header in rows 1 and 2" in told


@pytest.mark.parametrize(
    ("units", "told"),
    [
        (["", "", "kg", "%", ""], "gross in kg and moisture in %"),
        (["", "", "(kg)", "[%]", "(no)"], "gross in (kg), moisture in [%] and frames in (no)"),
    ],
)
def test_a_line_of_units_is_no_row(tmp_path, units, told):
    relation, account = read(tmp_path, [HEADER, units, *ROWS])
    assert relation.row_count == 40
    assert relation.row_numbers[0] == 3
    assert f"row 2 has units and is no data: {told}" in account


def test_a_line_of_units_is_seen_in_a_long_file(tmp_path):
    relation, account = read(tmp_path, [HEADER, ["", "", "kg", "%", ""], *ROWS * 30])
    assert relation.row_count == 1200
    assert "has units" in account


@pytest.mark.parametrize("row", [["", "", "12", "%", ""], ["", "lime", "kg", "%", ""], ["", "", "", "", ""]])
def test_what_is_no_line_of_units(row):
    assert not units_row(row, ROWS)


def test_the_header_again_in_the_middle_is_no_row(tmp_path):
    relation, account = read(tmp_path, [HEADER, *ROWS[:15], HEADER, *ROWS[15:30], HEADER, *ROWS[30:]])
    assert relation.row_count == 40
    assert "2 repeated headers left out: 17, 33" in account
    long, _ = read(tmp_path, [HEADER, *ROWS * 40, HEADER, *ROWS])
    assert long.row_count == 41 * 40


def test_footnotes_below_the_table_are_left_out(tmp_path):
    rows = [list(row) for row in ROWS]
    rows[3][2] += "*"
    relation, account = read(tmp_path, [HEADER, *rows, ["* weighed twice"], ["1) by eye"]])
    assert relation.row_count == 40
    assert "2 notes below the table left out: 42, 43" in account
