"""The yardstick: a textbook level-wise search for minimal dependencies and keys over stripped partitions.

A set of columns X is *free* when no smaller set inside it has as many classes, that is, when no
column of X is determined by the others. Determinants of minimal dependencies and minimal keys are
free, and every part of a free set is free; so the free sets of size n are joined from those of size
n - 1. For each free X the search keeps its closure in the rows: the columns on which every class of
X agrees. The dependencies X -> A that are minimal are those with A in the closure of X and in the
closure of no part of X.

Sources: N. Novelli and R. Cicchetti, "FUN: an efficient algorithm for mining functional and embedded
dependencies", ICDT 2001 (free sets, closures and quasi-closures); Y. Huhtala et al., "TANE", The
Computer Journal 42(2), 1999 (stripped partitions).
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.discovered import Blanks
from pravix.discovery.search import code_matrix
from pravix.relation.grouping import StrippedPartition
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency

ColumnSet = tuple[int, ...]
"""Places of columns in the header, ascending."""


@dataclass(frozen=True, eq=False)
class _Free:
    """A free set's classes of rows, and its closure as a bit mask of places."""

    partition: StrippedPartition
    closure: int


def levelwise(
    relation: Relation, blanks: Blanks = Blanks.EQUAL, seconds: float = float("inf")
) -> tuple[set[Dependency], set[frozenset[str]]]:
    """Return every minimal dependency and every minimal key that holds in the rows.

    Raises TimeoutError when it takes longer than ``seconds``. Exponential in the number of columns; each
    set of columns costs n log n in the rows that share a class, times the number of columns.
    """
    deadline = time.monotonic() + seconds
    matrix = np.asfortranarray(code_matrix(relation, blanks))
    everything = (1 << matrix.shape[1]) - 1
    found: list[tuple[ColumnSet, int]] = []
    keys: list[ColumnSet] = []
    level = {(): _explored((), StrippedPartition.of_all(relation.row_count), 0, matrix, found)}
    while level:
        keys += [columns for columns, free in level.items() if free.partition.unique]
        following = {}
        for columns in _joined(level, everything):
            if time.monotonic() > deadline:
                raise TimeoutError
            following[columns] = _explored(
                columns,
                level[columns[:-1]].partition.refined(matrix[:, columns[-1]]),
                _quasi_closure(columns, level),
                matrix,
                found,
            )
        level = following
    names = relation.names
    return (
        {Dependency(frozenset(names[p] for p in places), names[place]) for places, place in found},
        {frozenset(names[place] for place in key) for key in keys},
    )


def _explored(
    columns: ColumnSet,
    partition: StrippedPartition,
    quasi_closure: int,
    matrix: NDArray[np.int32],
    found: list[tuple[ColumnSet, int]],
) -> _Free:
    """Find the closure of a free set and note the minimal dependencies that it adds."""
    known = quasi_closure | _mask(columns)
    open_places = [place for place in range(matrix.shape[1]) if not known >> place & 1]
    agreeing = partition.constant_columns(matrix[:, open_places])
    added = [place for place, agrees in zip(open_places, agreeing, strict=True) if agrees]
    found.extend((columns, place) for place in added)
    return _Free(partition, known | _mask(added))


def _joined(level: dict[ColumnSet, _Free], everything: int) -> list[ColumnSet]:
    """Return the free sets one column larger: every part is free, and determines no other column."""
    extensions: dict[ColumnSet, list[int]] = {}
    for columns, free in level.items():
        if columns and free.closure != everything:
            extensions.setdefault(columns[:-1], []).append(columns[-1])
    if () in level:
        return [(place,) for place in range(everything.bit_length()) if not level[()].closure >> place & 1]
    return [
        candidate
        for stem, places in extensions.items()
        for position, place in enumerate(places)
        for later in places[position + 1 :]
        if _is_free(candidate := (*stem, place, later), level)
    ]


def _is_free(columns: ColumnSet, level: dict[ColumnSet, _Free]) -> bool:
    for position, place in enumerate(columns):
        part = level.get(columns[:position] + columns[position + 1 :])
        if part is None or part.closure >> place & 1:
            return False
    return True


def _quasi_closure(columns: ColumnSet, level: dict[ColumnSet, _Free]) -> int:
    """Return what the parts of a set determine."""
    mask = 0
    for position in range(len(columns)):
        mask |= level[columns[:position] + columns[position + 1 :]].closure
    return mask


def _mask(places: Sequence[int]) -> int:
    mask = 0
    for place in places:
        mask |= 1 << place
    return mask
