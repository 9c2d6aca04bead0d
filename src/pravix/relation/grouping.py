"""Rows grouped by their values in some columns, and partitions stripped of lone rows.

Source of stripped partitions (position list indexes): Y. Huhtala, J. Kärkkäinen, P. Porkka and
H. Toivonen, "TANE: an efficient algorithm for discovering functional and approximate dependencies",
The Computer Journal 42(2), 1999.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from threading import Lock
from weakref import WeakKeyDictionary, ref

import numpy as np
from numpy.typing import NDArray

from pravix.kernels.arrays import Groups
from pravix.relation.relation import BLANK, Codes, Positions, Relation

_COMPILED_FROM = 20_000
_TABLE_SPREAD = 64
_KEPT_ENTRIES = 12_000_000
_KEPT_OF_SOME = 1_000_000
_SOME_ROWS = (200_000, 1_000_000)


def group_numbers(columns: Sequence[NDArray[np.integer]], row_count: int) -> Groups:
    """Return the group of each row: two rows share one exactly when they agree on all columns.

    ``columns`` are code arrays of length ``row_count``; with none of them all rows share group 0.
    Sorting, n log n in the rows for each column; linear where there are many rows.
    """
    groups = np.zeros(row_count, dtype=np.int32)
    for codes in columns:
        groups = refined(groups, codes)
    return groups


def refined(groups: Groups, codes: NDArray[np.integer]) -> Groups:
    """Return the groups split further by one column."""
    if len(groups) == 0:
        return groups
    if len(groups) >= _COMPILED_FROM:
        from pravix.kernels.groups import split

        return split(groups, np.ascontiguousarray(codes, dtype=np.int32))
    width = int(codes.max()) + 1
    return _dense(groups.astype(np.int64) * width + codes).astype(np.int32)


def _dense(keys: NDArray[np.int64]) -> NDArray[np.intp]:
    if keys.max() < _TABLE_SPREAD * len(keys):
        first_of = np.empty(int(keys.max()) + 1, dtype=np.intp)
        first_of[keys[::-1]] = np.arange(len(keys))[::-1]
        first = first_of[keys]
        return (np.cumsum(first == np.arange(len(keys))) - 1)[first]
    _, first, inverse = np.unique(keys, return_index=True, return_inverse=True)
    order = np.empty(len(first), dtype=np.intp)
    order[np.argsort(first, kind="stable")] = np.arange(len(first))
    return order[inverse]


def first_positions(groups: Groups) -> Positions:
    """Return, for each group, the position of its first row. Linear: groups are numbered as they appear."""
    highest = np.maximum.accumulate(groups)
    return np.concatenate((np.arange(min(1, len(groups))), np.flatnonzero(highest[1:] != highest[:-1]) + 1))


def constant_within(groups: Groups, codes: NDArray[np.integer]) -> bool:
    """Return whether all rows of each group have the same code. Linear."""
    return _constant(groups, first_positions(groups), codes)


def _constant(groups: Groups, first: Positions, codes: NDArray[np.integer]) -> bool:
    return bool((codes[first][groups] == codes).all())


class Groupings:
    """The groups of a relation's rows by many sets of columns, each worked out once and kept.

    The ones not asked for lately are forgotten when together they would take much memory. Several threads may
    ask.
    """

    def __init__(self, relation: Relation) -> None:
        self._relation = ref(relation)
        self._of = relation.columns
        self._row_count = relation.row_count
        self._whole = relation.whole
        self._kept: OrderedDict[frozenset[str], Groups] = OrderedDict()
        self._keeping = Lock()
        self._sizes: dict[frozenset[str], int] = {}

    @cached_property
    def _columns(self) -> dict[str, Codes]:
        return {column.name: column.codes for column in self._of}

    @cached_property
    def _place(self) -> dict[str, int]:
        return {column.name: place for place, column in enumerate(self._of)}

    @property
    def row_count(self) -> int:
        """How many rows are grouped."""
        return self._row_count

    @cached_property
    def samples(self) -> tuple[Groupings, ...]:
        """The groupings of some of the rows, spread over all, of more of them, and last of all."""
        relation = self._relation()
        steps = [-(-self._row_count // count) for count in _SOME_ROWS]
        taken = [np.arange(0, self._row_count, step) for step in steps if step > 1]
        return (*(Groupings(relation.take(some)) for some in taken if relation is not None), self)

    def of(self, columns: Collection[str]) -> Groups:
        """Return the group of each row by a set of columns."""
        wanted = frozenset(columns)
        with self._keeping:
            if wanted in self._kept:
                self._kept.move_to_end(wanted)
                return self._kept[wanted]
        groups = self._made(wanted)
        groups.flags.writeable = False
        most = _KEPT_ENTRIES if self._whole is None else _KEPT_OF_SOME
        with self._keeping:
            self._kept[wanted] = groups
            if len(self._kept) * self._row_count > most:
                self._kept.popitem(last=False)
        return groups

    def size(self, columns: Collection[str]) -> int:
        """Return how many different combinations a set of columns has, in all rows that these stand for."""
        wanted = frozenset(columns)
        if wanted not in self._sizes:
            self._sizes[wanted] = self._size(wanted) if self._whole is None else self._whole.size(wanted)
        return self._sizes[wanted]

    def _size(self, columns: frozenset[str]) -> int:
        """Return how many combinations there are; with a column that differs in every row one a row."""
        if len(columns) == 1:
            return int(np.count_nonzero(np.bincount(self._columns[min(columns)])))
        if any(self.size({name}) == self._row_count for name in columns):
            return self._row_count
        return int(self.of(columns).max(initial=-1)) + 1

    def reaches(self, columns: Collection[str], least: float) -> bool:
        """Return whether a set of columns has at least so many different combinations.

        More columns never have fewer, so they are added one by one, finest first, until there are enough.
        Where the rows are some of many, those here mostly tell; where not, all are asked.
        """
        if self._whole is not None:
            told = self.told_here(columns, least, self._whole.row_count)
            return self.size(columns) >= least if told is None else told
        finest = sorted(columns, key=lambda name: (-self.size({name}), self._place[name]))
        return any(self.size(finest[: count + 1]) >= least for count in range(len(finest)))

    def told_here(self, columns: Collection[str], least: float, total: int) -> bool | None:
        """Return what rows drawn from all tell of how many combinations these have; None for nothing.

        A share of combinations falls with the number of rows. Of pairs of rows that agree there are as many
        times more as there are pairs of rows.
        """
        sizes = np.bincount(self.of(columns))
        if len(sizes) / self._row_count < least / total:
            return False
        pairs = float((sizes * (sizes - 1) / 2).sum()) + 1.0
        sharing = 2 * pairs * (total / self._row_count) ** 2
        return True if total - sharing >= least else None

    def _made(self, columns: frozenset[str]) -> Groups:
        """Return the groups, made from those of a part that is kept where there is one."""
        names = sorted(columns, key=self._place.__getitem__)
        if len(names) < 2:
            return group_numbers([self._columns[name] for name in names], self._row_count)
        last = next((name for name in names if columns - {name} in self._kept), names[-1])
        return refined(self.of(columns - {last}), self._columns[last])


_SHARED: WeakKeyDictionary[Relation, Groupings] = WeakKeyDictionary()


def groupings_of(relation: Relation) -> Groupings:
    """Return the groupings of a relation, which all who ask for them share."""
    return _SHARED.setdefault(relation, Groupings(relation))


def groups_by(relation: Relation, names: Iterable[str]) -> Groups:
    """Return the group of each row of a relation by the columns named; not to be written to."""
    return groupings_of(relation).of(frozenset(names))


def distinct_rows(relation: Relation, names: Sequence[str], key: Collection[str] = ()) -> Relation:
    """Return the different combinations of the columns named, in the order of first appearance.

    Each keeps the number of the first row that holds it. Where some of the columns, a ``key``, are seen to
    determine the others, the rows are grouped by them alone.
    """
    groups = groups_by(relation, key or names)
    first = first_positions(groups)
    rest = [relation.column(name).codes for name in names if name not in key]
    if not key or not all(_constant(groups, first, codes) for codes in rest):
        first = first_positions(groups_by(relation, names))
    found = relation.project(names)
    return found if len(first) == relation.row_count and relation.whole is None else found.take(first)


def blank_in(relation: Relation, names: Iterable[str]) -> NDArray[np.bool_]:
    """Return, for each row, whether any of the columns named is blank."""
    blank = np.zeros(relation.row_count, dtype=np.bool_)
    for column in map(relation.column, names):
        if column.blanks:
            blank |= column.codes == BLANK
    return blank


@dataclass(frozen=True, eq=False)
class StrippedPartition:
    """The classes of rows that agree on some columns, without the rows that stand alone.

    ``rows`` lists the positions of the rows that share their class with another, class by class;
    ``class_of`` holds the class of each, dense from 0. A superkey has no such rows.
    """

    rows: Positions
    class_of: Groups

    @classmethod
    def of_all(cls, row_count: int) -> StrippedPartition:
        """Return the partition by no column: all rows in one class (none when there is one row)."""
        size = row_count if row_count > 1 else 0
        return cls(np.arange(size), np.zeros(size, dtype=np.intp))

    @property
    def unique(self) -> bool:
        """Whether no two rows agree."""
        return len(self.rows) == 0

    def refined(self, codes: Codes) -> StrippedPartition:
        """Return the classes split further by one column, lone rows dropped. n log n."""
        if self.unique:
            return self
        inner = codes[self.rows]
        keys = self.class_of.astype(np.int64) * (int(inner.max()) + 1) + inner
        order = np.argsort(keys, kind="stable")
        keys = keys[order]
        starts = np.flatnonzero(np.concatenate(([True], keys[1:] != keys[:-1])))
        sizes = np.diff(np.append(starts, len(keys)))
        shared = sizes > 1
        rows = self.rows[order][np.repeat(shared, sizes)]
        return StrippedPartition(rows, np.repeat(np.arange(int(shared.sum())), sizes[shared]))

    def constant_columns(self, matrix: NDArray[np.integer]) -> NDArray[np.bool_]:
        """Return, for each column of a row-by-column code matrix, whether every class agrees on it."""
        if self.unique:
            return np.ones(matrix.shape[1], dtype=np.bool_)
        starts = np.flatnonzero(np.concatenate(([True], self.class_of[1:] != self.class_of[:-1])))
        leading = self.rows[starts][self.class_of]
        agrees: NDArray[np.bool_] = (matrix[self.rows] == matrix[leading]).all(axis=0)
        return agrees


def is_unique(relation: Relation, names: Collection[str]) -> bool:
    """Return whether no row has a blank in some columns and no two rows agree on them."""
    if blank_in(relation, names).any():
        return False
    return int(groups_by(relation, names).max(initial=-1)) + 1 == relation.row_count
