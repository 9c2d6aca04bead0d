"""The agree sets of all pairs of rows: by arrays, by compiled code for few columns, and for many."""

import numpy as np
import pytest

from pravix.discovery import pairs, pairs_compiled
from pravix.discovery.budget import OverBudgetError
from pravix.discovery.columnsets import distinct
from pravix.kernels.pairs import BLOCK
from pravix.progress import silent


def in_both_ways(cells):
    by_arrays = distinct(pairs.agree_sets(cells))
    compiled = pairs_compiled.agree_sets(cells, 10**7, silent)
    return by_arrays.tolist(), compiled.tolist()


@pytest.mark.parametrize("most", [200, 300, 70_000])
@pytest.mark.parametrize("width", [1, 7, 8, 9, 16, 17, 20, 21, 40, 64, 65, 80, 130])
def test_compiled_code_meets_the_agree_sets_that_arrays_meet(width, most):
    draw = np.random.default_rng(width)
    cells = draw.integers(0, [3, *[5] * (width - 1)], (150, width))
    cells[0, 0] = most  # The codes need a byte, two or four.
    by_arrays, compiled = in_both_ways(cells)
    assert compiled == by_arrays
    assert len(compiled) > 1


@pytest.mark.parametrize("width", [5, 24])
@pytest.mark.parametrize("rows", [2, 64, 65, BLOCK, BLOCK + 1, BLOCK + 2, 2 * BLOCK + 70])
def test_pairs_far_apart_and_at_the_ends_of_blocks_are_met(rows, width):
    cells = np.repeat(np.arange(rows)[:, np.newaxis], width, axis=1)  # No two rows agree on anything, ...
    cells[0, 0] = cells[rows - 1, 0]  # ... but the first with the last one, ...
    cells[rows // 2 - 1, 1] = cells[rows // 2, 1]  # ... and two in the middle.
    by_arrays, compiled = in_both_ways(cells)
    assert compiled == by_arrays
    assert len(compiled) == (3 if rows > 2 else 1)


@pytest.mark.parametrize("width", [12, 30])
def test_more_sets_than_are_allowed_are_said(width):
    cells = np.random.default_rng(1).integers(0, 3, (2_000, width))
    with pytest.raises(OverBudgetError):
        pairs_compiled.agree_sets(cells, 100, silent)
