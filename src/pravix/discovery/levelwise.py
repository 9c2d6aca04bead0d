"""A level-wise search for minimal dependencies and keys over stripped partitions.

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

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.discovered import Blanks, Discovery, Progress, silent
from pravix.relation.grouping import StrippedPartition
from pravix.relation.relation import BLANK, Relation
from pravix.theory.dependency import Dependency

DEFAULT_BUDGET = 60_000
"""Sets of columns that a search without a limit looks at before it stops after a whole level."""

ColumnSet = tuple[int, ...]
"""Places of columns in the header, ascending."""


@dataclass(frozen=True, eq=False)
class _Free:
    """A free set's classes of rows, and its closure as a bit mask of places."""

    partition: StrippedPartition
    closure: int


def discover(
    relation: Relation,
    blanks: Blanks = Blanks.EQUAL,
    largest: int | None = None,
    budget: int | None = DEFAULT_BUDGET,
    progress: Progress = silent,
) -> Discovery:
    """Return every minimal dependency and every minimal key that holds in the rows.

    ``largest`` limits the number of columns in a determinant or key. ``budget`` limits how many sets
    of columns are looked at: the search stops before a level that would exceed it. Either limit, where
    it is reached, shows in ``searched_to``. Exponential in the number of columns in the worst case;
    each set costs n log n in the rows that share a class, times the number of columns.
    """
    matrix = _code_matrix(relation, blanks)
    width = matrix.shape[1]
    everything = (1 << width) - 1
    found: list[tuple[ColumnSet, int]] = []
    keys: list[ColumnSet] = []
    level: dict[ColumnSet, _Free] = {
        (): _explored((), StrippedPartition.of_all(relation.row_count), 0, matrix, found)
    }
    looked_at, size = 1, 0
    searched_to: int | None = None
    while True:
        progress("searching determinants", size)
        keys += [columns for columns, free in level.items() if free.partition.unique]
        candidates = _joined(level, everything)
        if not candidates:
            break
        if (largest is not None and size >= largest) or (
            budget is not None and size > 0 and looked_at + len(candidates) > budget
        ):
            searched_to = size
            break
        looked_at += len(candidates)
        size += 1
        level = {
            columns: _explored(
                columns,
                level[columns[:-1]].partition.refined(matrix[:, columns[-1]]),
                _quasi_closure(columns, level),
                matrix,
                found,
            )
            for columns in candidates
        }
    return _named(relation.names, found, keys, searched_to)


def _code_matrix(relation: Relation, blanks: Blanks) -> NDArray[np.int32]:
    """Return the codes, row by column; distinct blanks each get a code of their own."""
    matrix = np.empty((relation.row_count, len(relation.columns)), dtype=np.int32, order="F")
    for place, column in enumerate(relation.columns):
        matrix[:, place] = column.codes
        if blanks is Blanks.DISTINCT:
            blank = column.codes == BLANK
            matrix[blank, place] = len(column.values) + np.arange(int(blank.sum()))
    return matrix


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


def _named(
    names: Sequence[str],
    found: list[tuple[ColumnSet, int]],
    keys: list[ColumnSet],
    searched_to: int | None,
) -> Discovery:
    found.sort(key=lambda pair: (pair[1], len(pair[0]), pair[0]))
    keys.sort(key=lambda columns: (len(columns), columns))
    return Discovery(
        tuple(Dependency(frozenset(names[p] for p in places), names[place]) for places, place in found),
        tuple(frozenset(names[place] for place in key) for key in keys),
        searched_to,
    )
