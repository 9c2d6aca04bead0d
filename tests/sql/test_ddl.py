"""Designs read from the SQL that creates them."""

from importlib.resources import files

import pytest

from pravix.analysis import Analysis
from pravix.databases.known import DATABASES, database
from pravix.document.design_document import design_document
from pravix.errors import InputError
from pravix.sql.ddl import tables_of_ddl
from pravix.sql.identifiers import fitted
from pravix.sql.schema import schema_statements, script

SCRIPT = """
-- the co-operative
CREATE SCHEMA stock;
CREATE TABLE keeper (keeper_no INTEGER PRIMARY KEY, "full name" VARCHAR(40) NOT NULL UNIQUE, phone TEXT);
CREATE TABLE stock.drum (
  Drum_No CHAR(4) NOT NULL, honey VARCHAR(20), tare NUMERIC(5, 2) DEFAULT 0 CHECK (tare >= 0),
  keeper_no INTEGER NOT NULL REFERENCES keeper,
  CONSTRAINT pk PRIMARY KEY (drum_no), CONSTRAINT once UNIQUE (honey, tare)
);
CREATE TABLE filling (drum_no CHAR(4), filled_on DATE, kg REAL);
ALTER TABLE filling ADD PRIMARY KEY (drum_no, filled_on);
ALTER TABLE filling ADD CONSTRAINT of_drum FOREIGN KEY (drum_no) REFERENCES stock.drum (drum_no) ON DELETE CASCADE;
CREATE UNIQUE INDEX one_kg ON filling (kg, drum_no);
CREATE UNIQUE INDEX some ON filling (kg) WHERE kg > 3;
INSERT INTO keeper VALUES (1, 'Ada; Moss', NULL);
CREATE VIEW all_of_it AS SELECT * FROM keeper;
"""


def test_tables_keys_links_and_types_are_read():
    keeper, drum, filling = tables_of_ddl(SCRIPT, "stock.sql")
    assert (keeper.name, keeper.names, keeper.primary_key) == (
        "keeper", ("keeper_no", "full name", "phone"), ("keeper_no",),
    )  # fmt: skip
    assert keeper.unique == (("full name",),)
    assert [column.nullable for column in keeper.columns] == [False, False, True]
    assert (drum.name, drum.primary_key, drum.unique) == ("stock.drum", ("Drum_No",), (("honey", "tare"),))
    (link,) = drum.references
    assert (link.columns, link.table, link.key, link.elsewhere) == (
        ("keeper_no",),
        "keeper",
        ("keeper_no",),
        False,
    )
    assert filling.primary_key == ("drum_no", "filled_on")
    assert [column.nullable for column in filling.columns] == [False, False, True]
    (link,) = filling.references
    assert (link.columns, link.table, link.key) == (("drum_no",), "stock.drum", ("Drum_No",))
    assert filling.unique == (("kg", "drum_no"),)


def test_what_is_for_the_client_is_passed_over():
    script = "\\restrict x\nCREATE TABLE a (b INTEGER);\nCOPY a (b) FROM stdin;\n1;\n2\n\\.\nCREATE TABLE c (d DATE);\n"
    assert [table.name for table in tables_of_ddl(script, "dump.sql")] == ["a", "c"]


@pytest.mark.parametrize(
    ("script", "told"),
    [
        ("SELECT 1", "a.sql creates no table"),
        ("CREATE TABLE a (b INTEGER;\nCREATE (", "a.sql, line 1 is no SQL that is understood"),
        ("", "a.sql creates no table"),
    ],
)
def test_what_is_no_such_script_is_told_in_one_line(script, told):
    with pytest.raises(InputError, match=told):
        tables_of_ddl(script, "a.sql")


@pytest.fixture(scope="module")
def demo_design():
    return Analysis(str(files("pravix") / "demo" / "deliveries.csv")).design


@pytest.mark.parametrize("name", [one for one in DATABASES if one != "spark"])
def test_our_own_sql_of_every_database_is_read_back(name, demo_design):
    wanted = database(name)
    document = fitted(design_document(demo_design), wanted)
    text = "".join(script(schema_statements(document, wanted), wanted))
    found = {table.name.lower(): table for table in tables_of_ddl(text, "own.sql")}
    assert set(found) == {table.name.lower() for table in document.tables}
    for table in document.tables:
        read = found[table.name.lower()]
        assert read.names == tuple(table.column_names)
        assert read.primary_key == tuple(table.primary_key)
        assert {(one.columns, one.table, one.key) for one in read.references} == {
            (tuple(one.columns), one.references.table, tuple(one.references.columns))
            for one in table.foreign_keys
        }
        assert set(map(frozenset, table.candidate_keys[1:])) <= set(map(frozenset, read.unique))
