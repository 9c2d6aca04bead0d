"""Canonical covers, candidate keys and projections: known answers, and the definitions."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import LETTERS, naive_closure, random_rules, rules, sets, subsets

from pravix.theory.closure import equivalent
from pravix.theory.cover import canonical_cover
from pravix.theory.keys import candidate_keys
from pravix.theory.projection import projected


@pytest.mark.parametrize(
    ("given_rules", "cover"),
    [
        (["A BC", "B C", "AB C"], ["A B", "B C"]),
        (["A C", "AC D", "E AD", "E H"], ["A CD", "E AH"]),
        (["AB C", "A B"], ["A BC"]),
        (["A B", "B A", "A C", "B C"], ["A BC", "B A"]),
        (["A A"], []),
    ],
)
def test_known_covers(given_rules, cover):
    assert set(canonical_cover(rules(*given_rules))) == set(rules(*cover))


@given(random_rules())
def test_a_cover_is_equivalent_reduced_and_without_redundancy(given_rules):
    cover = canonical_cover(given_rules)
    assert equivalent(cover, given_rules)
    for rule in cover:
        assert rule.dependent not in rule.determinant
        assert not any(
            rule.dependent in naive_closure(rule.determinant - {column}, cover) for column in rule.determinant
        )
        assert rule.dependent not in naive_closure(
            rule.determinant, [other for other in cover if other != rule]
        )


@given(random_rules(), st.randoms(use_true_random=False))
def test_the_order_in_which_rules_are_given_does_not_matter(given_rules, random):
    shuffled = list(given_rules)
    random.shuffle(shuffled)
    assert canonical_cover(shuffled) == canonical_cover(given_rules)


def test_of_two_equivalent_columns_the_one_of_low_rank_is_referred_to():
    given_rules = rules("K CN", "C N", "N C", "C F", "N F")
    by_code = canonical_cover(given_rules, lambda name: 1.0 if name == "N" else 0.0)
    assert set(by_code) == set(rules("K C", "C NF", "N C"))
    by_name = canonical_cover(given_rules, lambda name: 1.0 if name == "C" else 0.0)
    assert set(by_name) == set(rules("K N", "N CF", "C N"))


@pytest.mark.parametrize(
    ("columns", "given_rules", "keys"),
    [
        ("ABCD", ["A B", "C D"], ["AC"]),
        ("ABC", ["AB C", "C B"], ["AB", "AC"]),
        ("ABCDE", ["A BC", "CD E", "B D", "E A"], ["A", "E", "BC", "CD"]),
        (
            "ABCDEF",
            ["AB C", "C A", "BC D", "ACD B", "BE C", "CE FA", "CF BD", "D EF"],
            ["AB", "BC", "BD", "BE", "CD", "CE", "CF"],
        ),
        ("AB", [], ["AB"]),
    ],
)
def test_known_keys(columns, given_rules, keys):
    assert set(candidate_keys(columns, rules(*given_rules))) == sets(*keys)


@given(random_rules())
def test_candidate_keys_are_all_minimal_superkeys(given_rules):
    superkeys = [part for part in subsets(LETTERS) if naive_closure(part, given_rules) >= set(LETTERS)]
    minimal = {key for key in superkeys if not any(other < key for other in superkeys)}
    assert set(candidate_keys(LETTERS, given_rules)) == minimal


@given(st.frozensets(st.sampled_from(LETTERS), min_size=1), random_rules())
def test_a_projection_keeps_just_what_follows_inside(columns, given_rules):
    inside = projected(given_rules, columns)
    assert all(rule.columns <= columns for rule in inside)
    for part in subsets(columns):
        assert naive_closure(part, inside) == naive_closure(part, given_rules) & columns
