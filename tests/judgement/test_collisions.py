"""How many pairs would agree by luck: what some rows tell is near what all rows tell."""

from math import log2

import numpy as np
import pytest

from pravix.judgement.row_key import collisions
from pravix.relation import grouping
from pravix.relation.relation import Relation


def by_definition(cells, key):
    """Return the least, over the columns, of the pairs that agree on the others times how alike its cells are."""
    found = []
    for left_out in key:
        others = [place for place in key if place != left_out]
        sizes = np.unique(cells[:, others], axis=0, return_counts=True)[1]
        shares = np.unique(cells[:, left_out], return_counts=True)[1] / len(cells)
        found.append((sizes * (sizes - 1) / 2).sum() * (shares**2).sum())
    return min(found)


@pytest.mark.parametrize("seed", range(6))
def test_some_rows_tell_what_all_do(monkeypatch, seed):
    draw = np.random.default_rng(seed)
    cells = np.column_stack([draw.integers(0, size, 6_000) for size in (3_000, 40, 900, 7, 5_000)])
    relation = Relation.from_rows([f"c{place}" for place in range(5)], cells.astype(str).tolist())
    again = Relation(relation.columns, relation.row_numbers)
    for key in ((0, 1), (0, 2), (1, 2, 3), (0, 1, 4), (1, 3, 4), (2, 3)):
        names, exact = {f"c{place}" for place in key}, by_definition(cells, key)
        assert collisions(relation, names) == pytest.approx(exact)
        with monkeypatch.context() as patched:
            patched.setattr(grouping, "_SOME_ROWS", (1_500, 3_000))
            told = collisions(again, names)
        assert abs(log2(1 + told) - log2(1 + exact)) < 0.6, key
