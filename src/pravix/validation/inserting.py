"""Good rows of a new file added to a database that a folder was loaded into: what is there stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import Any

import numpy as np

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.document.model import DesignDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.loading.sessions import insert_statement, raise_stop
from pravix.relation.types import Kind, comparable
from pravix.sources.connecting import connected
from pravix.sql.schema import SERIES
from pravix.sql.view import flat_query
from pravix.validation.new_rows import ArrivedRows, bundle_of, part_rows, rows_of_view
from pravix.validation.violations import key_columns, row_key
from pravix.wording import shortened

_Row = tuple[str | None, ...]
_Key = tuple[str, ...]


@dataclass(frozen=True)
class Refused:
    """A row that the database refused, by its number, and what it said."""

    row: int
    reason: str


@contextmanager
def opened_store(folder: Folder, url: str) -> Iterator[Store]:
    """Give the tables of a folder in the database that they were loaded into, in one transaction.

    Nobody else adds rows meanwhile. What the block did is kept when it ends well. Raises InputError, with
    nothing changed, where the database refuses or lacks a table, or where the rows have no key of their own.
    """
    from sqlalchemy import inspect
    from sqlalchemy.exc import SQLAlchemyError

    if not set(row_key(folder.design)) <= _known_columns(folder.design):
        raise InputError(
            "the rows of this design have no key of their own, so a new row cannot be told from an old one",
            "Put both files together and decompose again.",
        )
    target = connected(url)
    kind = database(target.url.get_backend_name())
    fitted = folder.fitted(kind)
    errors = (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error)
    try:
        with target.engine.connect() as connection:
            there = set(inspect(connection).get_table_names())
            lacking = [table.name for table in fitted.tables if table.name not in there]
            if lacking:
                raise InputError(
                    f"{target.name} has no table {shortened(lacking[0])}",
                    "Load the folder first: pravix load",
                )
            connection.rollback()
            transaction = connection.begin()
            store = Store(folder, fitted, kind, connection.connection, (target.reason, errors))
            store.lock()
            yield store
            store.go_on()
            transaction.commit()
    except errors as error:
        raise_stop(error)
        raise InputError(f"{target.name} refused: {target.reason(error)}", "Nothing was changed.") from None
    finally:
        target.engine.dispose()


class Store:
    """The tables of a design in a database: what they hold, and rows added to them."""

    def __init__(
        self,
        folder: Folder,
        fitted: Folder,
        kind: Database,
        connection: Any,
        complaints: tuple[Callable[[Exception], str], tuple[type[Exception], ...]],
    ) -> None:
        self._document = folder.design
        self._fitted = fitted
        self._kind = kind
        self._cursor = connection.cursor()
        self._reason, self._errors = complaints
        self._adding: _Adding | None = None

    def lock(self) -> None:
        """Let nobody else add rows until the transaction ends."""
        for statement in self._kind.locking([table.name for table in self._fitted.tables]):
            self._cursor.execute(statement)

    def rows(self) -> ArrivedRows:
        """Return the flat rows that the tables give now; they are numbered from 1."""
        self._cursor.execute(flat_query(self._fitted.design, self._kind))
        return rows_of_view(self._document, self._cursor.fetchall())

    def add(self, rows: ArrivedRows) -> tuple[dict[str, int], list[Refused]]:
        """Add rows; return how many each table got, and the rows that the database refused.

        A thing that the database has already (by its natural key) is not added again, so that loading twice
        doubles nothing. All rows are tried at once; where one is refused each half by itself.
        """
        added = dict.fromkeys((table.name for table in self._fitted.tables), 0)
        refused: list[Refused] = []
        waiting = [rows] if len(rows) else []
        while waiting:
            some = waiting.pop()
            adding = _Adding(self._fitted, self._kind, self._cursor)
            self._cursor.execute(self._kind.savepoint)
            try:
                got = {table.name: adding.add(table, some) for table in self._fitted.tables}
            except self._errors as error:
                self._cursor.execute(self._kind.back_to_savepoint)
                half = len(some) // 2
                if half:
                    waiting += [some[half:], some[:half]]
                else:
                    refused.append(Refused(some[0].number, self._reason(error)))
                continue
            self._adding = adding
            for name, count in got.items():
                added[name] += count
        return added, refused

    def go_on(self) -> None:
        """Let the database go on numbering after the numbers that were given here."""
        if self._adding is not None:
            self._adding.go_on()


def _known_columns(document: DesignDocument) -> set[str]:
    """Return the columns of the file and those that its repairs make of them."""
    made = {name for entry in document.rebuild for name in entry.needs}
    return {*document.source.columns, *made}


class _Adding:
    """Adds rows table by table; remembers the number or key under which each thing is known."""

    def __init__(self, folder: Folder, kind: Database, cursor: Any) -> None:
        self._document = folder.design
        self._by_name = folder.design.by_name
        self._kind = kind
        self._cursor = cursor
        self._numbers: dict[str, dict[_Key, str]] = {}
        self._columns = folder.design.source.columns
        self._highest = 0
        if self._shared:
            self._highest = max((self._most(table) for table in folder.tables if table.surrogate), default=0)

    def add(self, table: TableDocument, rows: ArrivedRows) -> int:
        """Insert what a table lacks of the rows; return how many rows it got."""
        names, kinds, key = table.column_names, table.kinds, table.natural_key
        compared = [(name, kinds[name].numeric) for name in key]
        known = self._known(table, names, kinds, key)
        there, waiting = set(known), dict[_Key, dict[str, str]]()
        made: list[dict[str, str]] = []
        for cells in self._wanted(table, rows):
            identity = tuple(comparable(cells.get(name), numeric) for name, numeric in compared)
            if not all(identity) and key:
                continue
            if identity in known:
                told = waiting.setdefault(identity, {name: cells[name] for name in key})
                told.update({name: cell for name, cell in cells.items() if cell and not told.get(name)})
                continue
            waiting[identity] = cells
            if table.surrogate:
                cells[table.surrogate] = self._next()
            known[identity] = cells.get(table.surrogate, "")
            made.append(cells)
        if made:
            lines = [
                tuple(cells.get(name) or None for name in names) for cells in _leaders_first(table, made)
            ]
            self._cursor.executemany(insert_statement(table.name, names, self._kind), lines)
        if len({frozenset(role.columns) for role in table.roles}) > 1:
            self._complete(table, [cells for identity, cells in waiting.items() if identity in there])
        return len(made)

    def _complete(self, table: TableDocument, told: Sequence[Mapping[str, str]]) -> None:
        """Fill blanks of things that are there with what only another role tells of them."""
        quoted, mark = self._kind.quoted, self._kind.placeholder
        where = " AND ".join(f"{quoted(name)} = {mark}" for name in table.natural_key)
        for cells in told:
            for name in (name for name in cells if cells[name] and name not in table.natural_key):
                statement = f"UPDATE {quoted(table.name)} SET {quoted(name)} = {mark} WHERE {where}"
                values = [cells[name], *(cells[key] for key in table.natural_key)]
                self._cursor.execute(f"{statement} AND {quoted(name)} IS NULL", values)

    def _known(
        self, table: TableDocument, names: Sequence[str], kinds: Mapping[str, Kind], key: Sequence[str]
    ) -> dict[_Key, str]:
        """Return what the database has of a table: the surrogate (or nothing) of each natural key."""
        quoted, surrogate = self._kind.quoted, table.surrogate
        chosen = [*key, *([surrogate] if surrogate else [])] or list(names[:1])
        listed = ", ".join(map(quoted, chosen))
        self._cursor.execute(f"SELECT {listed} FROM {quoted(table.name)}")
        known: dict[_Key, str] = {}
        for row in self._cursor.fetchall():
            identity = tuple(
                comparable(cell, kinds[name].numeric) for name, cell in zip(key, row, strict=False)
            )
            known[identity] = str(row[len(key)]) if surrogate else ""
        if surrogate:
            self._highest = self._highest if self._shared else self._most(table)
            self._numbers[table.name] = known
        return known

    def _most(self, table: TableDocument) -> int:
        """Return the highest number that a table has given out."""
        column, name = self._kind.quoted(table.surrogate), self._kind.quoted(table.name)
        self._cursor.execute(f"SELECT MAX({column}) FROM {name}")
        return int(self._cursor.fetchone()[0] or 0)

    @property
    def _shared(self) -> bool:
        return self._document.numbering == "shared"

    def _next(self) -> str:
        self._highest += 1
        return str(self._highest)

    def go_on(self) -> None:
        """Let the database go on numbering after the numbers that were given here."""
        for table in self._by_name.values():
            if table.surrogate:
                highest = self._highest if self._shared else self._most(table)
                series = SERIES if self._shared else None
                if statement := self._kind.going_on(table.name, table.surrogate, series, highest):
                    self._cursor.execute(statement)

    def _wanted(self, table: TableDocument, rows: ArrivedRows) -> Iterator[dict[str, str]]:
        """Yield the cells of a table for each row and role, for a child table for each of its parts.

        Rows that say the same of it as one before are left out.
        """
        document, by_name = self._document, self._by_name
        names = table.role_names
        roles = [(_Taken(table, role, by_name), bundle_of(document, table, role)) for role in names]
        known = {*rows.cells.names, *rows.values.names}
        every = range(len(rows))
        telling = [set(every if bundle else rows.different(one.used & known)) for one, bundle in roles]
        places = sorted(set().union(*telling))
        for place, row in zip(places, rows.take(np.array(places, np.intp)), strict=True):
            flat = dict(zip(self._columns, row.cells, strict=True))
            flat |= {name: value for name, value in row.values.items() if name not in flat}
            for (taken, bundle), there in zip(roles, telling, strict=True):
                if not bundle and place in there:
                    yield taken.cells(flat, self._numbers)
                for part in part_rows(document, row, bundle) if bundle else ():
                    made = taken.cells(flat | part, self._numbers)
                    own = {name: cell for name, cell in part.items() if name in table.column_names}
                    yield own | made if table.repairs is not None else made


class _Taken:
    """How the cells of a table are taken from a flat row in a role, and the flat columns ``used`` for it."""

    def __init__(self, table: TableDocument, role: str, by_name: Mapping[str, TableDocument]) -> None:
        kinds = table.kinds
        self._name = table.name
        self._columns = table.flat_columns(role)
        self._numeric = [own for own in self._columns.values() if kinds[own].numeric]
        self._links: list[tuple[str, _Taken]] = []
        for link in table.foreign_keys:
            other = by_name[link.references.table]
            if link.references.columns == (other.surrogate,):
                self._links.append((link.columns[0], _Taken(other, link.role or role, by_name)))
        self._key = [(name, kinds[name].numeric) for name in table.natural_key]
        self._needed = key_columns(table, role, by_name)
        self.used: set[str] = {*self._columns, *self._needed}.union(*(one.used for _, one in self._links))

    def cells(self, flat: Mapping[str, str], numbers: Mapping[str, Mapping[_Key, str]]) -> dict[str, str]:
        """Return its cells for a flat row: its own columns, and the numbers of what it refers to."""
        found = {own: flat.get(column, "") for column, own in self._columns.items()}
        for own in self._numeric:  # 2.0 is a whole number, which not every database reads as one.
            found[own] = comparable(found[own], numeric=True)
        for name, other in self._links:
            found[name] = other._number(flat, numbers)
        return found

    def _number(self, flat: Mapping[str, str], numbers: Mapping[str, Mapping[_Key, str]]) -> str:
        """Return the number under which the table knows the thing of a flat row; nothing for a blank."""
        cells = self.cells(flat, numbers)
        identity = tuple(comparable(cells.get(name), numeric) for name, numeric in self._key)
        if not all(flat.get(name, "") for name in self._needed):
            return ""
        return numbers[self._name].get(identity, "")


def _leaders_first(table: TableDocument, rows: list[dict[str, str]]) -> list[dict[str, str]]:
    """Return new rows so that each comes after those that it refers to; in a circle as they are."""
    links = [link for link in table.foreign_keys if link.references.table == table.name]
    if not links:
        return rows
    after: dict[int, set[int]] = {place: set() for place in range(len(rows))}
    for link in links:
        places = {
            tuple(row.get(name) for name in link.references.columns): place for place, row in enumerate(rows)
        }
        for place, row in enumerate(rows):
            leader = places.get(tuple(row.get(name) for name in link.columns), place)
            after[place] |= {leader} - {place}
    try:
        return [rows[place] for place in TopologicalSorter(after).static_order()]
    except CycleError:
        return rows
