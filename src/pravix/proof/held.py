"""The rows of a table that others refer to, held in memory as columns and found by what identifies them.

Rows are looked up by hashes, and then compared cell by cell: what is found is equal, and what is not found is
not there.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow
from numpy.typing import NDArray
from pyarrow import compute

from pravix.document.model import TableDocument
from pravix.document.row_hashes import Form, of_arrays
from pravix.proof.table_rows import ROWS_AT_ONCE, Batch, Texts, texts
from pravix.relation.types import Kind, comparable
from pravix.sources.coding import code_array, flags_of, numbers_of

Rows = NDArray[np.int64]
"""Numbers of rows, counted from 0; -1 for none."""

_NOT_SHORTEST = r"[.][0-9]*0$|^-0$"
"""What a number that is not written in the shortest way looks like."""


def compared(cells: Texts, kind: Kind) -> Texts:
    """Return cells as they are compared: numbers by their exact value."""
    if not kind.numeric or not compute.any(compute.match_substring_regex(cells, _NOT_SHORTEST)).as_py():
        return cells
    coded = cells.dictionary_encode()
    told = [comparable(cell, numeric=True) for cell in coded.dictionary.to_pylist()]
    return texts(told).take(coded.indices)


def key_cells(table: TableDocument, cells: Batch, columns: Sequence[str]) -> list[Texts]:
    """Return the cells of some columns of a table as they are compared."""
    return [compared(cells[name], table.column(name).kind) for name in columns]


def key_hashes(cells: Sequence[Texts]) -> NDArray[np.uint64]:
    """Return a hash of the cells in each row, by which equal ones are looked for."""
    return of_arrays(cells, [Form.TEXT] * len(cells)).hashes[:, 0]


def all_filled(cells: Sequence[Texts]) -> NDArray[np.bool_]:
    """Return which rows have no blank among some cells."""
    filled = np.ones(len(cells[0]), dtype=np.bool_)
    for column in cells:
        filled &= numbers_of(compute.binary_length(column)) > 0
    return filled


@dataclass(frozen=True)
class Runs:
    """The rows of a table by what they belong to: those of ``order`` from a start on, so many."""

    order: Rows
    starts: Rows
    counts: Rows

    def of(self, leaders: Rows) -> tuple[Rows, Rows]:
        """Return the rows that belong to each of some first rows, in turn, and how many each has."""
        counts = np.where(leaders < 0, 0, self.counts[leaders]) if len(self.counts) else 0 * leaders
        starts = self.starts[leaders] if len(self.starts) else 0 * leaders
        ends = np.cumsum(counts)
        within = np.arange(int(ends[-1]) if len(ends) else 0) - np.repeat(ends - counts, counts)
        return self.order[np.repeat(starts, counts) + within], counts


class Held:
    """All rows of a table."""

    def __init__(self, table: TableDocument, batches: Iterable[Batch]) -> None:
        self.table = table
        parts: dict[str, list[Texts]] = {name: [] for name in table.column_names}
        for batch in batches:
            for name, cells in batch.items():
                parts[name].append(cells)
        self.cells: Batch = {
            name: pyarrow.concat_arrays(some) if some else texts([]) for name, some in parts.items()
        }
        self._found: dict[tuple[str, ...], _Index] = {}

    @property
    def count(self) -> int:
        """How many rows there are."""
        return len(next(iter(self.cells.values())))

    def batches(self) -> Iterator[Batch]:
        """Yield the rows in their order, some at once."""
        for start in range(0, self.count, ROWS_AT_ONCE):
            yield {name: cells.slice(start, ROWS_AT_ONCE) for name, cells in self.cells.items()}

    def key(self, columns: Sequence[str]) -> list[Texts]:
        """Return the cells of some columns as they are compared."""
        return key_cells(self.table, self.cells, columns)

    def positions(self, columns: Sequence[str], wanted: Sequence[Texts], count: int) -> Rows:
        """Return for each of ``count`` rows of ``wanted`` cells the first row that has them in some columns.

        Nothing has a blank among them. The one row of a table without a key has no columns to be known by.
        """
        if not columns:
            return np.full(count, 0 if self.count else -1)
        known = self._found.get(tuple(columns))
        if known is None:
            known = self._found[tuple(columns)] = _Index(self.key(columns))
        found = known.find(wanted)
        found[~all_filled(wanted)] = -1
        return found

    def runs(self, columns: Sequence[str], *by: NDArray[np.int64]) -> Runs:
        """Return the rows by the first that has the same cells in some columns, those of each in the order
        ``by`` which is given; none of those with a blank among them.
        """
        leaders = self.positions(columns, self.key(columns), self.count)
        order = np.lexsort((*reversed(by), leaders))
        order = order[leaders[order] >= 0]
        counts = np.bincount(leaders[order], minlength=self.count)
        return Runs(order, np.cumsum(counts) - counts, counts)


class _Index:
    """Finds the first row with some cells."""

    def __init__(self, cells: Sequence[Texts]) -> None:
        self._cells = cells
        hashes = key_hashes(cells)
        self._order = np.argsort(hashes, kind="stable")
        self._sorted = hashes[self._order]

    def find(self, wanted: Sequence[Texts]) -> Rows:
        """Return for each row of wanted cells the first that has them, or -1."""
        hashes = key_hashes(wanted)
        first = np.searchsorted(self._sorted, hashes)
        met = first < len(self._sorted)
        met[met] = self._sorted[first[met]] == hashes[met]
        found = np.full(len(hashes), -1)
        found[met] = self._order[first[met]]
        for row in np.flatnonzero(met)[~self._equal(found[met], wanted, met)]:
            found[row] = self._further(int(first[row]), [column[int(row)].as_py() for column in wanted])
        return found

    def _equal(self, rows: Rows, wanted: Sequence[Texts], which: NDArray[np.bool_]) -> NDArray[np.bool_]:
        same = np.ones(len(rows), dtype=np.bool_)
        for own, other in zip(self._cells, wanted, strict=True):
            pair = own.take(code_array(rows)), other.take(code_array(np.flatnonzero(which)))
            same &= flags_of(compute.equal(*pair))
        return same

    def _further(self, place: int, wanted: Sequence[str]) -> int:
        """Return the first row with the wanted cells among those of one hash from a place on, or -1."""
        hashed = self._sorted[place]
        for row in self._order[place:]:
            if key_hashes([column.slice(int(row), 1) for column in self._cells])[0] != hashed:
                break
            if [column[int(row)].as_py() for column in self._cells] == list(wanted):
                return int(row)
        return -1
