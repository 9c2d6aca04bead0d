"""Closure and derivations against the definition."""

from hypothesis import given
from hypothesis import strategies as st
from samples import LETTERS, naive_closure, random_rules, rules

from pravix.theory.closure import closure, derivation, equivalent, implies
from pravix.theory.dependency import Dependency, dependency


def test_a_chain_is_followed():
    assert closure("A", rules("A B", "B C", "CD E")) == set("ABC")
    assert closure("AD", rules("A B", "B C", "CD E")) == set("ABCDE")


def test_a_constant_is_in_every_closure():
    assert closure("", [dependency([], "A"), dependency(["A"], "B")]) == set("AB")


def test_sets_that_imply_each_other_are_equivalent():
    assert equivalent(rules("A BC", "B C"), rules("A B", "B C"))
    assert not equivalent(rules("A B"), rules("B A"))


@given(st.frozensets(st.sampled_from(LETTERS)), random_rules())
def test_closure_is_that_of_the_definition(columns, given_rules):
    assert closure(columns, given_rules) == naive_closure(columns, given_rules)


@given(st.frozensets(st.sampled_from(LETTERS)), st.sampled_from(LETTERS), random_rules())
def test_each_link_of_a_derivation_rests_on_the_links_before_it(columns, goal, given_rules):
    rule = Dependency(columns, goal)
    chain = derivation(rule, given_rules)
    assert (chain is not None) == implies(given_rules, rule)
    if chain is not None:
        reached = set(columns)
        for link in chain:
            assert link in given_rules
            assert link.determinant <= reached
            reached.add(link.dependent)
        assert goal in reached
