"""A folder is read in parts: whatever its rows are, the claims are those of one that is read at once."""

import csv
import random

import numpy as np
import pytest
from folders import folder_of
from hypothesis import given
from hypothesis import strategies as st
from proofs import in_parts

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.proof import held, in_sqlite, table_check
from pravix.proof.files import flat_rows
from pravix.proof.proving import prove_folder
from pravix.proof.repeats import Repeats
from pravix.proof.table_rows import texts
from pravix.relation.relation import Relation
from pravix.relation.types import Kind, comparable

NAMES = ["delivery", "keeper", "village", "honeys", "remark"]


def sheet():
    """Deliveries with a list in a cell, and remarks of several lines; the same every time."""
    chance, lines = random.Random(4), []
    for n in range(90):
        keeper = chance.randrange(12)
        honeys = "; ".join(chance.sample(["clover", "heather", "linden", "rape"], chance.randrange(1, 4)))
        remark = ["", "late\nand wet", 'a "dark" one, thick'][n % 3]
        lines.append([f"D{n}", f"K{keeper}", f"V{keeper % 5}", honeys, f"{remark}{n}"])
    return Relation.from_rows(NAMES, lines)


def made(path, tables_as):
    accepted = ["delivery -> keeper, honeys, remark", "keeper -> village"]
    return folder_of(sheet(), path, [Answer("list: honeys", "split", "")], accepted, tables_as=tables_as)


@pytest.fixture(params=["csv", "parquet"])
def folder(request, tmp_path):
    return made(tmp_path / "made", request.param)


@pytest.fixture
def in_csv(tmp_path):
    return made(tmp_path / "made", "csv")


@pytest.mark.parametrize("tables_as", ["csv", "parquet"])
def test_a_letter_beyond_ascii_in_one_row_loses_no_other(tmp_path, monkeypatch, tables_as):
    lines = [[f"D{n}", f"V{n % 5}" if n else "Åby", "" if n % 3 else "dark"] for n in range(90)]
    places = [[*line, {"Åby": "Nørre"}.get(line[1], f"T{line[1]}")] for line in lines]
    sheet = Relation.from_rows(["delivery", "village", "remark", "district"], places)
    rules = ["delivery -> village, remark, district", "village -> district"]
    folder = folder_of(sheet, tmp_path / "made", [], rules, tables_as=tables_as)
    in_parts(monkeypatch)
    assert all(holds for holds, _ in prove_folder(folder.path))


def change(file, number, column, cell):
    """Change a cell of a row of a CSV file, counted from 0."""
    with file.open(encoding="utf-8", newline="") as opened:
        header, *rows = csv.reader(opened)
    rows[number][header.index(column)] = cell
    with file.open("w", encoding="utf-8", newline="") as opened:
        csv.writer(opened, lineterminator="\n").writerows([header, *rows])
    return rows


def file_of(folder, column, key):
    """Return the file of the table that a column stands in, and that a key identifies."""
    found = (one for one in folder.tables if column in one.column_names and key in one.primary_key)
    return folder.path / next(found).file


def failing(folder):
    return [told for holds, told in prove_folder(folder.path) if not holds]


def test_what_is_claimed_is_what_is_claimed_of_all_rows_at_once(folder, monkeypatch):
    whole = prove_folder(folder.path)
    assert all(holds for holds, _ in whole)
    assert len(folder.tables) >= 3
    in_parts(monkeypatch)
    assert prove_folder(folder.path) == whole


def test_rows_come_back_as_they_were(folder, monkeypatch):
    in_parts(monkeypatch)
    batches = list(flat_rows(folder))
    assert len(batches) > 3
    given = [row for one in batches for row in zip(*(one[name].to_pylist() for name in NAMES), strict=True)]
    assert sorted(given) == sorted(sheet().rows())


@pytest.mark.parametrize("parts", [False, True])
def test_a_line_is_told_though_cells_before_it_have_several(parts, tmp_path, monkeypatch):
    lines = [[f"D{n}", ["late\nand wet", "dry"][n % 2], f"{n}"] for n in range(40)]
    folder = folder_of(Relation.from_rows(["delivery", "remark", "kg"], lines), tmp_path / "made")
    if parts:
        in_parts(monkeypatch)
    (table,) = folder.tables
    file = folder.path / table.file
    rows = change(file, 30, "kg", "heavy")
    before = sum(2 if "\n" in row[table.column_names.index("remark")] else 1 for row in rows[:30])
    assert any(f"line {before + 2}: heavy cannot stand in kg" in told for told in failing(folder))
    change(file, 30, "kg", "30")
    change(file, 31, "delivery", "D3")
    at = sum(2 if "\n" in row[table.column_names.index("remark")] else 1 for row in rows[:3]) + 2
    wanted = f"line {before + 2 + (1 if chr(10) in rows[30][1] else 0) + 1}: delivery D3 stands in line {at} already"
    assert any(wanted in told for told in failing(folder)), (wanted, failing(folder))


