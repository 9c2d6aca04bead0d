"""Indexed rules and named inferences against the definition."""

from hypothesis import given
from hypothesis import strategies as st
from samples import LETTERS, naive_closure, random_rules, rules

from pravix.theory.closure import derivation
from pravix.theory.dependency import Dependency
from pravix.theory.inference import Inference, inference_steps
from pravix.theory.rule_index import RuleIndex


@given(st.frozensets(st.sampled_from(LETTERS)), random_rules(), st.data())
def test_an_index_gives_the_closure_of_the_definition_also_with_rules_left_out(columns, given_rules, data):
    index = RuleIndex(given_rules)
    reached = naive_closure(columns, given_rules)
    assert index.closure(index.bits(columns)) == index.bits(reached)
    assert index.determines(columns, reached)
    if given_rules:
        left_out = data.draw(st.sampled_from(given_rules))
        others = [rule for rule in given_rules if rule != left_out]
        rest = index.bits(naive_closure(columns, others))
        assert index.closure(index.bits(columns), without=left_out) == rest
        assert index.implies(left_out, without=left_out) == (
            left_out.dependent in naive_closure(left_out.determinant, others)
        )
        index.discard(left_out)
        assert index.closure(index.bits(columns)) == rest


def test_an_index_tells_columns_apart_that_no_rule_knows():
    index = RuleIndex(rules("A B"))
    assert index.determines("AX", "ABX")
    assert not index.determines("A", "X")


def test_each_step_of_a_chain_is_named_by_its_inference():
    given_rules = rules("A B", "B C", "CD E")
    rule = Dependency(frozenset("AD"), "E")
    steps = inference_steps(rule, derivation(rule, given_rules))
    assert [step.by for step in steps] == [
        Inference.AUGMENTATION,
        Inference.TRANSITIVITY,
        Inference.PSEUDOTRANSITIVITY,
    ]
    assert steps[-1].conclusion == rule
    (only,) = inference_steps(given_rules[0], [given_rules[0]])
    assert only.by is Inference.GIVEN
