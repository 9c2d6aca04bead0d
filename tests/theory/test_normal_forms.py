"""Normal forms: known tables, and the definitions of 2NF, 3NF and BCNF."""

import pytest
from hypothesis import given
from samples import LETTERS, naive_closure, random_rules, rules, subsets

from pravix.theory.normal_forms import Breach, Form, normal_form


@pytest.mark.parametrize(
    ("columns", "given_rules", "form"),
    [
        ("ABCD", ["AB C", "B D"], Form.FIRST),
        ("ABC", ["A B", "B C"], Form.SECOND),
        ("ABC", ["AB C", "C B"], Form.THIRD),
        ("ABC", ["A BC"], Form.BOYCE_CODD),
        ("ABC", ["A BC", "B AC"], Form.BOYCE_CODD),
        ("AB", [], Form.BOYCE_CODD),
        ("AC", ["A B", "B C"], Form.BOYCE_CODD),
    ],
)
def test_known_forms(columns, given_rules, form):
    assert normal_form(columns, rules(*given_rules)).form is form


def test_the_offender_is_named_with_its_breach():
    assert normal_form("ABCD", rules("AB C", "B D")).offenders == ((rules("B D")[0], Breach.PARTIAL),)
    assert normal_form("ABC", rules("A B", "B C")).offenders == ((rules("B C")[0], Breach.TRANSITIVE),)
    assert normal_form("ABC", rules("AB C", "C B")).offenders == ((rules("C B")[0], Breach.PRIME),)


def test_only_rules_within_the_table_count():
    assert normal_form("AC", rules("A B", "B C", "C D")).form is Form.BOYCE_CODD


def defined_form(columns, given_rules):
    """The definitions, over every dependency that follows."""
    inside = frozenset(columns)
    closures = {part: naive_closure(part, given_rules) & inside for part in subsets(inside)}
    superkeys = {part for part, reached in closures.items() if reached == inside}
    keys = {key for key in superkeys if not any(other < key for other in superkeys)}
    prime = frozenset().union(*keys)
    follows = [(left, name) for left, reached in closures.items() for name in reached - left]
    if any(name not in prime and any(left < key for key in keys) for left, name in follows):
        return Form.FIRST
    if any(left not in superkeys and name not in prime for left, name in follows):
        return Form.SECOND
    return Form.THIRD if any(left not in superkeys for left, _ in follows) else Form.BOYCE_CODD


@given(random_rules())
def test_normal_forms_are_those_of_the_definitions(given_rules):
    assert normal_form(LETTERS, given_rules).form is defined_form(LETTERS, given_rules)
    assert normal_form("ABCD", given_rules).form is defined_form("ABCD", given_rules)
