"""Stored and new rows beside each other: which agree, which differ, and where a rule may be broken."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.relation.grouping import first_positions, groups_by
from pravix.relation.relation import BLANK, Column, Positions, Relation
from pravix.validation.new_rows import ArrivedRows


def rows_with(column: Column, values: Collection[str]) -> list[int]:
    """Return the positions of the rows that have one of some values in a column."""
    if not values:
        return []
    wanted = set(values)
    has = np.array([value in wanted for value in column.values], np.bool_)
    return np.flatnonzero(has[column.codes]).tolist()


@dataclass(frozen=True, eq=False)
class SideBySide:
    """Stored rows and new ones; ``relation`` has all of them coded alike, the stored ones first.

    A column that some of them lack is blank there.
    """

    stored: ArrivedRows
    new: ArrivedRows
    relation: Relation

    @classmethod
    def of(cls, stored: ArrivedRows, new: ArrivedRows) -> SideBySide:
        """Put rows beside each other. Linear in the rows and in the different cells."""
        sides = (stored.values, new.values)
        names = dict.fromkeys(name for side in sides for name in side.names)
        return cls(stored, new, one_below_another(names, sides))

    def without(self, left_out: NDArray[np.bool_]) -> SideBySide:
        """Return the same without some of the new rows."""
        if not left_out.any():
            return self
        kept, count = np.flatnonzero(~left_out), len(self.stored)
        rows = np.concatenate((np.arange(count), count + kept))
        return SideBySide(self.stored, self.new.take(kept), self.relation.take(rows))

    def stored_alike(self, names: Iterable[str]) -> Positions:
        """Return for each new row the last stored one that has the same cells in some columns, or -1."""
        groups = groups_by(self.relation, names)
        count = len(self.stored)
        last = np.full(int(groups.max(initial=-1)) + 1, -1)
        last[groups[:count]] = np.arange(count)
        return last[groups[count:]]

    def differing(self, old: Positions) -> NDArray[np.bool_]:
        """Return which new rows differ in a cell from the stored one that is given for each; -1 for none."""
        found = np.zeros(len(self.new), dtype=np.bool_)
        there, count = np.flatnonzero(old >= 0), len(self.stored)
        for name in self.new.values.names:
            codes = self.relation.column(name).codes
            found[there] |= codes[count:][there] != codes[old[there]]
        return found

    def disagreeing(self, determinant: Collection[str], dependent: str) -> tuple[ArrivedRows, ArrivedRows]:
        """Return the stored and the new rows that some other row contradicts: equal in the ``determinant``,
        but not in what depends on it.
        """
        known = self.relation.names
        groups = groups_by(self.relation, [name for name in determinant if name in known])
        if dependent not in known:
            return self.stored.take(np.zeros(0, np.intp)), self.new.take(np.zeros(0, np.intp))
        codes = self.relation.column(dependent).codes
        broken = np.zeros(int(groups.max(initial=-1)) + 1, dtype=np.bool_)
        broken[groups[codes[first_positions(groups)][groups] != codes]] = True
        rows, count = np.flatnonzero(broken[groups]), len(self.stored)
        return self.stored.take(rows[rows < count]), self.new.take(rows[rows >= count] - count)


def one_below_another(names: Iterable[str], parts: Sequence[Relation]) -> Relation:
    """Return the rows of several relations one after the other, with some columns, coded alike.

    A column that some of them lack is blank there.
    """
    numbers = np.concatenate([part.row_numbers for part in parts])
    return Relation(tuple(_together(name, parts) for name in names), numbers)


def _together(name: str, sides: Iterable[Relation]) -> Column:
    """Return a column of the rows of several relations, one after the other."""
    known = {"": BLANK}
    parts = []
    for side in sides:
        if name not in side.names:
            parts.append(np.full(side.row_count, BLANK, np.int32))
            continue
        column = side.column(name)
        table = np.array([known.setdefault(value, len(known)) for value in column.values], np.int32)
        parts.append(table[column.codes])
    return Column(name, np.concatenate(parts), list(known))
