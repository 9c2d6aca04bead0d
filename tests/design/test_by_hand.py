"""Designs made by hand: the notation is read, and each thing that is wrong is told once."""

from pathlib import Path

import pytest
from samples import sets
from sqlalchemy import create_engine, inspect, text
from textbook import SCHEMES

import pravix.demo
from pravix.design.by_hand import HandReference, catalogue_design, parsed_design
from pravix.design.critique import objections, reviewed
from pravix.errors import InputError
from pravix.theory.normal_forms import Form

WHITEBOARD = Path(pravix.demo.__file__).with_name("whiteboard.txt").read_text(encoding="utf-8")


def test_the_notation_is_read():
    drum, keeper, line, _ = parsed_design(WHITEBOARD, "whiteboard.txt")
    assert drum.primary_key == ("drum_no",)
    assert [(column.name, column.type, column.nullable) for column in drum.columns[-2:]] == [
        ("keeper", "", False),
        ("phone", "", True),
    ]
    assert drum.columns[0].type == "integer"
    assert drum.references == (HandReference(("keeper_no",), "Keeper", ("keeper_no",)),)
    assert line.primary_key == ()
    assert keeper.place == "whiteboard.txt, line 6"


def test_the_whiteboard_is_reviewed():
    tables = parsed_design(WHITEBOARD, "whiteboard.txt")
    forms = {one.table.name: one.form for one in map(reviewed, tables)}
    assert forms == {
        "Drum": Form.SECOND,
        "Keeper": Form.BOYCE_CODD,
        "DeliveryLine": Form.FIRST,
        "Order": Form.BOYCE_CODD,
    }
    drum = reviewed(tables[0])
    assert "honey_code -> honey: what decides it is no key (transitive: breaks 3NF)" in drum.reasons
    assert set(drum.parts) == {
        "(_drum_no_, honey_code, keeper_no)",
        "(_honey_code_, honey)",
        "(_keeper_no_, keeper, phone)",
    }
    assert reviewed(tables[2]).keys == (("delivery_no", "drum_no"),)
    assert [one.about for one in objections(tables, {"order"})] == [
        "primary key", "types", "missing link", "broken link", "reserved word", "naming styles",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("written", "about", "told"),
    [
        ("A(_x_?, y)", "nullable key", "x is part of the key of A, but may be blank"),
        ("A(_x_, _y_, z)\n x -> y, z", "key too large", "x alone identifies a row of A"),
        ("A(_x_, _y_)\nB(_b_, x, y)\n x, y refers to A(x, y)", "composite key", "B refers to A by 2 columns"),
        ("A(_x_, y)\nB(_b_, y)\n y refers to A(y)", "broken link", "refers to y of A, which is no key there"),
        ("A(_x_)\nB(_b_, x)\n x refers to A(q)", "broken link", "refers to q of A, which it has not"),
        ("A(_x_)\nB(_b_, x)\n b, x refers to A(x)", "broken link", "refers to 1 column of A by 2"),
        ("A(_a_no_, site)\nB(_a_no_, site)", "same columns", "A and B differ only in name"),
    ],
)
def test_each_mistake_is_told(written, about, told):
    found = objections(parsed_design(written, "x"))
    assert (about, told) in [
        (
            one.about,
            one.text[: len(told)]
            if one.text.startswith(told)
            else one.text[one.text.find(told) :][: len(told)],
        )
        for one in found
    ]


def test_a_good_design_has_nothing_to_object_to():
    written = "Keeper(_keeper_no_, name)\nHive(_hive_no_, keeper_no)\n keeper_no refers to Keeper(keeper_no)"
    tables = parsed_design(written, "x")
    assert objections(tables) == []
    assert all(reviewed(table).form is Form.BOYCE_CODD for table in tables)


@pytest.mark.parametrize(
    ("written", "told"),
    [
        ("", "holds no relation"),
        ("a -> b", "x, line 1: a rule or reference before any relation"),
        ("A(_x_)\n\nwhat is this", "x, line 3: what is this is no relation"),
        ("A(_x_)\n x -> y", "x, line 2: A has no column y"),
        ("A(_x_)\n x -> ", "x, line 2: a name is missing"),
        ("A(_x_, x)", "x, line 1: the column x comes twice"),
        ("A(_x_)\nA(_y_)", "x, line 2: there is a relation A already"),
        ("A()", "x, line 1: A has no columns"),
    ],
)
def test_what_cannot_be_read_is_named_with_its_line(written, told):
    with pytest.raises(InputError, match=told.replace("(", r"\(")):
        parsed_design(written, "x")


@pytest.mark.parametrize(("columns", "given", "keys", "form", "size", "tables"), SCHEMES)
def test_textbook_schemes_by_the_hand_made_route(columns, given, keys, form, size, tables):
    """The same right answers as from the theory itself, written and read in the notation."""
    lines = [f"R({', '.join(columns)})"]
    for rule in given.split("; ") if given else []:
        left, right = rule.split(" ")
        lines.append(f"    {', '.join(left)} -> {', '.join(right)}")
    (table,) = parsed_design("\n".join(lines), "textbook")
    found = reviewed(table)
    assert {frozenset(key) for key in found.keys} == sets(*keys.split())
    assert found.form.value == form
    if found.form.third:
        assert found.parts == ()
    else:
        parts = {frozenset(part.strip("()").replace("_", "").split(", ")) for part in found.parts}
        assert parts == sets(*tables.split())
        assert found.reasons
    (objection,) = [one for one in objections([table]) if one.about == "primary key"]
    assert objection.table == "R"


def test_a_catalogue_is_read_from_a_database():
    engine = create_engine("sqlite://")
    with engine.begin() as connection:
        connection.execute(
            text("CREATE TABLE keeper (keeper_no TEXT NOT NULL PRIMARY KEY, name TEXT NOT NULL UNIQUE)")
        )
        connection.execute(
            text("CREATE TABLE hive (hive_no INTEGER, keeper_no INTEGER REFERENCES keeper (keeper_no))")
        )
        tables = catalogue_design(inspect(connection))
    engine.dispose()
    found = {one.about for one in objections(tables)}
    assert found == {"primary key", "types"}
    keeper = next(table for table in tables if table.name == "keeper")
    assert reviewed(keeper).keys == (("name",), ("keeper_no",)) or reviewed(keeper).keys == (
        ("keeper_no",),
        ("name",),
    )
