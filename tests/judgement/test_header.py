"""What the header says: nouns that belong together, nouns of other things, and places, as far as they tell."""

import pytest
from honey import TOGETHER, rule, rules, sheet

from pravix.judgement.header import BEST_NAMES, BEST_PLACE, Header
from pravix.judgement.kinds import things
from pravix.judgement.order import FinestFirst

MIXED = ("keeper_phone", "drum_no", "crates", "village", "drum_kind", "keeper_no", "keeper")
KNOWN = ("drum_no -> drum_kind, keeper_no", "keeper_no -> keeper, keeper_phone, village")


def header(names):
    relation = sheet(names)
    return Header(names, things(relation.columns))


@pytest.mark.parametrize(
    ("text", "bits"),
    [
        ("drum_no -> drum_kind", BEST_NAMES),
        ("keeper_no -> keeper_phone", BEST_NAMES),
        ("keeper_no -> drum_kind", -4.0),
        ("drum_no -> keeper_phone", -4.0),
        ("keeper_no -> village", 0.0),
        ("drum_no -> keeper_no", 0.0),
    ],
)
def test_names_speak_for_their_own_thing_and_against_others(text, bits):
    assert header(TOGETHER).names_bits(rule(text)) == bits


def test_places_tell_nothing_before_anything_is_known():
    found = header(TOGETHER)
    assert found.place_bits(rule("keeper_no -> village")) == 0.0
    assert found.place_bits(rule("drum_no -> crates")) == 0.0


def test_where_things_stand_together_a_place_speaks_for_and_against():
    found = header(TOGETHER)
    found.learn(rules(*KNOWN))
    assert 0.0 < found.place_bits(rule("keeper_no -> village")) <= BEST_PLACE
    assert -BEST_PLACE <= found.place_bits(rule("drum_no -> village")) < 0.0


def test_where_the_columns_are_mixed_a_place_tells_less():
    together, mixed = header(TOGETHER), header(MIXED)
    together.learn(rules(*KNOWN))
    mixed.learn(rules(*KNOWN))
    strong = together.place_bits(rule("keeper_no -> village"))
    weak = mixed.place_bits(rule("keeper_no -> keeper"))
    assert abs(weak) < strong


def test_a_constant_must_stand_between_two_columns_of_its_thing():
    names = ("drum_no", "drum_kind", "keeper_no", "keeper", "season", "village", "crates")
    found = Header(names, dict.fromkeys(names, things(sheet(TOGETHER).columns)["village"]))
    found.learn(rules("drum_no -> drum_kind", "keeper_no -> keeper, village"))
    one, both = (found.place_bits(rule("keeper_no -> season"), both_sides=sides) for sides in (False, True))
    assert one == both
    last = found.place_bits(rule("drum_no -> keeper_no"), both_sides=True)
    assert last < found.place_bits(rule("drum_no -> keeper_no"))


def test_finer_determinants_come_first_and_of_equal_ones_the_code():
    relation = sheet(TOGETHER)
    order = FinestFirst(relation, things(relation.columns))
    names = sorted(TOGETHER[:-1], key=lambda name: order.of(frozenset({name})))
    assert names[:3] == ["drum_no", "keeper_no", "keeper"]
    assert order.size({"keeper_no", "drum_kind"}) == 8
    assert order.size({"drum_no", "village"}) == 12


def test_the_leader_of_a_noun_names_a_thing():
    relation = sheet(TOGETHER)
    order = FinestFirst(relation, things(relation.columns))
    assert order.leads(frozenset({"keeper_no"}))
    assert not order.leads(frozenset({"keeper"}))
    assert order.named_thing(frozenset({"keeper_no"}))
    assert not order.named_thing(frozenset({"village"}))
    assert not order.named_thing(frozenset({"drum_no", "keeper_no"}))
