"""The relation: columns of integer codes with their dictionaries, and the file's row numbers."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np
from numpy.typing import NDArray

from pravix.relation.texts import chosen
from pravix.relation.whole import Whole

BLANK = 0
"""The code of a blank cell, in every column."""

Codes = NDArray[np.int32]
Positions = NDArray[np.intp]


@dataclass(frozen=True)
class Spread:
    """How the cells of a column are spread over all rows.

    Its ``distinct`` values, how many cells are ``filled`` and how many ``blanks``, and the most ``frequent``
    values with how often each occurs; all of them where there are few.
    """

    distinct: int
    filled: int
    blanks: int
    frequent: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, eq=False)
class Column:
    """One column: a code for each row, and the text of each code.

    ``codes`` has one entry a row, from 0 to ``len(values) - 1``. Equal codes mean equal text. Code 0
    is the blank, whether or not a blank occurs; ``values[0]`` is the empty text. Many values are ``Texts``,
    made when they are asked for: to go through all of them is quick, to ask for them one by one is not. Where
    the rows are some of many, ``whole`` says how those are spread; then ``distinct``, ``filled`` and
    ``blanks`` are about them.
    ``taken_from`` is the column of which these are some rows.
    """

    name: str
    codes: Codes
    values: Sequence[str]
    whole: Spread | None = None
    taken_from: Column | None = None

    @classmethod
    def from_texts(cls, name: str, texts: Iterable[str]) -> Column:
        """Code texts in the order of their first appearance; the empty text is the blank."""
        known: dict[str, int] = {"": BLANK}
        codes = np.fromiter((known.setdefault(text, len(known)) for text in texts), dtype=np.int32)
        return cls(name, codes, list(known))

    def text(self, position: int) -> str:
        """Return the cell in the row at ``position`` (0 is the first row)."""
        return self.values[int(self.codes[position])]

    def texts(self) -> list[str]:
        """Return all cells from the first row to the last."""
        return chosen(self.values, self.codes.tolist())

    @cached_property
    def counts(self) -> NDArray[np.intp]:
        """How many rows hold each code, indexed by code."""
        return np.bincount(self.codes, minlength=len(self.values))

    @cached_property
    def spread(self) -> Spread:
        """How its cells are spread."""
        if self.whole is not None:
            return self.whole
        blanks = int(self.counts[BLANK])
        return Spread(self._present, len(self.codes) - blanks, blanks)

    @property
    def blanks(self) -> int:
        """The number of blank cells."""
        return self.spread.blanks

    @property
    def filled(self) -> int:
        """The number of cells that are not blank."""
        return self.spread.filled

    @property
    def distinct(self) -> int:
        """The number of different values that occur, blanks left out."""
        return self.spread.distinct

    @cached_property
    def _present(self) -> int:
        return int(np.count_nonzero(self.counts[1:]))

    @cached_property
    def same_values(self) -> Column:
        """The column that this one was taken from, if all its values are here, or else the column itself.

        What follows from the values alone is worked out once for both.
        """
        one = self.taken_from
        return one if one is not None and one._present == self._present else self

    @property
    def present_codes(self) -> Positions:
        """The codes that occur in the rows here, but for that of the blank."""
        return np.flatnonzero(self.counts[1:]) + 1

    @cached_property
    def present_values(self) -> Sequence[str]:
        """The different values that occur in the rows here, blanks left out, in the order of their codes."""
        if self.same_values is not self:
            return self.same_values.present_values
        if self._present == len(self.values) - 1:
            return self.values[1:]
        return chosen(self.values, self.present_codes.tolist())

    @cached_property
    def value_set(self) -> frozenset[str]:
        """The different values that occur in the rows here, blanks left out."""
        same = self.same_values
        return frozenset(self.present_values) if same is self else same.value_set


@dataclass(frozen=True, eq=False)
class Relation:
    """Columns of equal length under different names.

    ``row_numbers`` holds, for each row, the number under which its file knows it: the header is
    row 1 of a plain CSV file, the first record row 2. Where the rows are some of many, ``whole`` answers for
    all of them.
    """

    columns: tuple[Column, ...]
    row_numbers: NDArray[np.int64]
    whole: Whole | None = None

    @classmethod
    def from_rows(cls, names: Sequence[str], rows: Sequence[Sequence[str]]) -> Relation:
        """Build a relation from rows of text, numbered as in a file with one header row."""
        columns = tuple(
            Column.from_texts(name, (row[place] for row in rows)) for place, name in enumerate(names)
        )
        return cls(columns, np.arange(2, len(rows) + 2, dtype=np.int64))

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The column names, in the order of the header."""
        return tuple(column.name for column in self.columns)

    @property
    def row_count(self) -> int:
        """The number of rows here."""
        return len(self.row_numbers)

    @property
    def total(self) -> int:
        """The number of rows that it stands for: all of them, where those here are some of many."""
        return self.row_count if self.whole is None else self.whole.row_count

    def codes(self) -> NDArray[np.int32]:
        """Return the codes row by column, in memory column after column; not to be written to.

        They are copied only where the columns do not lie so already.
        """
        width = len(self.columns)
        laid = self.columns[0].codes.base if self.columns else None
        if laid is not None and laid.shape == (self.row_count, width) and laid.flags.f_contiguous:
            starts = [laid[:, place].ctypes.data for place in range(width)]
            if [column.codes.ctypes.data for column in self.columns] == starts:
                return laid
        matrix = np.empty((self.row_count, width), dtype=np.int32, order="F")
        for place, column in enumerate(self.columns):
            matrix[:, place] = column.codes
        return matrix

    def column(self, name: str) -> Column:
        """Return the column called ``name``; KeyError when there is none."""
        return self._by_name[name]

    @cached_property
    def _by_name(self) -> dict[str, Column]:
        return {column.name: column for column in self.columns}

    def project(self, names: Iterable[str]) -> Relation:
        """Return the named columns, in that order, with every row kept."""
        return Relation(tuple(self.column(name) for name in names), self.row_numbers, self.whole)

    def take(self, positions: Positions) -> Relation:
        """Return the rows at ``positions``, in that order."""
        columns = tuple(
            Column(column.name, column.codes[positions], column.values, None, column.taken_from or column)
            for column in self.columns
        )
        return Relation(columns, self.row_numbers[positions])

    def without(self, left_out: NDArray[np.bool_]) -> Relation:
        """Return the other rows: the relation itself where none is left out."""
        return self.take(np.flatnonzero(~left_out)) if left_out.any() else self

    def agreeing_positions(self, numbers: Sequence[int], names: Sequence[str]) -> tuple[int, ...]:
        """Return a position for each row number; of several with one number those that agree on most columns.

        ``names`` are those columns, the first of which count most.
        """
        found = [np.flatnonzero(self.row_numbers == number).tolist() for number in numbers]
        if all(len(places) == 1 for places in found):
            return tuple(places[0] for places in found)
        codes = [self.column(name).codes for name in names]
        return max(
            product(*found), key=lambda places: [len({*one[list(places)].tolist()}) == 1 for one in codes]
        )

    def rows(self) -> list[tuple[str, ...]]:
        """Return every row as a tuple of texts."""
        return list(zip(*(column.texts() for column in self.columns), strict=True))
