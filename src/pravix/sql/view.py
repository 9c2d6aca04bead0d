"""The query that gives back the flat rows: every column of the file, repaired ones built again."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence

from pravix.databases.database import Database, Number
from pravix.design.naming import free_name
from pravix.document.joining import FlatJoin, Joined, Place, flat_join
from pravix.document.model import (
    CompoundDocument,
    ComputedDocument,
    Document,
    FamilyDocument,
    FlagDocument,
    FromChild,
    PartDocument,
)

VIEW = "flat"

_LONGEST_SOURCE = 40


def flat_query(document: PartDocument, database: Database) -> str:
    """Return a SELECT of all columns of the file, in its order, from the tables of a design.

    Computed columns are added layer by layer, so that one can be computed from another.
    """
    join = flat_join(document)
    cells = _Cells(document, join, database)
    called = document.view_columns

    def quoted(name: str) -> str:
        return database.quoted(called.get(name, name))

    computed = {entry.column: entry for entry in document.rebuild if isinstance(entry, ComputedDocument)}
    wanted = document.source.columns
    needed = dict.fromkeys(name for name in [*wanted, *(c for one in computed.values() for c in one.columns)])
    base = [name for name in needed if name not in computed]
    query = _select({name: cells.sql(name) for name in base}, quoted, join.from_clause(database.quoted))
    known, layer = list(base), 0
    while missing := [name for name in computed if name not in known]:
        alias = f"q{layer}"
        kept = {name: f"{alias}.{quoted(name)}" for name in known}
        ready = [name for name in missing if set(computed[name].columns) <= set(known)]
        added = {name: cells.computed(computed[name], alias) for name in ready}
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
        self._tables = document.by_name
        self._rebuild = {entry.column: entry for entry in document.rebuild}
        self._called = document.view_columns
        self._join = join
        self._database = database

    def sql(self, column: str) -> str:
        """Return the expression of a column: its place in the join, or how it is built again."""
        entry = self._rebuild.get(column)
        if entry is None:
            return self._at(self._join.places[column])
        if isinstance(entry, FlagDocument):
            return self._flag(entry)
        if isinstance(entry, CompoundDocument):
            return self._put_together([self.sql(name) for name in entry.columns], entry.between)
        if isinstance(entry, FromChild):
            return self._child(entry)
        raise ValueError(f"{column} is computed from others")

    def _at(self, place: Place) -> str:
        return f"{place.alias}.{self._database.quoted(place.column)}"

    def _child(self, entry: FromChild) -> str:
        """Return a query of the child table for the parent's row."""
        quoted, child = self._database.quoted, self._tables[entry.table]
        link = child.foreign_keys[0]
        parent = self._joined(link.references.table)
        pairs = zip(link.columns, link.references.columns, strict=True)
        where = " AND ".join(f"c.{quoted(here)} = {self._at(parent.place(there))}" for here, there in pairs)
        source, fact = f"{quoted(child.name)} c", f"c.{quoted(entry.fact)}"
        position = f"c.{quoted(entry.position)}"
        if isinstance(entry, FamilyDocument):
            return f"(SELECT {fact} FROM {source} WHERE {where} AND {position} = {entry.at})"
        return self._database.list_of(fact, position, entry.separator, source, where)

    def _joined(self, table: str) -> Joined:
        return next(one for one in self._join.tables if one.table.name == table)

    def _flag(self, entry: FlagDocument) -> str:
        text, merged = self._database.text, self.sql(entry.columns[0])
        no = text(entry.no) if entry.no else "NULL"
        yes = text(entry.yes) if entry.yes else "NULL"
        return f"CASE WHEN {merged} = {text(entry.value)} THEN {yes} ELSE {no} END"

    def _put_together(self, parts: Sequence[str], between: str) -> str:
        first, second = (self._database.as_text(part) for part in parts)
        return self._database.put_together([first, self._database.text(between), second])

    def computed(self, entry: ComputedDocument, alias: str) -> str:
        """Return the expression of a computed column over a query that has the columns it needs."""
        operation = entry.operation
        called = [self._called.get(name, name) for name in entry.columns]
        columns = [f"{alias}.{self._database.quoted(name)}" for name in called]
        if operation == "part":
            return self._database.part_of(columns[0], entry.start, entry.end)
        if operation == "join":
            return self._put_together(columns, entry.between)
        if operation == "years":
            return self._database.years(columns[0], columns[1])
        scales = [self._scale(name) for name in entry.columns]
        numbers = [Number(sql, scale) for sql, scale in zip(columns, scales, strict=True)]
        return self._database.computed(operation, numbers, entry.scale, entry.rounding)

    def _scale(self, column: str) -> int:
        """Return how many decimal places the numbers of a column have."""
        entry = self._rebuild.get(column)
        if entry is None:
            place = self._join.places[column]
            table = next(one.table for one in self._join.tables if one.alias == place.alias)
            return table.column(place.column).scale
        if isinstance(entry, ComputedDocument):
            return entry.scale
        return self._tables[entry.table].column(entry.fact).scale if isinstance(entry, FromChild) else 0
