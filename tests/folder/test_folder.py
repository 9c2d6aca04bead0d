"""What is written: whole or not at all, loadable, and safe whatever the names."""

import csv
import json
import sqlite3
from pathlib import Path

import pytest
from databases import sqlite_at
from folders import folder_of
from hypothesis import given
from hypothesis import strategies as st

import pravix.demo
from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repair import Repaired
from pravix.first_normal_form.repairing import repaired
from pravix.folder.writer import file_names, replace_folder, write_design
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.theory.dependency import parse_dependencies

ODD = ['drum "no"', "select", "x; DROP TABLE y;--", "../up", "=1+1", "<script>", "né, 50%", "a.b:c"]


def odd_design(accepted=True):
    rows = [
        [
            f"{place}",
            f"K{place % 4}",
            f"n'{place % 4}",
            f"../{place}",
            "=cmd()" if place % 2 else "",
            "<b>",
            "é",
            "%",
        ]
        for place in range(40)
    ]
    relation = Relation.from_rows(ODD, rows)
    rule = parse_dependencies('select -> "x; DROP TABLE y;--"')
    return designed(
        Repaired(relation, relation), judge(relation, discover(relation), rule if accepted else ())
    )


def load(folder):
    """Load a folder into SQLite in the order of design.json; an empty cell becomes NULL."""
    database = sqlite_at(":memory:")
    database.executescript((folder / "schema.sql").read_text(encoding="utf-8"))
    assert database.execute("PRAGMA foreign_keys").fetchone() == (1,)
    for table in json.loads((folder / "design.json").read_text(encoding="utf-8"))["tables"]:
        with (folder / table["file"]).open(encoding="utf-8", newline="") as file:
            header, *rows = csv.reader(file)
        assert header == [column["name"] for column in table["columns"]]
        quoted = '"' + table["name"].replace('"', '""') + '"'
        marks = ", ".join("?" * len(header))
        database.executemany(
            f"INSERT INTO {quoted} VALUES ({marks})", [[cell or None for cell in row] for row in rows]
        )
        assert database.execute(f"SELECT count(*) FROM {quoted}").fetchone() == (table["rows"],)
    assert database.execute("PRAGMA foreign_key_check").fetchall() == []
    return database


def test_odd_names_and_values_go_through_unharmed(tmp_path):
    design = odd_design()
    files = write_design(design, str(tmp_path / "out"))
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == sorted(files)
    assert not any("/" in name or name.startswith(".") for name in files)
    database = load(tmp_path / "out")
    names = {row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    assert names == {table.name for table in design.tables}


def test_the_demo_loads_with_every_constraint_on(tmp_path):
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    design = designed(Repaired(relation, relation), judge(relation, discover(relation, largest=3)))
    write_design(design, str(tmp_path / "out"))
    database = load(tmp_path / "out")
    assert database.execute("SELECT count(*) FROM delivery_drum JOIN drum USING (drum_no)").fetchone() == (
        420,
    )


def test_the_rough_demo_loads_with_its_child_tables(tmp_path):
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries_rough.csv"))).relation
    answers = [Answer(finding.id, finding.answers[0]) for finding in findings(relation) if finding.answers]
    repairs = repaired(relation, answers)
    judgement = judge(repairs.relation, discover(repairs.relation, largest=3), opaque=repairs.opaque)
    design = designed(repairs, judgement)
    assert design.proof.lossless
    write_design(design, str(tmp_path / "out"))
    database = load(tmp_path / "out")
    cells = set(relation.project(["apiary_no", "forage"]).rows())
    plants = sum(len(forage.split("; ")) for _, forage in cells)
    assert database.execute("SELECT count(*) FROM apiary_forage").fetchone() == (plants,)


def test_a_primary_key_refuses_a_second_row_and_a_reference_an_unknown_one(tmp_path):
    write_design(odd_design(), str(tmp_path / "out"))
    database = load(tmp_path / "out")
    with pytest.raises(sqlite3.IntegrityError, match="UNIQUE"):
        database.execute('INSERT INTO "select" SELECT * FROM "select"')
    with pytest.raises(sqlite3.IntegrityError, match="FOREIGN KEY"):
        database.execute('DELETE FROM "select"')


def test_an_earlier_result_is_replaced_as_a_whole(tmp_path):
    out = tmp_path / "out"
    write_design(odd_design(), str(out))
    files = write_design(odd_design(accepted=False), str(out))
    assert sorted(path.name for path in out.iterdir()) == sorted(files)
    assert [path.name for path in tmp_path.iterdir()] == ["out"]


def test_a_folder_with_other_files_is_left_alone(tmp_path):
    out = tmp_path / "out"
    write_design(odd_design(), str(out))
    (out / "notes.txt").write_text("mine")
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    with pytest.raises(InputError, match="what Pravix did not write there: notes"):
        write_design(odd_design(accepted=False), str(out))
    assert {path.name: path.read_bytes() for path in out.iterdir()} == before


def test_a_file_in_the_place_of_the_folder_is_left_alone(tmp_path):
    (tmp_path / "out").write_text("mine")
    with pytest.raises(InputError, match="is a file"):
        write_design(odd_design(), str(tmp_path / "out"))
    assert (tmp_path / "out").read_text() == "mine"


def test_what_fails_halfway_leaves_nothing(tmp_path):
    def fill(folder):
        (folder / "first.csv").write_text("a")
        raise RuntimeError

    with pytest.raises(RuntimeError):
        replace_folder(tmp_path / "out", fill, known=lambda _: set())
    assert list(tmp_path.iterdir()) == []


def test_file_names_are_safe_and_different():
    assert file_names(["drum", "Drum", "../up", "", ".."], ".csv") == [
        "drum.csv",
        "Drum_2.csv",
        "___up.csv",
        "table.csv",
        "__.csv",
    ]
    assert len(file_names(["x" * 300], ".parquet")[0]) < 100


@given(
    st.lists(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\0")), min_size=2, max_size=2))
)
def test_cells_are_read_from_the_file_as_they_were_in_the_table(tmp_path_factory, cells):
    rows = [[str(number), *row] for number, row in enumerate(cells)]
    relation = Relation.from_rows(["no", "a,b", "c"], rows)
    path = tmp_path_factory.mktemp("cells") / "made"
    folder = folder_of(relation, path)
    by_name = {table.name: table for table in folder.tables}
    for table in designed(
        Repaired(relation, relation), judge(relation, discover(relation, largest=3))
    ).tables:
        wanted = [[cell or None for cell in row] for row in table.rows.rows()]
        assert list(folder.rows(by_name[table.name])) == wanted
        batches = folder.batches(by_name[table.name])
        assert [list(row.values()) for one in batches for row in one.to_pylist()] == wanted
