"""The order in which determinants are judged, and that no order of the file changes what comes out."""

import random

import pytest
from honey import TOGETHER, sheet
from schemas import case

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.kinds import uses
from pravix.judgement.order import FinestFirst, by_content
from pravix.judgement.outline import Outlines
from pravix.relation.relation import Relation

MIXED = ("star", "chain", "junction", "rate", "periods", "left_joined", "unnamed")


def test_finer_determinants_come_first_and_of_equal_ones_the_code():
    relation = sheet(TOGETHER)
    order = FinestFirst(relation, uses(relation.columns))
    names = sorted(TOGETHER[:-1], key=lambda name: order.of(frozenset({name})))
    assert names[:3] == ["drum_no", "keeper_no", "keeper"]
    assert order.size({"keeper_no", "drum_kind"}) == 8
    assert order.size({"drum_no", "village"}) == 12


def test_the_leader_of_a_noun_names_a_thing():
    relation = sheet(TOGETHER)
    order = FinestFirst(relation, uses(relation.columns))
    assert order.leads(frozenset({"keeper_no"}))
    assert not order.leads(frozenset({"keeper"}))
    assert order.named_thing(frozenset({"keeper_no"}))
    assert not order.named_thing(frozenset({"village"}))
    assert not order.named_thing(frozenset({"drum_no", "keeper_no"}))


def tables(header, rows, called=None):
    """Return the tables of a sheet with their keys, in the names that its columns had at first."""
    first = {new: old for old, new in (called or {}).items()}
    names = [(called or {}).get(name, name) for name in header]
    relation = Relation.from_rows(names, rows)
    judgement = judge(relation, discover(relation, largest=3))
    found = Outlines(judgement).now.tables
    return {
        (frozenset(first.get(n, n) for n in one.columns), frozenset(first.get(n, n) for n in one.key))
        for one in found
    }


@pytest.mark.parametrize("family", MIXED)
def test_the_order_of_rows_and_columns_changes_no_table(family):
    draw = random.Random(family)
    for seed in (41, 42):
        made = case(family, seed)
        before = tables(made.header, made.rows[:600])
        rows = draw.sample(made.rows[:600], len(made.rows[:600]))
        assert tables(made.header, rows) == before
        order = draw.sample(range(len(made.header)), len(made.header))
        turned = [tuple(row[place] for place in order) for row in rows]
        assert tables([made.header[place] for place in order], turned) == before


@pytest.mark.parametrize("seed", range(6))
def test_names_that_say_nothing_change_no_table(seed):
    draw = random.Random(seed)
    made = case("unnamed", 50 + seed)
    numbers = draw.sample(range(1, len(made.header) + 1), len(made.header))
    called = dict(zip(made.header, [f"c{number}" for number in numbers], strict=True))
    assert tables(made.header, made.rows[:600], called) == tables(made.header, made.rows[:600])


def test_a_place_by_content_follows_the_values_alone():
    relation = sheet(TOGETHER)
    turned = relation.project(reversed(relation.names))
    assert by_content(relation) == by_content(turned)
