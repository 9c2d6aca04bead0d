"""The SQL of a design made by hand, on real databases, with types from the design, the rows, or neither."""

import pytest
from databases import sqlite_at
from flat_tables import ENGINES, database_of, executed

from pravix.databases.known import DATABASES, database
from pravix.design.by_hand import parsed_design
from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.sql.by_hand import statements_by_hand
from pravix.sql.ddl import tables_of_ddl

WHITEBOARD = """
Drum(_drum_no_, honey_code, keeper_no, tare_kg: decimal(6,1), filled_at?: timestamp)
    keeper_no refers to Keeper(keeper_no)
    honey_code refers to Honey(honey_code)
Keeper(_keeper_no_: text(12), name, phone?, taught_by?)
    taught_by refers to Keeper(keeper_no)
Honey(_honey_code_, honey: varchar(30))
"""


def made(text=WHITEBOARD, kind="sqlite", rows=None):
    return list(statements_by_hand(parsed_design(text, "w.txt"), database(kind), rows))


def test_what_is_referred_to_comes_first_and_types_agree():
    rows = Relation.from_rows(["drum_no", "honey_code"], [[str(n), "HEA"] for n in range(20)])
    keeper, honey, drum = made(rows=rows)
    assert '"keeper_no" VARCHAR(12) NOT NULL' in keeper
    assert '"taught_by" VARCHAR(12),' in keeper
    assert '"honey" varchar(30) NOT NULL' in honey
    assert '"honey_code" VARCHAR(10) NOT NULL' in honey
    for line in ('"drum_no" INTEGER NOT NULL', '"keeper_no" VARCHAR(12) NOT NULL', '"tare_kg" NUMERIC(6, 1) NOT NULL',
                 '"filled_at" DATETIME,'):  # fmt: skip
        assert line in drum


@pytest.mark.parametrize("kind", DATABASES)
def test_every_kind_of_database_gets_its_own_words_and_they_are_read_again(kind):
    script = ";\n".join(made(kind=kind)) + ";"
    again = {table.name: table for table in tables_of_ddl(script, "w.sql")}
    assert list(again) == ["Keeper", "Honey", "Drum"]
    referred = {link.table for link in again["Drum"].references}
    assert referred == ({"Keeper", "Honey"} if database(kind).keeps_rules else set())


@pytest.mark.parametrize("engine", ENGINES)
def test_the_tables_can_be_made(engine, tmp_path):
    with database_of(engine, tmp_path) as url:
        executed(url, *((statement,) for statement in made(kind=engine)))
        mark = "`" if engine == "mariadb" else '"'
        assert executed(url, (f"SELECT COUNT(*) FROM {mark}Drum{mark}",)) == [(0,)]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("A(_a_, b)\n b refers to B(b)", "there is no table B"),
        ("A(_a_, b)\n b refers to B(c)\nB(_b_)", "B has no c"),
        ("A(_a_, b)\n b refers to B(b)\nB(_b_, a)\n a refers to A(a)", "refer to each other in a circle"),
        ("A(_a_: money; DROP TABLE x)", "is no type"),
    ],
)
def test_what_cannot_be_made_is_told(text, told):
    with pytest.raises(InputError, match=told):
        made(text)


def test_names_are_data():
    (told,) = made('A "x(_a "b_, c; d)')
    with sqlite_at(":memory:") as there:
        there.execute(told)
        assert [row[1] for row in there.execute("PRAGMA table_info('A \"x')")] == ['a "b', "c; d"]


@pytest.mark.parametrize("engine", ENGINES)
def test_long_texts_in_a_key_have_room_that_every_database_takes(engine, tmp_path):
    names = ["valley", "meadow", "place"]
    rows = Relation.from_rows(names, [["far away " * 14 + mark] * 3 for mark in "abcd"])
    design = "Trip(_valley_, _meadow_, _place_, lids: integer)"
    (told,) = made(design, engine, rows)
    assert told.count("(166)") == 3
    with database_of(engine, tmp_path) as url:
        executed(url, (told,))