def test_rows_of_another_width_are_told_and_all_others_are_read(tmp_path, monkeypatch):
    lines = [[f"D{n}", f"K{n % 7}", f"{n}.5"] for n in range(60)]
    folder = folder_of(Relation.from_rows(["delivery", "keeper", "kg"], lines), tmp_path / "made")
    in_parts(monkeypatch)
    (table,) = folder.tables
    file = folder.path / table.file
    text = file.read_text(encoding="utf-8").splitlines(keepends=True)
    text[50] = text[50].replace("\n", ",more\n")
    file.write_text("".join(text), encoding="utf-8")
    told = " ".join(failing(folder))
    assert f"{table.file}, line 51: 4 cells where the table has 3 columns" in told
    assert "holds 59 rows, not 60" in told
    assert "The tables join to 59 rows, but the file had 60" in told


def test_what_refers_to_rows_that_are_not_held_is_found_or_told(in_csv, monkeypatch):
    in_parts(monkeypatch)
    child = next(one for one in in_csv.tables if one.part_of or one.name not in ("delivery", "keeper"))
    change(in_csv.path / child.file, 5, "delivery", "D999")
    assert any("D999 is no delivery of delivery" in told for told in failing(in_csv))
    with pytest.raises(InputError, match=r"cannot be used: .*D999 is no delivery"):
        list(flat_rows(in_csv))


def test_cells_of_one_hash_are_told_apart(folder, monkeypatch):
    """Every row has the same hash: nothing is taken for equal by it, and nothing is missed."""
    whole = prove_folder(folder.path)
    for module in (held, table_check):
        monkeypatch.setattr(module, "key_hashes", lambda cells: np.zeros(len(cells[0]), np.uint64))
    assert prove_folder(folder.path) == whole
    in_parts(monkeypatch)
    assert prove_folder(folder.path) == whole


@pytest.mark.parametrize("most", [4, 64, 4_000])
def test_hashes_that_come_again_are_found_in_memory_and_in_a_file(most, monkeypatch):
    monkeypatch.setattr("pravix.proof.repeats._AT_ONCE", most)
    chance = np.random.default_rng(1)
    hashes = chance.integers(0, 2**64, 1_000, dtype=np.uint64)
    hashes[[10, 500, 999]] = hashes[[700, 20, 20]]
    repeats = Repeats()
    for start in range(0, 1_000, 50):
        repeats.add(hashes[start : start + 50])
    assert set(repeats.found().tolist()) == set(hashes[[700, 20]].tolist())
    assert Repeats().found().tolist() == []


def test_more_rows_than_fit_are_not_tried_in_sqlite_and_that_is_said(folder, monkeypatch):
    monkeypatch.setattr(in_sqlite, "_MOST_ROWS", 50)
    (told,) = (told for _, told in prove_folder(folder.path) if "SQLite" in told)
    assert told.startswith("Not tried in SQLite: ")
    assert "pravix load" in told


@given(st.lists(st.from_regex(r"-?[0-9]{0,3}[.]?[0-9]{0,3}", fullmatch=True) | st.text(max_size=4)))
def test_columns_are_compared_as_their_cells_are(cells):
    cells = [cell.encode("utf-8", "replace").decode() for cell in cells]
    for kind in (Kind.INTEGER, Kind.DECIMAL, Kind.TEXT):
        wanted = [comparable(cell, kind.numeric) for cell in cells]
        assert held.compared(texts(cells), kind).to_pylist() == wanted


def test_a_position_that_is_none_is_told(in_csv):
    child = next(one for one in in_csv.tables if one.name not in ("delivery", "keeper"))
    (position,) = (name for name in child.column_names if name not in ("delivery", "honeys", "honey"))
    change(in_csv.path / child.file, 5, position, "9" * 30)
    assert any(f"cannot stand in {position}" in told for told in failing(in_csv))
