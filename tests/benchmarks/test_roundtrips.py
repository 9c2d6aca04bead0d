"""Forty random designs through every database that is there, compared by code that is not ours."""

from contextlib import ExitStack

import pytest
from roundtrips import compared, places, plain, tried


@pytest.mark.parametrize("first", range(10_000, 10_040, 20))
def test_random_designs_come_back_row_for_row(first):
    with ExitStack() as stack:
        databases = places(stack, str(first))
        wrong = [line for seed in range(first, first + 20) for line in tried(seed, databases)]
    assert wrong == []


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("1.50", 1.5, True), ("-0", "0", True), ("007", "7", False), ("1e5", "100000", False), (None, "", True),
        ("0.1", 0.1, True), ("0.3", 0.1 + 0.2, False), ("583339848934428427.5", "583339848934428416", False),
    ],
)  # fmt: skip
def test_the_comparison_tells_what_differs(one, other, same):
    assert (plain(one) == plain(other)) is same
    assert (compared([[one]]) == compared([[other]])) is same
