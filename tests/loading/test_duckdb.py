"""Loading into DuckDB: all or nothing, numbered by sequences, and what it cannot do is said."""

import os

import pytest
from folders import folder_of

from pravix.databases.known import database
from pravix.errors import InputError
from pravix.ledger.wishes import Wishes
from pravix.loading.load import load_folder
from pravix.relation.relation import Relation
from pravix.relation.types import exact
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.sql.schema import schema_statements

duckdb = pytest.importorskip("duckdb")


def test_a_load_that_fails_leaves_no_file_and_an_old_one_as_it_was(rough, tmp_path):
    file = rough.path / next(table.file for table in rough.tables if table.name == "keeper")
    text = file.read_text(encoding="utf-8")
    with duckdb.connect(str(tmp_path / "old.duckdb")) as there:
        there.execute("CREATE TABLE other (a INTEGER)")
    try:
        file.write_text(text + text.splitlines()[1] + "\n", encoding="utf-8")
        for name in ("new", "old"):
            with pytest.raises(InputError, match="could not be loaded: Constraint Error"):
                load_folder(rough, f"duckdb:///{tmp_path}/{name}.duckdb")
    finally:
        file.write_text(text, encoding="utf-8")
    assert os.listdir(tmp_path) == ["old.duckdb"]
    with duckdb.connect(str(tmp_path / "old.duckdb")) as there:
        assert there.execute("SELECT table_name FROM information_schema.tables").fetchall() == [("other",)]


def test_a_reference_that_would_delete_along_restricts_and_says_so(rough, tmp_path):
    child = next(table for table in rough.tables if table.repairs is not None)
    assert child.foreign_keys[0].on_delete == "cascade"
    assert "CASCADE" in "".join(schema_statements(rough.document, database("sqlite")))
    assert "CASCADE" not in "".join(schema_statements(rough.document, database("duckdb")))
    loaded = load_folder(rough, f"duckdb:///{tmp_path}/made.duckdb")
    assert any(child.name in note and "deletes and changes nothing along" in note for note in loaded.notes)
    with duckdb.connect(str(tmp_path / "made.duckdb")) as there, pytest.raises(duckdb.ConstraintException):
        there.execute(f'DELETE FROM "{child.foreign_keys[0].references.table}"')


def test_rows_are_not_added_one_by_one():
    with pytest.raises(InputError, match="cannot be added to a DuckDB database"):
        database("duckdb").locking(["drum"])


def test_a_database_that_is_not_there_is_not_made(tmp_path):
    from pravix.sources.connecting import connected

    with pytest.raises(InputError, match="there is no file"):
        connected(f"duckdb:///{tmp_path}/mistyped.duckdb")
    assert os.listdir(tmp_path) == []


def test_a_table_is_read_as_it_was_loaded(rough, tmp_path):
    load_folder(rough, f"duckdb:///{tmp_path}/made.duckdb")
    for table in rough.tables:
        relation = read_source(f"duckdb:///{tmp_path}/made.duckdb", Reading(table=table.name)).relation
        wanted = sorted(tuple(exact(cell or "") for cell in row) for row in rough.rows(table))
        assert sorted(tuple(map(exact, row)) for row in relation.rows()) == wanted
    with pytest.raises(InputError, match="has no table nowhere"):
        read_source(f"duckdb:///{tmp_path}/made.duckdb", Reading(table="nowhere"))


@pytest.mark.parametrize("numbering", ["table", "shared"])
def test_numbered_tables_are_replaced_with_their_sequences_and_number_on(numbering, tmp_path):
    rows = [[f"K{n % 7}", f"H{n % 3}", f"{n % 5}.5", f"2026-05-{n % 28 + 1:02d}"] for n in range(60)]
    relation = Relation.from_rows(["keeper", "hive", "kg", "filled"], rows)
    wishes = Wishes(surrogates="always", numbering=numbering)
    folder = folder_of(relation, tmp_path / "made", wishes=wishes)
    numbered = [table for table in folder.tables if table.surrogate]
    assert numbered
    url = f"duckdb:///{tmp_path}/made.duckdb"
    load_folder(folder, url)
    for _ in range(2):
        load_folder(folder, url, instead=True)
    given = sum(table.rows for table in numbered)
    with duckdb.connect(str(tmp_path / "made.duckdb")) as there:
        for table in numbered:
            told = "SELECT column_default FROM information_schema.columns WHERE table_name = ? AND column_name = ?"
            (default,) = there.execute(told, [table.name, table.surrogate]).fetchone()
            (following,) = there.execute(f"SELECT {default}").fetchone()
            given += 1
            assert following == (given if numbering == "shared" else table.rows + 1)
