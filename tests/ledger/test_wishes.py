"""Wishes about the design: read from the ledger, recorded there, and mistakes named with their line."""

import pytest

from pravix.errors import InputError
from pravix.ledger.ledger import read_ledger
from pravix.ledger.recording import record
from pravix.ledger.wishes import Arrangement, Wishes, checked_arrangement

WRITTEN = """
# how we like it
[design]
style = "snake"        # as the warehouse does
surrogates = "referred"

[[arrange]]
do = "together"
columns = ["village"]
why = "districts never change"

[[arrange]]
do = "link"
columns = ["keeper_no"]
on_delete = "cascade"
"""


@pytest.fixture
def path(tmp_path):
    return tmp_path / "sheet.ledger.toml"


def test_wishes_are_read(path):
    path.write_text(WRITTEN)
    wishes = read_ledger(str(path)).wishes
    assert (wishes.style, wishes.number, wishes.surrogates) == ("snake", "found", "referred")
    assert wishes.about("together", frozenset({"village"})).why == "districts never change"
    assert wishes.of("link")[0].on_delete == "cascade"
    assert wishes.about("together", frozenset({"phone"})) is None
    assert wishes.with_policies({"style": "camel", "number": None}).style == "camel"


def test_what_is_recorded_is_read_again_and_the_rest_stays(path):
    path.write_text(WRITTEN)
    made = [
        Arrangement("together", ("village",), why="they did change"),
        Arrangement("apart", ("phone", "note"), name="contact"),
        Arrangement("check", ("net kg",), check="range"),
        Arrangement("check", ("net kg",), check="default"),
        Arrangement("list", ("kind",)),
        Arrangement("table", ("kind",)),
    ]
    record(str(path), policies={"number": "plural"}, arrangements=made)
    text = path.read_text()
    assert "# as the warehouse does" in text
    assert text.count('do = "together"') == 1
    wishes = read_ledger(str(path)).wishes
    assert (wishes.style, wishes.number) == ("snake", "plural")
    assert wishes.of("together")[0].why == "they did change"
    assert wishes.of("apart")[0].columns == ("phone", "note")
    assert [wish.check for wish in wishes.of("check")] == ["range", "default"]
    assert [wish.do for wish in wishes.arrangements if wish.columns == ("kind",)] == ["table"]


def test_a_ledger_is_begun_where_there_is_none(path):
    record(str(path), policies={"until": "2nf"})
    assert read_ledger(str(path)).wishes == Wishes(until="2nf")


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('[design]\nstyle = "loud"', r"line 2: style must be file, snake or camel"),
        ('[design]\n\ncolour = "red"', r"line 3: unknown key colour"),
        ('[[arrange]]\ndo = "melt"\ncolumns = ["a"]', r"line 2: do must be name, together"),
        ('[[arrange]]\ndo = "together"', r"line 2: together needs columns"),
        ('[[arrange]]\ncolumns = ["a"]\ndo = "apart"\nhow = "x"', r"line 4: unknown key how"),
        ('[[arrange]]\ndo = "apart"\ncolumns = "a"', r"line 3: columns must be a list of names"),
        ('[[arrange]]\ndo = "name"\ncolumns = ["a"]', r"line 2: name needs name"),
        ('[[arrange]]\ndo = "name"\ncolumns = ["a"]\nname = 3', r"line 4: name must be a text"),
        ('arrange = ["x"]', r"an arrangement must be an \[\[arrange\]\] entry"),
        ('[arrange]\ndo = "name"', r"unknown entry arrange"),
    ],
)
def test_a_mistake_is_named_with_its_line(path, text, told):
    path.write_text(text)
    with pytest.raises(InputError, match=told):
        read_ledger(str(path))


@pytest.mark.parametrize(
    ("wish", "told"),
    [
        (Arrangement("check", ("a",), check="weight"), "check must be values, range"),
        (Arrangement("list", ("a", "b")), "list is about one column"),
        (Arrangement("link", ("a",)), "link needs on_delete or on_update"),
        (Arrangement("link", ("a",), on_delete="explode"), "on_delete must be restrict"),
    ],
)
def test_what_cannot_be_carried_out_is_refused(wish, told):
    with pytest.raises(InputError, match=told):
        checked_arrangement(wish)


def test_a_column_that_the_file_lacks_is_named():
    wishes = Wishes(arrangements=(Arrangement("apart", ("phone",), place="x.ledger.toml, line 4"),))
    with pytest.raises(InputError, match=r"x.ledger.toml, line 4: sheet.csv has no column phone"):
        wishes.check_columns(("keeper",), "sheet.csv")
