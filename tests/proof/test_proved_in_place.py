"""Tables in a database proved there: what is changed behind the back of the program is found."""

import pytest
from databases import sqlite_at
from flat_tables import ALL_ENGINES, database_of, executed, put

from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.in_place import load_in_place
from pravix.proof.in_place import prove_in_place
from pravix.sources.reading import Reading

NAMES = ["drum_no", "keeper_no", "keeper", "kg"]
ROWS = [(f"D-{n:03d}", f"K-{n % 9}", f"Ada {n % 9}", f"{n % 13}.5") for n in range(200)]


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "drums.csv").write_text("\n".join(map(",".join, [NAMES, *ROWS])), encoding="utf-8")
    write_design(Analysis(str(tmp_path / "drums.csv")).design, str(tmp_path / "out"))
    return open_folder(tmp_path / "out")


DAMAGES = {
    "a fact": ("UPDATE {keeper} SET {name} = 'Bea' WHERE {number} = 'K-1'", "of which 177 are"),
    "a row": ("DELETE FROM {drum} WHERE {drum_no} = 'D-007'", "gives 199 rows"),
    "a parent": (
        "DELETE FROM {keeper} WHERE {number} = 'K-1'",
        "keeper_no of drum is found in keeper, but for 23",
    ),
}


@pytest.mark.parametrize("engine", ["sqlite", "postgresql", "mariadb"])
@pytest.mark.parametrize("damage", DAMAGES)
def test_what_is_changed_in_the_tables_is_told(damage, engine, folder, tmp_path):
    statement, told = DAMAGES[damage]
    quoted = database(engine).quoted
    called = {
        "keeper": "keeper",
        "drum": "drum",
        "name": "keeper",
        "number": "keeper_no",
        "drum_no": "drum_no",
    }
    free = {
        "sqlite": (),
        "postgresql": (("ALTER TABLE drum DROP CONSTRAINT drum_keeper_no_fkey",),),
        "mariadb": (("ALTER TABLE drum DROP FOREIGN KEY drum_ibfk_1",),),
    }[engine]
    with database_of(engine, tmp_path) as url:
        reading = Reading(table=put(url, NAMES, ROWS))
        load_in_place(folder, url, reading)
        assert all(holds for holds, _ in prove_in_place(folder, url, reading))
        free = free if damage == "a parent" else ()
        executed(url, *free, (statement.format(**{name: quoted(one) for name, one in called.items()}),))
        wrong = " ".join(text for holds, text in prove_in_place(folder, url, reading) if not holds)
        assert told in wrong


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_tables_that_are_not_there_are_told(engine, folder, tmp_path):
    with database_of(engine, tmp_path) as url:
        reading = Reading(table=put(url, NAMES, ROWS))
        first, second, *_ = prove_in_place(folder, url, reading)
        assert not first[0]
        assert not second[0]
        assert "cannot be asked" in second[1]


def test_rows_that_nothing_identifies_are_counted(tmp_path):
    rows = [(f"K-{n % 9}", f"Ada {n % 9}", f"{n % 3}.5") for n in range(90)]
    (tmp_path / "drums.csv").write_text("\n".join(map(",".join, [NAMES[1:], *rows])), encoding="utf-8")
    write_design(Analysis(str(tmp_path / "drums.csv")).design, str(tmp_path / "out"))
    folder = open_folder(tmp_path / "out")
    url = f"sqlite:///{tmp_path}/a.db"
    reading = Reading(table=put(url, NAMES[1:], rows))
    load_in_place(folder, url, reading)
    assert all(holds for holds, _ in prove_in_place(folder, url, reading))
    with sqlite_at(tmp_path / "a.db") as there:
        there.execute("UPDATE \"flat rows\" SET kg = '9.5' WHERE rowid = 3")
    wrong = [text for holds, text in prove_in_place(folder, url, reading) if not holds]
    assert len(wrong) == 1
    assert "but 2 kinds of rows are not" in wrong[0]
