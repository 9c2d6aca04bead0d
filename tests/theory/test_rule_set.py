"""A set of rules gives what the functions of the theory give, and works each thing out once."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import LETTERS, random_rules, rules, sets

from pravix.theory import rule_set
from pravix.theory.closure import closure
from pravix.theory.cover import canonical_cover
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import normal_form
from pravix.theory.projection import projected
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import synthesise, synthesise_cover

COLUMNS = st.frozensets(st.sampled_from(LETTERS), min_size=1)


@given(random_rules(), COLUMNS)
def test_it_gives_what_the_functions_give(given_rules, columns):
    known = RuleSet(given_rules)
    assert list(known) == list(given_rules)
    assert len(known) == len(given_rules)
    assert known.closure(columns) == closure(columns, given_rules)
    assert tuple(known.within(columns)) == projected(given_rules, columns)
    assert known.form(columns) == normal_form(columns, given_rules)
    assert known.keys(columns) == candidate_keys(columns, projected(given_rules, columns))


@given(random_rules())
def test_a_cover_gives_the_tables_that_its_rules_give(given_rules):
    cover = RuleSet.covering(given_rules)
    assert tuple(cover) == canonical_cover(given_rules)
    assert synthesise_cover(LETTERS, cover) == synthesise(LETTERS, given_rules)
    for scheme in synthesise_cover(LETTERS, cover):
        keys = cover.keys_of(scheme)
        assert set(keys) == set(candidate_keys(scheme.columns, projected(given_rules, scheme.columns)))
        assert [key for key in keys if key in scheme.keys] == [key for key in scheme.keys if key in keys]


def test_each_thing_is_worked_out_once(monkeypatch):
    asked = []
    real = rule_set.Projections.on
    monkeypatch.setattr(
        rule_set.Projections, "on", lambda known, columns: asked.append(columns) or real(known, columns)
    )
    known = RuleSet(rules("A B", "B C"))
    for _ in range(3):
        assert known.form("ABC").form.value == "2NF"
        assert known.keys("ABC") == (frozenset("A"),)
        assert known.within("BC") is known.within("CB")
    assert [set(columns) for columns in asked] == [set("ABC"), set("BC")]


def test_it_knows_its_rules():
    first, second = rules("A B", "B C")
    known = RuleSet([first])
    assert first in known
    assert second not in known
    with pytest.raises(TypeError):
        known[0]
    assert set(known.keys("AB")) == sets("A")
