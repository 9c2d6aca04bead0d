"""The query that gives back the flat rows: every column of the file, repaired ones built again."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from pravix.databases.database import Database
from pravix.databases.number import Number
from pravix.design.naming import free_name
from pravix.document.joining import FlatJoin, PartJoin, Place, flat_join, part_join
from pravix.document.model import ColumnDocument, Document, PartDocument
from pravix.first_normal_form.rebuilt import FromChild, Rebuilt

VIEW = "flat"

_LONGEST_SOURCE = 40


def flat_query(document: PartDocument, database: Database, only: str = "") -> str:
    """Return a SELECT of all columns of the file, in its order, from the tables of a design.

    Computed columns are added layer by layer, so that one can be computed from another. ``only`` is a
    condition on the rows of the main table, which is ``t0`` there.
    """
    join = flat_join(document)
    rows = join.from_clause(database.quoted) + (f"\nWHERE {only}" if only else "")
    cells = _Cells(document, join, database)
    called = document.view_columns

    def quoted(name: str) -> str:
        return database.quoted(called.get(name, name))

    layered = {entry.column: entry for entry in document.rebuild if entry.layered}
    wanted = document.source.columns
    needed = dict.fromkeys([*wanted, *(name for one in layered.values() for name in one.needs)])
    base = [name for name in needed if name not in layered]
    query = _select({name: cells.sql(name) for name in base}, quoted, rows)
    known, layer = list(base), 0
    while missing := [name for name in layered if name not in known]:
        alias = f"q{layer}"
        kept = {name: f"{alias}.{quoted(name)}" for name in known}
        ready = [name for name in missing if set(layered[name].needs) <= set(known)]
        added = {name: cells.over(layered[name], kept) for name in ready}
        query = _select(kept | added, quoted, f"(\n{query}\n) {alias}")
        known, layer = [*known, *ready], layer + 1
    if tuple(known) == wanted:
        return query
    return _select({name: f"q.{quoted(name)}" for name in wanted}, quoted, f"(\n{query}\n) q")


def _select(cells: Mapping[str, str], quoted: Callable[[str], str], source: str) -> str:
    listed = ",\n  ".join(f"{sql} AS {quoted(name)}" for name, sql in cells.items())
    return f"SELECT\n  {listed}\nFROM {source}"


def views(document: Document) -> dict[str, PartDocument]:
    """Return the names of the views, each with the design of the source whose rows it gives.

    There is one, ``flat``; where the design is one for several sources, ``flat_SOURCE`` for each. A name that
    a table has already gets a number.
    """
    taken = [table.name for table in document.tables]
    found: dict[str, PartDocument] = {}
    for source, part in document.parts.items():
        plain = re.sub(r"\W+", "_", source)[:_LONGEST_SOURCE]
        found[free_name(f"{VIEW}_{plain}" if plain else VIEW, [*taken, *found])] = part
    return found


def view_name(document: Document) -> str:
    """Return the name of the view of a design for one source."""
    return next(iter(views(document)))


class _Cells:
    """The SQL expression of each column of the file."""

    def __init__(self, document: PartDocument, join: FlatJoin, database: Database) -> None:
        self._document = document
        self._tables = document.by_name
        self._parts: dict[str, PartJoin] = {}
        self._rebuild: Mapping[str, Rebuilt] = {entry.column: entry for entry in document.rebuild}
        self._join = join
        self._database = database

    def sql(self, column: str) -> str:
        """Return the expression of a column: its place in the join, or how it is built again."""
        entry = self._rebuild.get(column)
        if entry is None:
            return self._at(self._join.places[column])
        if isinstance(entry, FromChild):
            return self._child(entry)
        return self.over(entry, {name: self.sql(name) for name in entry.needs})

    def over(self, entry: Rebuilt, cells: Mapping[str, str]) -> str:
        """Return the expression of a column that is built from others, over the expressions of these."""
        return entry.sql([Number(cells[name], self._scale(name)) for name in entry.needs], self._database)

    def _at(self, place: Place) -> str:
        return f"{place.alias}.{self._database.quoted(place.column)}"

    def _child(self, entry: FromChild) -> str:
        """Return a query of the tables of the parts for the row that they belong to."""
        quoted, part = self._database.quoted, self._part(entry)
        position = f"c0.{quoted(entry.position)}"
        where = "1 = 1"
        if part.home is not None:
            parent = next(one for one in self._join.tables if part.leads_to(one))
            pairs = zip(part.home.columns, part.home.references.columns, strict=True)
            where = " AND ".join(
                f"c0.{quoted(here)} = {self._at(parent.place(there))}" for here, there in pairs
            )
        return entry.query(
            self._at(part.place(entry.fact)), position, part.join.from_clause(quoted), where, self._database
        )

    def _part(self, entry: FromChild) -> PartJoin:
        if entry.table not in self._parts:
            self._parts[entry.table] = part_join(self._document, self._tables[entry.table])
        return self._parts[entry.table]

    def _scale(self, column: str) -> int:
        """Return how many decimal places the numbers of a column have."""
        entry = self._rebuild.get(column)
        if isinstance(entry, FromChild):
            place = self._part(entry).place(entry.fact)
            return self._column(self._part(entry).join, place).scale
        if entry is not None:
            return entry.scale_of_numbers
        return self._column(self._join, self._join.places[column]).scale

    def _column(self, join: FlatJoin, place: Place) -> ColumnDocument:
        return next(one.table for one in join.tables if one.alias == place.alias).column(place.column)
