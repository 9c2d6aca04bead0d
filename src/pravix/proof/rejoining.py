"""The flat rows from the tables of a folder alone: looked up in batches, put together again cell by cell.

Nothing here is used where tables are made or loaded, so that a fault there cannot hide itself in the proof.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import islice

import numpy as np
from pyarrow import compute

from pravix.document.joining import FlatJoin, Joined, PartJoin, Place, flat_join, part_join
from pravix.document.model import PartDocument
from pravix.first_normal_form.families import RebuiltMember
from pravix.first_normal_form.findings import AnyRebuilt
from pravix.first_normal_form.lists import RebuiltList
from pravix.first_normal_form.rebuilt import FromChild
from pravix.proof.held import Held, Rows, Runs, compared
from pravix.proof.rebuilding import listed, rebuilt
from pravix.proof.table_rows import BLANK, Batch, Texts, texts
from pravix.sources.coding import code_array, numbers_of

_MOST_DIGITS = 18


class Rejoining:
    """Gives the rows of a main table, batch after batch, with the cells of all that its references lead to.

    ``held`` are the tables that are joined to it.
    """

    def __init__(
        self, document: PartDocument, held: Mapping[str, Held], join: FlatJoin | None = None
    ) -> None:
        self._document = document
        self._held = held
        self._join: FlatJoin = flat_join(document) if join is None else join
        self.kinds = {flat: place.kind for flat, place in self._join.places.items()}
        self._runs: dict[str, Runs] = {}
        self._parts: dict[str, _Parts] = {}

    def rejoined(self, batch: Batch) -> Rejoined:
        """Return the rows of a batch of the main table, joined."""
        main, *others = self._join.tables
        rows = Rejoined(main.alias, batch)
        for joined in others:
            held, own = self._held[joined.table.name], [column for _, column in joined.on]
            wanted = [compared(rows.cells(place), place.kind) for place, _ in joined.on]
            found = held.positions(own, wanted, rows.count)
            if joined.table.independent_of:
                rows.multiply(joined.alias, held, self._beside(joined, held).of(found))
            else:
                rows.join(joined.alias, held, found)
        return rows

    def flat(self, rows: Rejoined) -> dict[str, Texts]:
        """Return the flat columns that tables hold, for joined rows."""
        return {flat: rows.cells(place) for flat, place in self._join.places.items()}

    def rebuilt(self, rows: Rejoined) -> dict[str, Texts]:
        """Return every column of the file, those that no table holds put together again."""
        columns = self.flat(rows)
        for entry in self._document.rebuild:
            columns[entry.column] = self._built(entry, rows, columns)
        return columns

    def _beside(self, joined: Joined, held: Held) -> Runs:
        """Return the rows of a table with an independent list of the same thing, by what they belong to."""
        if joined.alias not in self._runs:
            own = [column for _, column in joined.on]
            self._runs[joined.alias] = held.runs(own)
        return self._runs[joined.alias]

    def _built(self, entry: AnyRebuilt, rows: Rejoined, columns: Mapping[str, Texts]) -> Texts:
        if isinstance(entry, RebuiltList):
            parts = self._children(entry, rows)
            return texts([listed(entry, [fact for _, fact in told]) for told in parts])
        if isinstance(entry, RebuiltMember):
            return texts([dict(told).get(entry.at, "") for told in self._children(entry, rows)])
        return texts(rebuilt(entry, [columns[name].to_pylist() for name in entry.columns]))

    def _children(self, entry: FromChild, rows: Rejoined) -> list[list[tuple[int, str]]]:
        """Return for each row the positions and facts of its parts, joined to their child table."""
        if entry.column not in self._parts:
            self._parts[entry.column] = _Parts(self._document, self._held, entry)
        return self._parts[entry.column].of(rows, self._join)


class Rejoined:
    """Some rows of the main table, and for each the row of every table that was joined to it."""

    def __init__(self, alias: str, main: Batch) -> None:
        self.count = len(next(iter(main.values())))
        self._cells: dict[str, Batch] = {alias: main}
        self._rows: dict[str, Rows] = {alias: np.arange(self.count)}

    def join(self, alias: str, held: Held, found: Rows) -> None:
        """Put a row of another table beside each row, or none (-1)."""
        self._cells[alias] = held.cells
        self._rows[alias] = found

    def multiply(self, alias: str, held: Held, beside: tuple[Rows, Rows]) -> None:
        """Put every row beside each of so many rows of another table."""
        others, counts = beside
        self._rows = {known: np.repeat(rows, counts) for known, rows in self._rows.items()}
        self.count = len(others)
        self.join(alias, held, others)

    def cells(self, place: Place) -> Texts:
        """Return the cells of a column of a joined table."""
        rows = self._rows[place.alias]
        own = self._cells[place.alias][place.column]
        return compute.fill_null(own.take(code_array(rows, rows >= 0)), BLANK)


class _Parts:
    """The parts of a list or family, by what they belong to."""

    def __init__(self, document: PartDocument, held: Mapping[str, Held], entry: FromChild) -> None:
        self._part: PartJoin = part_join(document, document.by_name[entry.table])
        self._child = held[self._part.child.name]
        joined = Rejoining(document, held, self._part.join).rejoined(self._child.cells)
        self._facts = joined.cells(self._part.place(entry.fact))
        told = self._child.cells[entry.position].to_pylist()
        self._places = np.array([_position(cell) for cell in told], np.int64)
        ranks = numbers_of(compute.rank(self._facts, tiebreaker="min"))
        self._runs = self._child.runs(self._columns, self._places, ranks)

    @property
    def _columns(self) -> Sequence[str]:
        return self._part.home.columns if self._part.home else ()

    def of(self, rows: Rejoined, join: FlatJoin) -> list[list[tuple[int, str]]]:
        """Return for each row its parts, in their order: the position and the fact; without those blank."""
        wanted: list[Texts] = []
        if self._part.home is not None:
            parent = next(one for one in join.tables if self._part.leads_to(one))
            places = [parent.place(name) for name in self._part.home.references.columns]
            wanted = [compared(rows.cells(place), place.kind) for place in places]
        there, counts = self._runs.of(self._child.positions(self._columns, wanted, rows.count))
        facts = self._facts.take(code_array(there)).to_pylist()
        told = zip(self._places[there].tolist(), facts, strict=True)
        return [[part for part in islice(told, count) if part[1]] for count in counts.tolist()]


def _position(cell: str) -> int:
    """Return the position of a part; -1 where the cell is none, which is told elsewhere."""
    return int(cell) if cell.isdecimal() and len(cell) <= _MOST_DIGITS else -1
