"""What names and values say about a column."""

import pytest

from pravix.judgement.kinds import Thing, codelike, free_name, thing
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


@pytest.mark.parametrize(
    ("name", "texts", "expected"),
    [
        ("drum_no", ["2001", "2002"], Thing.IDENTIFIER),
        ("drum", ["2001", "2002"], Thing.NUMBER),
        ("net_kg", ["12", "340"], Thing.MEASURE),
        ("year", ["2001", "2002"], Thing.PERIOD),
        ("Jahr", ["1999", "2002"], Thing.PERIOD),
        ("hatch_month", ["3", "11"], Thing.PERIOD),
        ("seen", [str(1_400_000_000 + 90_000 * n) for n in range(9)], Thing.MOMENT),
        ("bees", [str(7**n) for n in range(12)], Thing.MEASURE),
        ("Gewicht", ["12", "340"], Thing.MEASURE),
        ("hivenum", [str(n * n) for n in range(9)], Thing.IDENTIFIER),
        ("Imkernummer", [str(n * n) for n in range(9)], Thing.IDENTIFIER),
        (
            "place",
            [*(f"Ost {n}" for n in range(30)), "The meadow behind the old mill, close to the brook"],
            Thing.LABEL,
        ),
        ("anything", ["12.5", "340.0"], Thing.MEASURE),
        ("object no", ["5059.06", "8726.71"], Thing.IDENTIFIER),
        ("keeper", ["K-101", "K-144"], Thing.IDENTIFIER),
        ("honey", ["Rapeseed", "White clover"], Thing.LABEL),
        ("honey_name", ["Rapeseed", "White clover"], Thing.TITLE),
        ("filled", ["2026-05-01"], Thing.MOMENT),
        ("raw", ["yes", "no"], Thing.MARK),
        ("note", ["the lid was open and some of the honey was lost on the way"], Thing.PROSE),
    ],
)
def test_kinds_of_things(name, texts, expected):
    assert thing(Column.from_texts(name, texts)) is expected
