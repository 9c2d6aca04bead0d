"""The rows of a table, batch after batch, held against what its design says of them: all but the join."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from decimal import Decimal
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from pyarrow import compute

from pravix.document.model import CheckDocument, ColumnDocument, LinkDocument, TableDocument
from pravix.proof.held import Held, all_filled, key_cells, key_hashes
from pravix.proof.repeats import Repeats
from pravix.proof.table_rows import BLANK, Batch, TableRows, Texts
from pravix.relation.types import Kind, fits, shape, sure_number
from pravix.sources.coding import code_array
from pravix.wording import joined, shortened

_REMEMBERED = 200_000
"""So many different cells of a column are remembered as sound."""


class TableCheck:
    """Looks at all rows of a table: keys, and the references to the tables ``there``; if ``cells`` are to be
    looked at as well, also types, blanks and checks.

    ``awaited`` are the references to this table of such as are not there for it to look at: they wait until
    all its rows were seen.
    """

    def __init__(
        self,
        rows: TableRows,
        table: TableDocument,
        there: Mapping[str, Held],
        cells: bool,
        awaited: Sequence[Awaited] = (),
    ) -> None:
        self._rows = rows
        self._count = 0
        self._checks: list[_Check] = []
        if cells:
            self._checks += [_ColumnCheck(rows, table, column) for column in table.columns]
        unique = [(check.column,) for check in table.made_checks("unique")]
        keys = dict.fromkeys((table.primary_key, *table.candidate_keys, *unique))
        self._checks += [_KeyCheck(rows, table, key) for key in keys]
        self._checks += [
            _LinkCheck(rows, table, link, there[link.references.table])
            for link in table.foreign_keys
            if link.references.table in there
        ]
        self._awaited = awaited

    def look(self, batch: Batch) -> None:
        """Look at the rows that come next."""
        for check in (*self._checks, *self._awaited):
            check.look(batch, self._count)
        self._count += len(next(iter(batch.values())))

    def broken(self) -> Iterator[str]:
        """Yield what is not as it should be, after all rows were looked at; of each thing the first row."""
        yield from self._rows.broken
        for check in (*self._checks, *self._awaited):
            yield from check.broken()


class _Check(Protocol):
    """One thing that is looked at."""

    def look(self, batch: Batch, start: int, /) -> None:
        """Look at rows of which ``start`` is the first."""

    def broken(self) -> Iterator[str]:
        """Yield what is not as it should be."""


class _ColumnCheck:
    """Looks for the first cell of a column that its type, its blanks or one of its checks does not allow."""

    def __init__(self, rows: TableRows, table: TableDocument, column: ColumnDocument) -> None:
        self._rows = rows
        self._column = column
        made = [_checked(check, column) for check in table.checks if check.made]
        checks = [test for test in made if test is not None]
        self._tests = [_typed(column), *checks]
        self._surely = None if checks else _surely_typed(column)
        self._sound = {""} if column.nullable else set[str]()
        self._wrong: tuple[int, str] | None = None

    def look(self, batch: Batch, start: int) -> None:
        cells = batch[self._column.name]
        if self._wrong is None and not self._all_sound(cells):
            wrong = {cell for cell in compute.unique(cells).to_pylist() if not self._allows(cell)}
            place = next((n for n, cell in enumerate(cells.to_pylist()) if cell in wrong), None)
            if place is not None:
                self._wrong = start + place, cells[place].as_py()

    def _all_sound(self, cells: Texts) -> bool:
        """Whether Arrow tells already that all are; what it does not tell is looked at cell by cell."""
        if self._surely is None:
            return False
        sound = self._surely(cells)
        if self._column.nullable:
            sound = compute.or_(sound, compute.equal(cells, BLANK))
        return bool(compute.all(sound).as_py())

    def _allows(self, cell: str) -> bool:
        if cell in self._sound:
            return True
        allowed = bool(cell) and all(test(cell) for test in self._tests)
        if allowed and len(self._sound) < _REMEMBERED:
            self._sound.add(cell)
        return allowed

    def broken(self) -> Iterator[str]:
        if self._wrong is not None:
            row, cell = self._wrong
            told, line = shortened(cell) or "a blank", self._rows.line(row)
            yield f"{self._rows.file}, line {line}: {told} cannot stand in {self._column.name}"


class _KeyCheck:
    """Looks for the first row in which some columns have cells that a row before has."""

    def __init__(self, rows: TableRows, table: TableDocument, key: Sequence[str]) -> None:
        self._rows = rows
        self._table = table
        self._key = key
        self._count = 0
        self._hashes = Repeats()

    def look(self, batch: Batch, _start: int) -> None:
        if self._key:
            cells = key_cells(self._table, batch, self._key)
            self._hashes.add(key_hashes(cells)[all_filled(cells)])
        self._count += len(next(iter(batch.values())))

    def broken(self) -> Iterator[str]:
        if not self._key and self._count > 1:
            yield f"{self._rows.file} holds {self._count:,} rows, and can hold one only"
        again = self._hashes.found()
        if len(again):
            yield from self._first_again(again)

    def _first_again(self, again: NDArray[np.uint64]) -> Iterator[str]:
        """Yield the first row that repeats a key, of those with one of the hashes that came again."""
        seen: dict[tuple[str, ...], int] = {}
        start = 0
        for batch in self._rows.batches():
            cells = key_cells(self._table, batch, self._key)
            for place in np.flatnonzero(np.isin(key_hashes(cells), again) & all_filled(cells)).tolist():
                key = tuple(column[place].as_py() for column in cells)
                before = seen.setdefault(key, start + place)
                if before != start + place:
                    told = joined(
                        [f"{name} {shortened(cell)}" for name, cell in zip(self._key, key, strict=True)]
                    )
                    here, there = self._rows.line(start + place), self._rows.line(before)
                    yield f"{self._rows.file}, line {here}: {told} stands in line {there} already"
                    return
            start += len(cells[0])


class _LinkCheck:
    """Looks for the first row whose reference finds nothing."""

    def __init__(self, rows: TableRows, table: TableDocument, link: LinkDocument, other: Held) -> None:
        self._rows = rows
        self._table = table
        self._link = link
        self._other = other
        self._lost: tuple[int, list[str]] | None = None

    def look(self, batch: Batch, start: int) -> None:
        if self._lost is not None:
            return
        cells = key_cells(self._table, batch, self._link.columns)
        found = self._other.positions(self._link.references.columns, cells, len(cells[0]))
        lost = np.flatnonzero((found < 0) & all_filled(cells))
        if len(lost):
            place = int(lost[0])
            self._lost = start + place, [column[place].as_py() for column in cells]

    def broken(self) -> Iterator[str]:
        if self._lost is not None:
            row, cells = self._lost
            yield _lost_told(self._rows, row, cells, self._link)


class Awaited:
    """The rows of a table, held, that refer to another one, of which the rows come batch after batch."""

    def __init__(self, rows: TableRows, held: Held, link: LinkDocument, other: TableDocument) -> None:
        self._rows = rows
        self._held = held
        self._link = link
        self._other = other
        cells = held.key(link.columns)
        self._first = held.positions(link.columns, cells, held.count)
        self._met = np.zeros(held.count, dtype=np.bool_)

    def look(self, batch: Batch, _start: int) -> None:
        """Mark what the rows that come next are referred to by."""
        cells = key_cells(self._other, batch, self._link.references.columns)
        found = self._held.positions(self._link.columns, cells, len(cells[0]))
        self._met[found[found >= 0]] = True

    def broken(self) -> Iterator[str]:
        """Yield the first row whose reference found nothing."""
        lost = np.flatnonzero((self._first >= 0) & ~self._met[self._first])
        if len(lost):
            row = int(lost[0])
            cells = [column[row].as_py() for column in self._held.key(self._link.columns)]
            yield _lost_told(self._rows, row, cells, self._link)


def _lost_told(rows: TableRows, row: int, cells: Sequence[str], link: LinkDocument) -> str:
    told = joined([shortened(cell) for cell in cells])
    key = " and ".join(link.references.columns)
    return f"{rows.file}, line {rows.line(row)}: {told} is no {key} of {link.references.table}"


_Test = Callable[[str], bool]


def _typed(column: ColumnDocument) -> _Test:
    """Return the test of a column's type: its kind, and the room for it."""
    kind, digits, scale, length = column.kind, column.digits, column.scale, column.length

    def holds(cell: str) -> bool:
        if not fits(kind, cell, column.iso):
            return False
        if kind is Kind.DECIMAL:
            whole, _, part = cell.lstrip("-").partition(".")
            return len(part) <= scale and len(whole) <= max(digits - scale, 1)
        return len(cell.lstrip("-")) <= digits if kind is Kind.INTEGER else len(cell) <= length

    return holds


def _surely_typed(column: ColumnDocument) -> Callable[[Texts], Texts] | None:
    """Return what tells of many cells at once that they are of a column's type; None where nothing does.

    It may say of a cell that it is not where it is, never the other way.
    """
    pattern, length = sure_number(column.cells), column.length
    if pattern:
        return lambda cells: compute.match_substring_regex(cells, f"^{pattern}$")
    if column.kind in (Kind.TEXT, Kind.CODE) and length:
        most = code_array(np.array([length]))[0]
        return lambda cells: compute.and_(
            compute.less_equal(compute.utf8_length(cells), most), compute.not_equal(cells, BLANK)
        )
    return None


def _checked(check: CheckDocument, column: ColumnDocument) -> _Test | None:
    """Return the test of a check on one column; None where it is on another one, or on no single cell."""
    values = check.values
    if check.column != column.name:
        return None
    if check.kind == "values":
        return set(values).__contains__
    if check.kind == "pattern":
        return lambda cell: shape(cell) == values[0]
    if check.kind == "range":
        least, most = values
        if column.kind.numeric:
            return lambda cell: Decimal(least) <= Decimal(cell) <= Decimal(most)
        return lambda cell: least <= cell <= most
    return None
