"""Orders of the rows in which like rows are neighbours, and the agree sets of neighbours.

For each column the rows are ordered by its codes, within a code by the column before it, and so on
around the header. Rows that share a value stand together, so that the order is at once the column's
position list, and the more two rows agree the nearer they are. Pairs of rows at a small distance in
these orders teach most. (Source for the idea: T. Papenbrock and F. Naumann, "A hybrid approach to
functional dependency discovery", SIGMOD 2016.)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.wordset import WordSet
from pravix.kernels.arrays import Bounds, Rows
from pravix.kernels.groups import sorted_by
from pravix.kernels.neighbours import compare
from pravix.progress import Progress

_AT_ONCE = 20_000
_STEPS_A_COLUMN = 4


@dataclass(frozen=True, eq=False)
class PositionList:
    """The rows that share their value of a column with another row, value by value.

    The rows of the value k are ``rows[bounds[k]:bounds[k + 1]]``.
    """

    rows: Rows
    bounds: Bounds


def position_lists(matrix: NDArray[np.int32]) -> list[PositionList]:
    """Return the position list of every column. Linear in the cells."""
    order = np.arange(len(matrix), dtype=np.int32)
    lists: list[PositionList] = []
    for place in range(matrix.shape[1]):
        codes = np.ascontiguousarray(matrix[:, place])
        counts = np.bincount(codes)
        if counts.max(initial=0) > 1:
            order = sorted_by(codes, order, len(counts))
            shared = counts > 1
            rows = order if shared[counts > 0].all() else order[np.repeat(shared, counts)]
            lists.append(PositionList(rows, np.concatenate(([0], np.cumsum(counts[shared])))))
        else:
            lists.append(PositionList(order[:0], np.zeros(1, dtype=np.int64)))
    return lists


class Sampling:
    """Compares neighbours in the position lists, those first that have taught most so far."""

    def __init__(self, matrix: NDArray[np.int32], lists: list[PositionList], found: WordSet) -> None:
        self._matrix = matrix
        self._lists = lists
        self._found = found
        self._stride = [-(-len(one.rows) // _AT_ONCE) for one in lists]
        self._steps = [0] * len(lists)
        self._yield = [1.0 if len(one.rows) else 0.0 for one in lists]

    def compare(self, enough: float, most: float, progress: Progress) -> None:
        """Compare until no column yields ``enough`` new agree sets for a pair, or ``most`` are found.

        It ends after some steps in any case. A step takes at most ``_AT_ONCE`` rows spread over a column's
        list. When the list has been gone through, the distance of the rows compared grows by one.
        """
        found = self._found
        for _ in range(_STEPS_A_COLUMN * len(self._lists)):
            if max(self._yield) <= enough or found.count > most:
                break
            place = max(range(len(self._lists)), key=self._yield.__getitem__)
            rows, before = self._lists[place].rows, found.count
            distance, start = divmod(self._steps[place], self._stride[place])
            self._steps[place] += 1
            progress("comparing rows", found.count)
            found.make_room(_AT_ONCE)
            compared, found.count = compare(
                self._matrix, rows, place, start, self._stride[place], distance + 1,
                found.slots, found.listed, before,
            )  # fmt: skip
            self._yield[place] = (found.count - before) / compared if compared else 0.0
