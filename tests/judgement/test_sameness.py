"""Whether two tables hold one kind of thing, and which of their columns say the same."""

import pytest

from pravix.judgement.keyed import Keyed
from pravix.judgement.sameness import facts_of, same_things
from pravix.relation.relation import Relation


def keyed(name, header, rows, *keys):
    return Keyed.of(name, Relation.from_rows(list(header), rows), keys or [(next(iter(header)),)])


KEEPERS = [[f"K-{n}", f"Name {n}", "Cressing" if n % 3 else "Kelder"] for n in range(100, 112)]


def test_a_register_with_bare_names_is_known_by_its_values_and_its_own_name():
    sheet = keyed("keeper", ["keeper_no", "keeper", "village"], KEEPERS)
    register = keyed("keepers", ["no", "name", "place"], KEEPERS[:10])
    found = same_things(sheet, register)
    assert (found.here, found.there) == (("keeper_no",), ("no",))
    facts = facts_of(sheet, found.here, register, found.there)
    assert facts.common == 10
    assert ("keeper", "name") in facts.shared
    assert not facts.differing


def test_columns_of_other_names_are_one_where_agreeing_by_luck_would_be_a_wonder():
    places = ["Cressing", "Kelder", "Inver", "Garrick"]
    rows = [[f"A{n}", places[n * 7 % 4], "yes"] for n in range(20)]
    one = keyed("apiary", ["apiary_no", "site", "roofed"], rows)
    other = keyed("apiaries", ["apiary_no", "stands_at", "fenced"], rows)
    facts = facts_of(one, ("apiary_no",), other, ("apiary_no",))
    assert facts.shared == (("site", "stands_at"),)  # What is always yes agrees with anything that is.


@pytest.mark.parametrize(
    ("other", "why"),
    [
        (keyed("hive", ["no", "name"], [[str(n), f"Hive {n}"] for n in range(1, 13)]), "other nouns"),
        (
            keyed("keeper", ["keeper_no", "keeper"], [[f"K-{n}", f"Other {n}"] for n in range(100, 112)]),
            "the same codes with other names are other people",
        ),
        (
            keyed("keeper", ["net_kg", "keeper"], [[f"{n}.5", f"Name {n}"] for n in range(100, 112)]),
            "a measure",
        ),
    ],
)
def test_what_is_not_the_same_stays_apart(other, why):
    rows = (
        [row[:2] for row in KEEPERS] if why != "other nouns" else [[str(n), f"K {n}"] for n in range(1, 13)]
    )
    sheet = keyed("keeper", ["keeper_no", "keeper"], rows)
    assert same_things(sheet, other) is None, why


def test_one_differing_cell_is_named_and_many_make_two_facts_of_it():
    changed = [[*KEEPERS[0][:2], "Inver"], *KEEPERS[1:]]
    one = keyed("keeper", ["keeper_no", "keeper", "village"], KEEPERS)
    facts = facts_of(one, ("keeper_no",), keyed("keeper", one.cells.keys(), changed), ("keeper_no",))
    assert facts.shared == (("keeper", "keeper"),)
    (differing,) = facts.differing
    assert (differing.here, differing.count) == ("village", 1)
    assert differing.examples == ((("K-100",), "Cressing", "Inver"),)
    other = {"Cressing": "Kelder", "Kelder": "Cressing"}
    all_changed = [[*row[:2], other[row[2]]] for row in KEEPERS]
    facts = facts_of(one, ("keeper_no",), keyed("keeper", one.cells.keys(), all_changed), ("keeper_no",))
    assert (facts.differing, facts.contradicting) == ((), (("village", "village"),))


def test_what_no_source_knows_contradicts_nothing():
    one = Keyed("keeper", {"no": ["1", "2"], "phone": ["07", None]}, (("no",),), [2, 3])
    other = keyed("keeper", ["no", "phone"], [["1", "07"], ["2", "08"]])
    assert facts_of(one, ("no",), other, ("no",)).shared == (("phone", "phone"),)


def test_numbers_agree_by_their_value():
    one = keyed("drum", ["drum_no", "tare_kg"], [[str(n), f"{n}.0"] for n in range(20, 30)])
    other = keyed("drum", ["drum_no", "tare_kg"], [[str(n), str(n)] for n in range(20, 30)])
    assert facts_of(one, ("drum_no",), other, ("drum_no",)).shared == (("tare_kg", "tare_kg"),)
