"""Candidates checked on the rows: does every group of rows that agrees on X agree on the dependent?

The columns of X are taken from the one with most different values to the one with fewest. The rows that
agree on all but the last are looked up, group by group; in each group the first row with a value of the
last column is remembered, and every later one is compared with it. One pass checks all dependents of one
X, and ends with the first pairs of rows that break them. Of many rows some of the groups of the first column
are looked at before all of them: what is broken mostly is broken there, and its groups need not be made.
Determinants are checked in an order in which many have all but their last column in common with the one
before, so that its groups can be kept.

Sources: groups as stripped partitions, Y. Huhtala, J. Kärkkäinen, P. Porkka and H. Toivonen, "TANE: an
efficient algorithm for discovering functional and approximate dependencies", The Computer Journal 42(2),
1999; all dependents of a determinant at once, T. Papenbrock and F. Naumann, "A hybrid approach to
functional dependency discovery", SIGMOD 2016.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import groupby
from queue import SimpleQueue
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.neighbours import PositionList
from pravix.kernels.arrays import Bounds, CodeMatrix, Codes, Keys, Pairs, Rows
from pravix.kernels.groups import first_breaks, refined
from pravix.processors import processors


class _Scratch(NamedTuple):
    """Memory that is used again and again: room for rows, for bounds, and for something a code.

    ``tally`` holds zeros between uses. ``seen`` holds for a code the number of a group and a row, and
    ``groups`` how many groups have been numbered.
    """

    rows: Rows
    codes: Codes
    bounds: Bounds
    tally: Bounds
    seen: Keys
    groups: Keys


def _scratch(rows: int, codes: int) -> _Scratch:
    return _Scratch(
        rows=np.empty(rows, dtype=np.int32),
        codes=np.empty(rows, dtype=np.int32),
        bounds=np.empty(rows // 2 + 2, dtype=np.int64),
        tally=np.zeros(codes, dtype=np.int64),
        seen=np.zeros(codes, dtype=np.int64),
        groups=np.zeros(1, dtype=np.int64),
    )


_THREADS = 4
_ROWS_FOR_THREADS = 50_000
_ROWS_FOR_SLICES = 200_000
_SLICES = 16
_COLUMNS_FOR_SLICES = 3

_Kept = list[tuple[int, PositionList]]
"""The groups by the first column of a combination, by the first two, and so on."""


@dataclass(frozen=True)
class Candidate:
    """A determinant and its dependents, by place; the place after the last column is the row itself."""

    determinant: tuple[int, ...]
    dependents: Sequence[int]


class Checking:
    """Checks candidates on one table, given row by row, with the position lists of its columns."""

    def __init__(self, matrix: NDArray[np.int32], lists: Sequence[PositionList]) -> None:
        self._columns: CodeMatrix = np.ascontiguousarray(matrix.T)
        self._lists = lists
        self._some = [_slice(one) for one in lists] if len(matrix) >= _ROWS_FOR_SLICES else []
        self._codes = [int(column.max(initial=-1)) + 1 for column in self._columns]
        whole = np.arange(len(matrix), dtype=np.int32)
        self._all = PositionList(whole, np.array([0, len(whole)], dtype=np.int64))
        self._free: SimpleQueue[_Scratch] = SimpleQueue()
        for _ in range(self._lots_at_a_time):
            self._free.put(_scratch(len(matrix), max(self._codes, default=0)))
        self._rank = np.argsort(np.argsort([-count for count in self._codes], kind="stable")).tolist()

    @property
    def _lots_at_a_time(self) -> int:
        return min(_THREADS, processors()) if len(self._all.rows) >= _ROWS_FOR_THREADS else 1

    def breaking_pairs(self, candidates: Iterable[Candidate]) -> Iterator[tuple[Candidate, Pairs]]:
        """Yield each candidate with a pair of rows that breaks it for each dependent.

        A candidate costs a pass over the rows that agree on all but its last column. Candidates whose
        first two columns are the same are checked together; several such lots run at a time.
        """
        ranked = sorted((self._ranked(one), number, one) for number, one in enumerate(candidates))
        lots = [list(lot) for _, lot in groupby(ranked, key=lambda entry: entry[0][:-1][:2])]
        with ThreadPoolExecutor(self._lots_at_a_time) as pool:
            for lot in pool.map(self._checked, [[one for _, _, one in lot] for lot in lots]):
                yield from lot

    def _ranked(self, candidate: Candidate) -> list[int]:
        return sorted(self._rank[place] for place in candidate.determinant)

    def _checked(self, lot: Sequence[Candidate]) -> list[tuple[Candidate, Pairs]]:
        kept: _Kept = []
        kept_some: _Kept = []
        result = []
        scratch = self._free.get()
        for candidate in lot:
            pairs = np.full((len(candidate.dependents), 2), -1, dtype=np.int64)
            if not candidate.determinant:
                self._break_constants(candidate.dependents, pairs)
            else:
                if self._some and len(candidate.determinant) >= _COLUMNS_FOR_SLICES:
                    self._break(candidate, pairs, self._some, kept_some, scratch)
                self._break(candidate, pairs, self._lists, kept, scratch)
            result.append((candidate, pairs))
        self._free.put(scratch)
        return result

    def _break(
        self,
        candidate: Candidate,
        pairs: Pairs,
        lists: Sequence[PositionList],
        kept: _Kept,
        scratch: _Scratch,
    ) -> None:
        """Fill in pairs of rows that break what is not broken yet, among the rows of some lists."""
        left = np.flatnonzero(pairs[:, 0] < 0)
        if not len(left):
            return
        *before, last = sorted(candidate.determinant, key=self._rank.__getitem__)
        found = self._groups(before, lists, kept, scratch)
        dependents, broken = np.array(candidate.dependents, dtype=np.int64)[left], pairs[left]
        first_breaks(
            found.rows, found.bounds, self._columns, last, dependents,
            scratch.codes, scratch.seen, scratch.groups, broken,
        )  # fmt: skip
        pairs[left] = broken

    def _groups(
        self, places: Sequence[int], lists: Sequence[PositionList], kept: _Kept, scratch: _Scratch
    ) -> PositionList:
        """Return the groups of rows that agree on some columns; ``kept`` holds those of each first part."""
        common = 0
        while common < min(len(places), len(kept)) and kept[common][0] == places[common]:
            common += 1
        del kept[common:]
        for place in places[common:]:
            if kept:
                rows, bounds = kept[-1][1].rows, kept[-1][1].bounds
                groups = PositionList(*refined(rows, bounds, self._columns[place], *scratch[:4]))
            else:
                groups = lists[place]
            kept.append((place, groups))
        return kept[-1][1] if kept else self._all

    def _break_constants(self, dependents: Sequence[int], pairs: Pairs) -> None:
        for k, place in enumerate(dependents):
            other = np.arange(len(self._all.rows)) > 0
            if place < len(self._columns):
                other = self._columns[place] != self._columns[place, 0]
            if other.any():
                pairs[k] = 0, int(np.argmax(other))


def _slice(groups: PositionList) -> PositionList:
    """Return one in so many of some groups."""
    sizes = np.diff(groups.bounds)
    taken = np.arange(len(sizes)) % _SLICES == 0
    rows = groups.rows[np.repeat(taken, sizes)]
    return PositionList(rows, np.concatenate(([0], np.cumsum(sizes[taken]))))
