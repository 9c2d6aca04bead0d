"""The agree sets of all pairs of rows in compiled code; see ``pairs``."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.budget import OverBudgetError
from pravix.discovery.columnsets import distinct, word_count
from pravix.discovery.wordset import WordSet
from pravix.kernels.arrays import SmallCodes, Words
from pravix.kernels.pairs import BLOCK, compare, mark
from pravix.processors import processors
from pravix.progress import Progress

_LOT = 64

_FEW = 20
"""Of so many columns each set is marked in a table of bytes, that is quick to get at; of more, ..."""

_RECENT = 16
"""... two to the power of so many sets are kept that were met before."""


def agree_sets(matrix: NDArray[np.integer], most: int, progress: Progress) -> Words:
    """Return the different agree sets of all pairs of rows of a row-by-column code matrix.

    The rows are dealt out to as many threads as there are processors. Time: the pairs times the columns,
    some 0.1 nanoseconds for each where these are few, or else 0.2. Memory: the cells at two bytes, and the
    different agree sets. Raises OverBudgetError where a thread meets more than ``most``.
    """
    width = matrix.shape[1]
    codes = int(matrix.max(initial=0)) + 1
    kind = np.uint8 if codes <= 1 << 8 else np.uint16 if codes <= 1 << 16 else np.uint32
    columns = np.ascontiguousarray(matrix.T.astype(kind))
    threads = processors()
    with ThreadPoolExecutor(threads) as pool:
        parts = pool.map(lambda first: _dealt(columns, first, threads, most, progress), range(threads))
        return distinct(np.concatenate([np.empty((0, word_count(width)), dtype=np.uint64), *parts]))


def _dealt(columns: SmallCodes, first: int, threads: int, most: int, progress: Progress) -> Words:
    """Return the agree sets of every ``threads``-th lot of rows, from the lot ``first`` on.

    A lot is compared with a block of rows at a time, which then stays near the processor.
    """
    width, rows = columns.shape
    met = _Marked(columns, most) if width <= _FEW else _Listed(columns, most)
    for start in range(first * _LOT, rows - 1, threads * _LOT):
        end = min(start + _LOT, rows - 1)
        for base in range(start + 1, rows, BLOCK):
            met.compare(start, end, base)
        progress("comparing rows", end)
    return met.sets()


class _Marked:
    """The agree sets met of few columns: each has a place of its own in a table."""

    def __init__(self, columns: SmallCodes, most: int) -> None:
        self._columns = columns
        self._most = most
        self._met = np.zeros(1 << len(columns), dtype=np.uint8)

    def compare(self, first: int, last: int, base: int) -> None:
        mark(self._columns, first, last, base, self._met)

    def sets(self) -> Words:
        found = np.flatnonzero(self._met).astype(np.uint64)
        if len(found) > self._most:
            raise OverBudgetError
        return (found << np.uint64(64 - len(self._columns)))[:, np.newaxis]


class _Listed:
    """The agree sets met of many columns, listed; those met last are passed over quickly."""

    def __init__(self, columns: SmallCodes, most: int) -> None:
        self._columns = columns
        self._found = WordSet(word_count(len(columns)), most)
        self._recent = np.zeros((1 << _RECENT, word_count(len(columns))), dtype=np.uint64)
        self._recent[0, 0] = 1  # The empty set belongs here, and nothing else: it is still to be met.

    def compare(self, first: int, last: int, base: int) -> None:
        found, shift = self._found, np.uint64(64 - _RECENT)
        while first < last:
            found.make_room(2 * BLOCK)
            first, found.count = compare(
                self._columns,
                first,
                last,
                base,
                self._recent,
                shift,
                found.slots,
                found.listed,
                found.count,
            )

    def sets(self) -> Words:
        return self._found.sets
