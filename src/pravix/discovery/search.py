"""The one function that the other rooms call: every minimal dependency and key of the rows.

Three plans, chosen from the data. Small tables: all pairs of rows compared with arrays, hitting sets
with Python's integers. Larger ones: all pairs in compiled code. Tables with so many rows that comparing
each with each would take long: some pairs first, and candidates checked on the rows. All three are exact.
Where none ends within the budget of time and memory, small combinations are checked as far as it goes.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.budget import Budget, OverBudgetError
from pravix.discovery.columnsets import ColumnSets, in_order, word_count
from pravix.discovery.discovered import Blanks, Dependencies, Discovery
from pravix.discovery.hitting import STEPS_FOR_A_SET, Hitting, TooManyError
from pravix.kernels.arrays import Words
from pravix.progress import Progress, silent
from pravix.relation.relation import BLANK, Relation

MOST = 20_000_000
"""Determinants and keys that a search keeps before it limits their size by itself."""


class Plan(Enum):
    """How the rows are searched; the value says it in a few words."""

    SMALL = "all pairs of rows compared"
    PAIRS = "all pairs of rows compared, in compiled code"
    HYBRID = "like rows compared, candidates checked on all rows, in compiled code"
    LEVELS = "small combinations checked on all rows, as far as the time allowed"


_SMALL_CELLS = 100_000_000
"""Up to so many cells of pairs are compared without compiled code, where that is not there at once, ..."""

_TINY_CELLS = 400_000
"""... and up to so many in any case."""

_SMALL_STEPS = 100_000
"""So many steps are taken then; and so many determinants and keys may always be found among so few cells."""

_SMALL_COMPARISONS = 400_000_000
_FEW_CELLS = 500_000_000
_MANY_CELLS = 200_000_000_000
_CELLS_FOR_A_ROW = 30
"""Cells of pairs that are compared in the time in which a check looks at one row."""


def discover(
    relation: Relation,
    blanks: Blanks = Blanks.EQUAL,
    largest: int | None = None,
    progress: Progress = silent,
    plan: Plan | None = None,
    most: int = MOST,
    budget: Budget | None = None,
) -> Discovery:
    """Return every minimal dependency and every minimal key that holds in the rows.

    ``largest`` limits the number of columns in a determinant or key; ``plan`` is chosen from the data
    where it is None. The search is complete, or ``searched_to`` says how far it went: to ``largest``, or
    less where more than ``most`` determinants and keys would be found or the ``budget`` of memory and time
    (see there) ends. Their number can be exponential in the columns; time and memory grow with it, and with
    the pairs of rows or with the rows (see ``Plan``).

    >>> rows = [["1", "K-1", "Holm"], ["2", "K-1", "Holm"], ["3", "K-2", "Holm"], ["4", "K-3", "Garrick"]]
    >>> found = discover(Relation.from_rows(["drum", "keeper", "village"], rows))
    >>> [str(rule) for rule in found.dependencies]
    ['drum -> keeper', 'drum -> village', 'keeper -> village']
    """
    width = len(relation.columns)
    found, searched_to, used = _searched(
        relation, blanks, range(width + 1), largest, most, progress, plan, budget
    )
    names = relation.names
    return Discovery(
        Dependencies([(names[place], ColumnSets(found[place], names)) for place in range(width)]),
        ColumnSets(found[width], names),
        searched_to,
        used.value,
    )


def discover_keys(
    relation: Relation,
    blanks: Blanks = Blanks.EQUAL,
    largest: int | None = None,
    progress: Progress = silent,
    plan: Plan | None = None,
    most: int = MOST,
    budget: Budget | None = None,
) -> Discovery:
    """Return every minimal key, and no dependencies; see ``discover``."""
    width = len(relation.columns)
    found, searched_to, used = _searched(relation, blanks, [width], largest, most, progress, plan, budget)
    return Discovery(Dependencies(()), ColumnSets(found[width], relation.names), searched_to, used.value)


def code_matrix(relation: Relation, blanks: Blanks) -> NDArray[np.int32]:
    """Return the codes row by column, small numbers from 0; distinct blanks each get a code of their own.

    In memory the codes of a column are together. Not to be written to.
    """
    matrix = relation.codes()
    if blanks is Blanks.DISTINCT:
        matrix = matrix.copy(order="F")
        for place, column in enumerate(relation.columns):
            blank = column.codes == BLANK
            matrix[blank, place] = len(column.values) + np.arange(int(blank.sum()))
    return matrix


def _searched(
    relation: Relation,
    blanks: Blanks,
    places: Sequence[int],
    largest: int | None,
    most: int,
    progress: Progress,
    plan: Plan | None,
    budget: Budget | None,
) -> tuple[dict[int, Words], int | None, Plan]:
    """Return the determinants of each place in order, how far they go, and the plan used.

    The place after the last column stands for keys. When most of the time is over, or all of the memory, what
    is left goes into small combinations, level by level.
    """
    allowed = (budget or Budget()).begun()
    matrix = code_matrix(relation, blanks)
    size = len(relation.columns) if largest is None else min(largest, len(relation.columns))
    most_sets = allowed.sets(word_count(matrix.shape[1]))
    if plan is None and _cells_of_pairs(matrix) <= _SMALL_CELLS:
        most = max(most, _SMALL_STEPS)
    most = max(min(most, most_sets), len(places))
    watched = allowed.watching(progress)
    while True:
        try:
            found, used = _by_plan(matrix, places, size, most, most_sets, watched, plan)
            break
        except (OverBudgetError, MemoryError):
            from pravix.discovery.levels import by_levels

            found, size = by_levels(matrix, places, min(size, len(relation.columns)), most, allowed, progress)
            used = Plan.LEVELS
            break
        except TooManyError:
            size = size // 2 if size > 5 else size - 1
    cut = any(hitting.cut for hitting in found.values())
    return {place: in_order(hitting.sets) for place, hitting in found.items()}, size if cut else None, used


def _by_plan(
    matrix: NDArray[np.int32],
    places: Sequence[int],
    largest: int,
    most: int,
    most_sets: int,
    progress: Progress,
    plan: Plan | None,
) -> tuple[dict[int, Hitting], Plan]:
    cells = _cells_of_pairs(matrix)
    if plan is Plan.SMALL or (plan is None and cells <= (_TINY_CELLS if _compiled() else _SMALL_CELLS)):
        try:
            if plan is None:
                return _small(matrix, places, largest, _SMALL_STEPS, _SMALL_COMPARISONS), Plan.SMALL
            return _small(matrix, places, largest, most, sys.maxsize), Plan.SMALL
        except TooManyError:
            if plan is not None:
                raise
    progress("loading compiled code", 0)
    if plan is Plan.HYBRID or (plan is None and cells > _FEW_CELLS):
        from pravix.discovery.hybrid import TooCostlyError, determinants

        pairs_possible = plan is None and cells <= _MANY_CELLS
        checks = cells / _CELLS_FOR_A_ROW / len(matrix) if pairs_possible else float("inf")
        try:
            return determinants(matrix, places, largest, most, checks, most_sets, progress), Plan.HYBRID
        except TooCostlyError:
            pass
    return _pairs(matrix, places, largest, most, most_sets, progress), Plan.PAIRS


def _cells_of_pairs(matrix: NDArray[np.int32]) -> int:
    rows, width = matrix.shape
    return int(rows * (rows - 1) // 2 * width)


def _compiled() -> bool:
    """Return whether the inner loops are compiled already."""
    from pravix.kernels.compiling import MACHINE_CODE

    return MACHINE_CODE is not None


def _small(
    matrix: NDArray[np.int32], places: Sequence[int], largest: int, steps: int, comparisons: int
) -> dict[int, Hitting]:
    from pravix.discovery.hitting import hitting_sets
    from pravix.discovery.maximal import maximal, tighten_by_arrays
    from pravix.discovery.pairs import agree_sets

    sets = agree_sets(matrix)
    if sets.shape[1] * len(sets) ** 2 > comparisons:
        raise TooManyError
    kept = maximal(sets, matrix.shape[1], tighten_by_arrays)
    result = {}
    for place in places:
        result[place], steps = hitting_sets(kept.edges(place), matrix.shape[1], largest, steps)
    return result


def _pairs(
    matrix: NDArray[np.int32],
    places: Sequence[int],
    largest: int,
    most: int,
    most_sets: int,
    progress: Progress,
) -> dict[int, Hitting]:
    from pravix.discovery.hitting_compiled import Hypergraph
    from pravix.discovery.maximal import maximal
    from pravix.discovery.maximal_compiled import tighten
    from pravix.discovery.pairs_compiled import agree_sets

    kept = maximal(agree_sets(matrix, most_sets, progress), matrix.shape[1], tighten, progress)
    shared: Hypergraph | None = None
    result, steps = {}, STEPS_FOR_A_SET * most
    for place in places:
        chosen, allowed = kept.chosen(place), kept.allowed(place)
        if 2 * np.count_nonzero(chosen) >= len(chosen):
            graph = shared = shared or Hypergraph(kept.differing, matrix.shape[1])
        else:
            graph, chosen = Hypergraph(kept.edges(place), matrix.shape[1]), chosen[chosen]
        result[place], steps = graph.hitting_sets(chosen, allowed, largest, most, steps, progress)
        most -= len(result[place].sets)
        if steps < 0 or most < 0:
            raise TooManyError
    return result
