"""Words that the analyst has read as blanks: in memory, landed, in a database, and from there on."""

import csv

import pytest
from flat_tables import ENGINES, database_of, executed, put

from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.engines.staying import read_anywhere
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.in_place import load_in_place, script_in_place
from pravix.proof.in_place import prove_in_place
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.sql.schema import script

NAMES = ["delivery", "depot", "town", "kg", "country"]
ROWS = [
    [f"D{n}", f"depot {n % 5}", f"town {n % 5}", "NA" if n % 7 == 0 else f"{n},5", ("NA", "DK", "-")[n % 3]]
    for n in range(60)
]
WISHES = ("kg=NA", "-")
WANTED = [
    [delivery, depot, town, "" if kg == "NA" else kg.replace(",", "."), "" if country == "-" else country]
    for delivery, depot, town, kg, country in ROWS
]


@pytest.fixture
def path(tmp_path):
    with (tmp_path / "flat.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([NAMES, *ROWS])
    return tmp_path / "flat.csv"


def test_words_are_blanks_in_their_columns_and_told(path):
    found = read_source(str(path), Reading(blank=WISHES))
    assert [list(row) for row in found.relation.rows()] == WANTED
    assert "NA and - read as a blank in 29 cells of kg and country" in str(found.account)
    assert "decimal commas read as points in kg" in str(found.account)


@pytest.mark.parametrize("keep_spaces", [False, True])
def test_words_are_blanks_in_a_landed_file_as_in_memory(path, keep_spaces):
    lines = path.read_text(encoding="utf-8").splitlines()
    lines[9:11] = [lines[9].replace("depot", " -").replace(",-", ", -"), ' -,-," NA",NA,-']
    path.write_text("\n".join([*lines, ""]), encoding="utf-8")
    wish = {"blank": ("NA", "country=-"), "keep_spaces": keep_spaces}
    landed = read_anywhere(str(path), Reading(memory=1, **wish))
    rows = [row[1:] for row in landed.flat.place.run("SELECT rowid, * FROM flat ORDER BY rowid")]
    landed.flat.place.close()
    assert "NA and country=- read as a blank" in str(landed.account)
    assert rows == list(read_source(str(path), Reading(**wish)).relation.rows())


def told(table):
    """Return what a table is, with the types of its columns and the checks on them."""
    columns = [(one.name, one.type.kind, one.nullable) for one in table.columns]
    return table.name, table.rows.total, columns, [(check.column, check.values) for check in table.checks]


@pytest.mark.parametrize("engine", ENGINES)
def test_words_are_blanks_where_the_flat_table_is(engine, tmp_path):
    with database_of(engine, tmp_path) as url:
        rows = [[cell.replace(",", ".") for cell in row] for row in ROWS]
        reading = Reading(table=put(url, NAMES, rows, "the flat one"), blank=WISHES)
        made = Analysis(url, reading)
        write_design(made.design, str(tmp_path / "out"))
        staying = Analysis(url, Reading(table="the flat one", blank=WISHES, memory=1))
        assert list(map(told, staying.design.tables)) == list(map(told, made.design.tables))
        assert list(map(told, Analysis(url, Reading(table="the flat one")).design.tables)) != list(
            map(told, made.design.tables)
        )
        staying.source.flat.place.close()
        folder = open_folder(tmp_path / "out")
        lines = "".join(script(script_in_place(folder, database(engine), reading), database(engine)))
        assert "'NA'" in lines
        load_in_place(folder, url, reading)
        assert all(holds for holds, _ in prove_in_place(folder, url, reading))
        assert not all(holds for holds, _ in prove_in_place(folder, url, Reading(table="the flat one")))
        quoted = database(engine).quoted
        found = executed(url, (f"SELECT {quoted('delivery')}, {quoted('country')} FROM {quoted('flat')}",))
        assert {tuple(row) for row in found} == {(row[0], row[4] or None) for row in WANTED}


@pytest.mark.parametrize(
    ("wish", "told"),
    [("kilos=NA", "has no column kilos with blanks"), ("kg=", "missing after kg="), ("", "is missing")],
)
def test_a_wish_that_names_nothing_is_refused(path, wish, told):
    with pytest.raises(InputError, match=told):
        read_source(str(path), Reading(blank=(wish,)))
