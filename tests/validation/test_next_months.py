"""A second month, whatever it says: what is good of it comes back from the database as it was in the file."""

import re
from collections import Counter
from dataclasses import replace
from decimal import Decimal, InvalidOperation
from pathlib import Path
from random import Random

import pytest
from databases import MARIADB, POSTGRES, new_database
from flat_tables import database_of, executed, put
from whole_designs import _wanted
from whole_sheets import sheet

import pravix.demo
from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.first_normal_form.findings import findings
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.load import load_folder
from pravix.services.checking import check_file
from pravix.sources.reading import Reading
from pravix.sql.view import view_name
from pravix.validation.finding import About

POLICIES = [{}, {"surrogates": "always"}, {"surrogates": "always", "numbering": "shared"}]
ODD = [
    *(lambda cell: f"{cell} x", str.lower, str.upper, lambda cell: cell.replace("; ", ";")),
    *(lambda cell: f"0{cell}", lambda cell: f"{cell}.0", lambda cell: f"-{cell}", lambda cell: cell[:-1]),
    *(lambda cell: f"{cell}'", lambda cell: cell * 2, lambda cell: cell.replace("-", "/"), lambda _: "1e3"),
    *(lambda _: "99999999999999999999", lambda _: "%s%%", lambda _: "a\\b", lambda _: '"q"', lambda _: ""),
]
"""What becomes of a cell."""


def made(tmp_path, names, rows, policies=None):
    """Decompose rows, all that is found in them repaired; return the folder and the rows as they were read."""
    written(tmp_path / "first.csv", names, rows)
    found = Analysis(str(tmp_path / "first.csv"), policies=policies or {})
    answers = _wanted(findings(found.source.relation))
    found = found.with_ledger(replace(found.ledger, answers=tuple(answers.values())))
    write_design(found.design, str(tmp_path / "out"))
    return open_folder(tmp_path / "out"), list(found.source.relation.rows())


def written(path, names, rows):
    """Write rows into a file, every cell in quotes; return its path."""
    lines = (",".join('"' + cell.replace('"', '""') + '"' for cell in row) for row in [names, *rows])
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return str(path)


def plain(cell):
    """Return a cell as it is compared: numbers by their value, lists with their items evened."""
    text = "" if cell is None else str(cell)
    try:
        number = Decimal(text)
    except InvalidOperation:
        return re.sub(r"\s*([;,])\s*", r"\1", text).strip(";,")
    return str(number.normalize() + 0) if number.is_finite() else text


def counted(rows):
    return Counter(tuple(map(plain, row)) for row in rows)


