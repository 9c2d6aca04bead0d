"""What names and values say about a column."""

import pytest

from pravix.judgement.kinds import codelike, free_name, uses
from pravix.judgement.use import Use
from pravix.relation.relation import Column
from pravix.relation.words import noun, share_noun, words


@pytest.mark.parametrize(
    ("name", "expected"),
    [
        ("drum_no", ["drum", "no"]),
        ("FromDepotName", ["from", "depot", "name"]),
        ("Loan No", ["loan", "no"]),
        ("keeperID", ["keeper", "id"]),
        ("TREE", ["tree"]),
        ("c1", ["c", "1"]),
        ("honig-sorte", ["honig", "sorte"]),
        ("Gewicht (kg)", ["gewicht", "kg"]),
        ("Прополис", ["прополис"]),
        ("", []),
    ],
)
def test_words_in_any_naming_style(name, expected):
    assert words(name) == expected


@pytest.mark.parametrize(
    ("name", "expected"), [("drum_no", ["drum"]), ("FilledOn", ["filled"]), ("no", ["no"])]
)
def test_the_noun_is_what_is_left_without_no_or_name(name, expected):
    assert noun(name) == expected


def test_what_looks_like_codes():
    assert codelike(Column.from_texts("kind", ["Eaos", "Fals", "Habb"]))
    assert not codelike(Column.from_texts("kind", ["open car", "tank", "flat"]))
    assert not codelike(Column.from_texts("keeper_name", ["Anna", "Otto", "Ines"]))
    assert free_name(Column.from_texts("village", ["Ost", "Kelder", "Brunn am Steg"]))
    assert not free_name(Column.from_texts("keeper_no", ["K-1", "K-2"]))


def test_names_that_share_a_noun():
    assert not share_noun("name", "country_name"), "a column that is called a name of nothing has no noun"
    assert words("Größe") == ["groesse"]
    assert words("Señal") == ["senal"]
    assert share_noun("drum_no", "drum_kind")
    assert share_noun("from_depot", "FromDepotTown")
    assert not share_noun("drum_kind", "drum_no")
    assert not share_noun("keeper", "village")


def thing(name, texts):
    return uses([Column.from_texts(name, texts)])[name]


@pytest.mark.parametrize(
    ("name", "texts", "expected"),
    [
        ("drum_no", [str(n) for n in range(311, 340)], Use.IDENTIFIER),
        ("net_kg", [str(n * 3) for n in range(20)], Use.MEASURE),
        ("hatch_month", ["3", "11", "5"], Use.PERIOD),
        ("seen", [str(1_400_000_000 + 90_000 * n) for n in range(9)], Use.MOMENT),
        ("month", ["jan", "feb", "mar"], Use.PERIOD),
        ("honey", ["Rapeseed", "White clover"], Use.LABEL),
        ("honey_name", ["Rapeseed", "White clover"], Use.TITLE),
        ("filled", ["2026-05-01", "2026-05-02"], Use.MOMENT),
        ("raw", ["yes", "no"], Use.MARK),
        ("note", ["the lid was open and some of the honey was lost on the way"], Use.PROSE),
    ],
)
def test_kinds_of_things(name, texts, expected):
    assert thing(name, texts) is expected


def test_a_few_long_names_make_no_prose():
    places = [*(f"Ost {n}" for n in range(30)), "The meadow behind the old mill, close to the brook"]
    assert thing("place", places) is Use.LABEL


def test_what_begins_other_names_identifies_what_they_describe():
    found = uses(
        [
            Column.from_texts("depot", ["Ost", "West", "Mitte"]),
            Column.from_texts("depot_town", ["Hohenau", "Steg", "Au"]),
        ]
    )
    assert found == {"depot": Use.IDENTIFIER, "depot_town": Use.DETAIL}
