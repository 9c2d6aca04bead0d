"""The tables as classes of SQLAlchemy: they make what the SQL of the same database makes."""

import runpy

import pytest
from sqlalchemy import create_engine, inspect
from sqlalchemy.engine.mock import MockConnection

from pravix.databases.known import database
from pravix.folder.reader import open_folder
from pravix.sql.schema import schema_statements


def statements(base, dialect):
    """Return the lines of all statements that make the tables of the classes."""
    made = []
    base.metadata.create_all(
        MockConnection(dialect, lambda one, *_, **__: made.append(str(one.compile(dialect=dialect)))),
        checkfirst=False,
    )
    return lines(made)


def lines(texts):
    return sorted(line.strip().rstrip(",") for text in texts for line in text.splitlines() if line.strip())


@pytest.fixture
def folder(pravix, tmp_path):
    pravix("demo", "honey")
    pravix("describe", "honey/deliveries.csv", 'a "barrel", 50% full: c:\\n', "--made-table", "drum")
    assert pravix("decompose", "honey/deliveries.csv", "--out", "made").status == 0
    return tmp_path / "made"


@pytest.mark.parametrize("name", ["sqlite", "postgresql", "mysql", "duckdb"])
def test_classes_make_what_the_sql_makes(pravix, folder, tmp_path, name):
    assert pravix("sql", "made", "--for", name, "--models", "--out", "models.py").status == 0
    base = runpy.run_path(str(tmp_path / "models.py"))["Base"]
    wanted = database(name)
    found = schema_statements(open_folder(folder).fitted(wanted).document, wanted)
    expected = lines([*found.tables, *found.indexes])
    assert statements(base, wanted.dialect) == expected
    assert any("REFERENCES" in line for line in expected)


def test_classes_are_imported_used_and_reflected(pravix, folder, tmp_path):
    pravix("sql", "made", "--models", "--out", "models.py")
    module = runpy.run_path(str(tmp_path / "models.py"))
    engine = create_engine(f"sqlite:///{tmp_path / 'a.db'}")
    module["Base"].metadata.create_all(engine)
    assert pravix("load", "made", f"sqlite:///{tmp_path / 'b.db'}").status == 0
    ours, theirs = inspect(engine), inspect(create_engine(f"sqlite:///{tmp_path / 'b.db'}"))
    assert ours.get_table_names() == theirs.get_table_names()
    for table in ours.get_table_names():
        for asked in ("get_pk_constraint", "get_foreign_keys", "get_unique_constraints", "get_indexes"):
            assert getattr(ours, asked)(table) == getattr(theirs, asked)(table)
        assert [str(one) for one in ours.get_columns(table)] == [
            str(one) for one in theirs.get_columns(table)
        ]
    assert module["Drum"].__doc__ == "a 'barrel', 50% full: c: n"


def test_models_exclude_rows(pravix, folder):
    run = pravix("sql", "made", "--models", "--rows")
    assert (run.status, run.out) == (2, "")
    assert "goes with neither" in run.err