def months(seed, source):
    """Return the columns of a sheet, and its rows in two parts; in the second many cells are odd."""
    chance = Random(seed)
    read = Analysis(source).source.relation
    rows = list(read.rows())
    first, second = rows[: len(rows) * 2 // 3], [list(row) for row in rows[len(rows) * 2 // 3 :]]
    for row in second:
        place = chance.randrange(len(row))
        if chance.random() < 0.3:
            row[place] = chance.choice(rows)[place]
        elif chance.random() < 0.4:
            row[place] = chance.choice(ODD)(row[place])
    return read.names, first, [*second, *chance.sample(first, 4)], chance.choice(POLICIES)


def is_given_back(url, tmp_path, seed, source=None):
    if source is None:
        source = tmp_path / "sheet.csv"
        source.write_text(sheet(seed).text, encoding="utf-8")
    names, first, second, policies = months(seed, str(source))
    folder, read = made(tmp_path, names, first, policies)
    load_folder(folder, url)
    file = written(tmp_path / "second.csv", names, second)
    done = check_file(folder, file, url=url).checked
    kind = database(url.partition(":")[0])
    view = kind.quoted(view_name(folder.fitted(kind).design))
    there = counted(executed(url, (f"SELECT * FROM {view}",)))
    assert there == counted(read) + counted(row.cells for row in done.good), seed
    assert not [one.told for one in done.violations if one.about is About.REFUSED], seed
    assert len(done.good)
    assert len(done.bad)
    again = check_file(folder, file, url=url).checked
    assert not again.good
    assert not any(again.added.values())


@pytest.mark.parametrize("seed", range(6100, 6104))
def test_of_any_second_month_what_is_good_is_given_back(seed, tmp_path):
    with database_of("sqlite", tmp_path) as url:
        is_given_back(url, tmp_path, seed)


@pytest.mark.parametrize("seed", range(2))
def test_of_any_second_month_of_a_rough_sheet_what_is_good_is_given_back(seed, tmp_path):
    with database_of("sqlite", tmp_path) as url:
        is_given_back(url, tmp_path, seed, Path(pravix.demo.__file__).with_name("deliveries_rough.csv"))


@pytest.mark.parametrize(
    ("server", "seed"), [(POSTGRES, 6109), (MARIADB, 6127)], ids=["postgresql", "mariadb"]
)
def test_of_any_second_month_what_is_good_is_given_back_by_a_server(server, seed, tmp_path):
    with new_database(server) as url:
        is_given_back(url, tmp_path, seed)


NAMES = ["line_no", "drum_no", "kg", "price", "amount"]


def sold(numbers):
    return [
        [str(n), f"D-{n % 9}", str(n % 9 + 20), f"{n % 7 + 3}.5", f"{(n % 7 + 3.5) * (n % 9 + 20):.1f}"]
        for n in numbers
    ]


@pytest.fixture
def computed(tmp_path):
    folder, _ = made(tmp_path, NAMES, sold(range(1, 61)))
    assert [str(entry) for entry in folder.design.rebuild] == ["kg * price"]
    return folder


def wrong_amounts():
    new = sold(range(101, 107))
    new[1][4], new[3][4], new[4][4] = "1.0", "", "1.0"
    new[4][2] = "many"
    return new


def test_a_cell_that_is_other_than_computed_keeps_its_row_out(computed, tmp_path):
    done = check_file(computed, written(tmp_path / "new.csv", NAMES, wrong_amounts())).checked
    told = [one.told for one in done.violations if one.about is About.COMPUTED]
    assert told == [
        "amount is 1, but 172.5 as kg * price (row 3)",
        "amount is blank, but 237.5 as kg * price (row 5)",
    ]
    assert [row.number for row in done.good] == [2, 4, 7]


def test_outside_memory_they_are_counted(computed, tmp_path):
    new = [row for row in wrong_amounts() if row[2] != "many"]
    with database_of("duckdb", tmp_path) as url:
        load_folder(computed, url)
        table = put(url, NAMES, [[cell or None for cell in row] for row in new], "new rows")
        done = check_file(computed, url, Reading(table=table, memory=1)).checked
        assert [one.told for one in done.violations] == ["amount is not kg * price in 2 rows"]
        assert not done.unseen
        table = put(url, NAMES, [*new[:1], ["7000", *new[0][1:4], "much"]], "odd rows")
        done = check_file(computed, url, Reading(table=table, memory=1)).checked
        assert [one.told for one in done.violations] == ["amount is not kg * price in 1 row"]


def test_a_list_that_is_blank_now_is_told(tmp_path):
    names = ["drum_no", "apiary_no", "forage"]
    plants = ["clover", "heather", "lime", "fir", "sage", "willow"]
    forage = ["; ".join(plants[n % 6 : n % 6 + n % 4]) for n in range(20)]
    rows = [[f"D-{n}", f"A-{n % 20}", forage[n % 20]] for n in range(200)]
    folder, _ = made(tmp_path, names, rows)
    assert [child.of for child in folder.design.made_parts] == ["forage"]
    new = [["D-290", "A-2", ""], ["D-291", "A-4", ""], ["D-292", "A-99", ""], ["D-293", "A-1", "heather"]]
    done = check_file(folder, written(tmp_path / "new.csv", names, new)).checked
    (found,) = done.violations
    assert found.told.startswith(
        "apiary_no A-2 now has forage blank (row 2), but lime; fir in 10 stored rows"
    )


DEPOTS = ["trip_no", "from_depot", "from_town", "to_depot", "to_town"]


def trips(pairs, first):
    towns = {"A": "Holme", "B": "Inver", "C": "Stow", "D": "Brae"}
    return [[str(n), one, towns[one], other, towns[other]] for n, (one, other) in enumerate(pairs, first)]


def test_a_thing_is_told_alike_in_all_of_its_roles(tmp_path):
    """No depot was a start and an end before: each rule of the file holds, but the rows contradict each other."""
    folder, _ = made(
        tmp_path, DEPOTS, trips([("A", "B"), ("B", "A"), ("B", "C"), ("A", "C"), ("C", "B")] * 8, 1)
    )
    (depot,) = [table for table in folder.tables if len(table.role_names) == 2]
    assert depot.primary_key == ("depot",)
    new = [
        *trips([("D", "A"), ("C", "A")], 101),
        ["103", "A", "Holme", "E", "Garrick"],
        ["104", "E", "Kelder", "B", "Inver"],
        ["105", "B", "Inver", "D", "Lorne"],
    ]
    with database_of("sqlite", tmp_path) as url:
        load_folder(folder, url)
        done = check_file(folder, written(tmp_path / "new.csv", DEPOTS, new), url=url).checked
        assert [(one.about, one.told) for one in done.violations] == [
            (
                About.CONTRADICTION,
                "depot D has town Brae (row 2) and Lorne (row 6): the new rows contradict each other",
            ),
            (
                About.CONTRADICTION,
                "depot E has town Kelder (row 5) and Garrick (row 4): the new rows contradict each other",
            ),
        ]
        assert done.added == {"depot": 0, "trip": 1} or sum(done.added.values()) == 1
        new = [["201", "C", "Stow", "A", "Holm"]]
        done = check_file(folder, written(tmp_path / "third.csv", DEPOTS, new), url=url).checked
        assert [one.about for one in done.violations] == [About.CHANGED]


@pytest.mark.parametrize("surrogates", ["never", "always"])
def test_what_a_thing_refers_to_is_told_alike_in_all_of_its_roles(surrogates, tmp_path):
    """A depot lies in a town, and both have two roles: each role of the depot needs the number of its town."""
    names = ["trip_no", "from_depot", "from_town_no", "from_town", "to_depot", "to_town_no", "to_town"]
    towns = {"A": ("T1", "Holme"), "B": ("T2", "Inver"), "C": ("T3", "Stow"), "D": ("T1", "Holme")}
    pairs = ["AB", "BA", "BC", "AC", "CB", "DB", "AD"] * 8
    rows = [
        [str(n), one, *towns[one], other, *towns[other]] for n, (one, other) in enumerate(map(tuple, pairs))
    ]
    folder, read = made(tmp_path, names, rows, {"surrogates": surrogates})
    assert {table.name for table in folder.tables if len(table.role_names) == 2} == {"depot", "town"}
    new = [
        ["101", "A", "T1", "Holme", "E", "T3", "Stow"],
        ["102", "E", "T2", "Inver", "B", "T2", "Inver"],
        ["103", "A", "T1", "Holme", "F", "T2", "Inver"],
    ]
    with database_of("sqlite", tmp_path) as url:
        load_folder(folder, url)
        done = check_file(folder, written(tmp_path / "new.csv", names, new), url=url).checked
        (found,) = done.violations
        assert found.told.startswith("depot E has town_no T2 (row 3) and T3 (row 2)")
        assert counted(executed(url, ("SELECT * FROM flat",))) == counted([*read, new[2]])
