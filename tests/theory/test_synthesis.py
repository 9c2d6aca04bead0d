"""Synthesis, lossless joins and preservation: known designs and the properties they promise."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import LETTERS, naive_closure, random_rules, rules, sets

from pravix.theory.closure import equivalent
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.normal_forms import normal_form
from pravix.theory.projection import projected
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import synthesise


def schemes(columns, *texts):
    return {scheme.columns for scheme in synthesise(columns, rules(*texts))}


@pytest.mark.parametrize(
    ("columns", "given_rules", "expected"),
    [
        ("ABC", ["A B", "B C"], ["AB", "BC"]),
        ("ABCD", ["A B", "C D"], ["AB", "CD", "AC"]),
        ("ABC", ["AB C", "C B"], ["ABC"]),
        ("ABCD", ["A B", "B A", "A C", "B D"], ["ABCD"]),
        ("ABCDE", ["AB C", "D E"], ["ABC", "DE", "ABD"]),
        ("AB", [], ["AB"]),
        ("ABCDEF", ["A BC", "C DE", "E F"], ["ABC", "CDE", "EF"]),
    ],
)
def test_known_designs(columns, given_rules, expected):
    assert schemes(columns, *given_rules) == sets(*expected)


def test_tables_with_equivalent_keys_are_one_and_keep_both_keys():
    (scheme,) = synthesise("ABCD", rules("A B", "B A", "A C", "B D"))
    assert set(RuleSet(rules("A B", "B A", "A C", "B D")).keys_of(scheme)) == sets("A", "B")


def test_the_key_asked_for_is_kept_together():
    found = synthesise("ABCD", rules("B D"), key="ABC")
    assert {scheme.columns for scheme in found} == sets("BD", "ABC")


@given(random_rules())
def test_a_synthesis_is_lossless_preserving_and_in_third_normal_form(given_rules):
    found = synthesise(LETTERS, given_rules)
    tables = [scheme.columns for scheme in found]
    assert frozenset().union(*tables) == set(LETTERS)
    assert is_lossless(LETTERS, tables, given_rules)
    assert not lost_dependencies(tables, given_rules)
    assert all(normal_form(table, given_rules).form.third for table in tables)
    assert not any(one < other for one in tables for other in tables)
    for scheme in found:
        assert all(
            naive_closure(key, given_rules) >= scheme.columns for key in RuleSet(given_rules).keys_of(scheme)
        )


@given(st.frozensets(st.sampled_from(LETTERS)), st.frozensets(st.sampled_from(LETTERS)), random_rules())
def test_two_tables_are_lossless_just_when_they_share_a_key_of_one(one, other, given_rules):
    two = [one | set("AB"), other | (set(LETTERS) - one - set("AB"))]
    shared = naive_closure(two[0] & two[1], given_rules)
    assert is_lossless(LETTERS, two, given_rules) == (shared >= two[0] or shared >= two[1])


def test_the_classic_lossy_pair():
    assert not is_lossless("ABC", ["AB", "BC"], rules("A B"))
    assert is_lossless("ABC", ["AB", "AC"], rules("A B"))


@given(st.lists(st.frozensets(st.sampled_from(LETTERS), min_size=1), min_size=1, max_size=4), random_rules())
def test_lost_rules_are_those_the_projections_do_not_imply(tables, given_rules):
    kept = [rule for table in tables for rule in projected(given_rules, table)]
    lost = lost_dependencies(tables, given_rules)
    assert {
        rule for rule in given_rules if rule.dependent not in naive_closure(rule.determinant, kept)
    } == set(lost)
    assert equivalent(kept, given_rules) == (not lost)
