"""Good rows of a new file added to a database that a folder was loaded into: what is there stays as it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pravix.errors import InputError
from pravix.handover.arrivals import key_columns, row_key
from pravix.handover.arrived_rows import ArrivedRow, child_rows
from pravix.handover.dialects import Database, database
from pravix.handover.joining import flat_columns, natural_key
from pravix.handover.marks import plain
from pravix.handover.opened import Folder
from pravix.handover.sql import SERIES
from pravix.sources.connecting import connected
from pravix.wording import shortened

_Row = tuple[str | None, ...]
_Key = tuple[str, ...]


def append_rows(folder: Folder, url: str, rows: Sequence[ArrivedRow]) -> dict[str, int]:
    """Add the rows to the tables of a database, in one transaction; return how many each table got.

    A thing that the database has already (by its natural key) is not added again, so that loading twice
    doubles nothing. Raises InputError, with nothing changed, where the database refuses or lacks a table.
    """
    from sqlalchemy import inspect
    from sqlalchemy.exc import SQLAlchemyError

    if not set(row_key(folder.document)) <= _known_columns(folder.document):
        raise InputError(
            "the rows of this design have no key of their own, so a new row cannot be told from an old one",
            "Put both files together and decompose again.",
        )
    target = connected(url)
    kind = database(target.url.get_backend_name())
    fitted = folder.fitted(kind)
    try:
        with target.engine.begin() as connection:
            there = set(inspect(connection).get_table_names())
            lacking = [table["name"] for table in fitted.tables if table["name"] not in there]
            if lacking:
                raise InputError(
                    f"{target.name} has no table {shortened(lacking[0])}",
                    "Load the folder first: pravix load",
                )
            cursor = connection.connection.cursor()
            if kind.name == "sqlite":
                cursor.execute("PRAGMA foreign_keys = ON")
            adding = _Adding(fitted, kind, cursor)
            added = {table["name"]: adding.add(table, rows) for table in fitted.tables}
            adding.go_on()
            return added
    except (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error) as error:
        raise InputError(f"{target.name} refused: {target.reason(error)}", "Nothing was changed.") from None
    finally:
        target.engine.dispose()


def _known_columns(document: Mapping[str, Any]) -> set[str]:
    """Return the columns of the file and those that its repairs make of them."""
    made = {name for entry in document["rebuild"] for name in entry.get("columns", [])}
    return {*document["source"]["columns"], *made}


class _Adding:
    """Adds rows table by table; remembers the number or key under which each thing is known."""

    def __init__(self, folder: Folder, kind: Database, cursor: Any) -> None:
        self._document = folder.document
        self._by_name = {table["name"]: table for table in folder.tables}
        self._kind = kind
        self._cursor = cursor
        self._numbers: dict[str, dict[_Key, str]] = {}
        self._columns = folder.document["source"]["columns"]
        self._highest = 0
        if self._shared:
            self._highest = max(
                (self._most(table) for table in folder.tables if table.get("surrogate")), default=0
            )

    def add(self, table: Mapping[str, Any], rows: Sequence[ArrivedRow]) -> int:
        """Insert what a table lacks of the rows; return how many rows it got."""
        names = [column["name"] for column in table["columns"]]
        kinds = {column["name"]: column["type"] for column in table["columns"]}
        key = natural_key(table)
        known = self._known(table, names, kinds, key)
        made: list[_Row] = []
        for cells in self._wanted(table, rows):
            identity = tuple(plain(cells.get(name), kinds[name]) for name in key)
            if (not all(identity) and key) or identity in known:
                continue
            if table.get("surrogate"):
                cells[table["surrogate"]] = self._next()
            known[identity] = cells.get(table.get("surrogate", ""), "") or ""
            made.append(tuple(cells.get(name) or None for name in names))
        quoted = self._kind.quoted
        mark = "?" if self._kind.name == "sqlite" else "%s"
        columns = ", ".join(map(quoted, names))
        statement = (
            f"INSERT INTO {quoted(table['name'])} ({columns}) VALUES ({', '.join([mark] * len(names))})"
        )
        if made:
            self._cursor.executemany(statement, made)
        return len(made)

    def _known(
        self, table: Mapping[str, Any], names: Sequence[str], kinds: Mapping[str, str], key: Sequence[str]
    ) -> dict[_Key, str]:
        """Return what the database has of a table: the surrogate (or nothing) of each natural key."""
        quoted, surrogate = self._kind.quoted, table.get("surrogate")
        chosen = [*key, *([surrogate] if surrogate else [])] or list(names[:1])
        listed = ", ".join(map(quoted, chosen))
        self._cursor.execute(f"SELECT {listed} FROM {quoted(table['name'])}")
        known: dict[_Key, str] = {}
        for row in self._cursor.fetchall():
            identity = tuple(plain(cell, kinds[name]) for name, cell in zip(key, row, strict=False))
            known[identity] = str(row[len(key)]) if surrogate else ""
        if surrogate:
            self._highest = self._highest if self._shared else self._most(table)
            self._numbers[table["name"]] = known
        return known

    def _most(self, table: Mapping[str, Any]) -> int:
        """Return the highest number that a table has given out."""
        column, name = self._kind.quoted(table["surrogate"]), self._kind.quoted(table["name"])
        self._cursor.execute(f"SELECT MAX({column}) FROM {name}")
        return int(self._cursor.fetchone()[0] or 0)

    @property
    def _shared(self) -> bool:
        return bool(self._document["numbering"] == "shared")

    def _next(self) -> str:
        self._highest += 1
        return str(self._highest)

    def go_on(self) -> None:
        """Let PostgreSQL go on numbering after the numbers that were given here."""
        for table in self._by_name.values() if self._kind.name == "postgresql" else ():
            if table.get("surrogate"):
                series = f"'{SERIES}'"
                if not self._shared:
                    name = self._kind.text(self._kind.quoted(table["name"]))
                    series = f"pg_get_serial_sequence({name}, {self._kind.text(table['surrogate'])})"
                highest = self._highest if self._shared else self._most(table)
                self._cursor.execute(f"SELECT setval({series}, {max(highest, 1)})")

    def _wanted(self, table: Mapping[str, Any], rows: Sequence[ArrivedRow]) -> list[dict[str, str]]:
        """Return the cells of a table for each row and role; for a child table for each of its parts."""
        found = []
        for row in rows:
            flat = dict(zip(self._columns, row.cells, strict=True))
            flat |= {name: value for name, value in row.values.items() if name not in flat}
            if "repairs" not in table:
                roles = [one["role"] for one in table.get("roles", [])] or [""]
                found += [self._cells(table, role, flat) for role in roles]
                continue
            entry = next(one for one in self._document["rebuild"] if one.get("table") == table["name"])
            for name, place, facts in child_rows(self._document, row):
                if name == table["name"]:
                    found.append({**self._cells(table, "", flat), entry["position"]: str(place), **facts})
        return found

    def _cells(self, table: Mapping[str, Any], role: str, flat: Mapping[str, str]) -> dict[str, str]:
        """Return a table's cells for a flat row: its own columns, and the numbers of what it refers to."""
        cells = {own: flat.get(column, "") for column, own in flat_columns(table, role).items()}
        for link in table["foreign_keys"]:
            other = self._by_name[link["references"]["table"]]
            if link["references"]["columns"] == [other.get("surrogate")]:
                cells[link["columns"][0]] = self._number(other, link.get("role") or role, flat)
        return cells

    def _number(self, table: Mapping[str, Any], role: str, flat: Mapping[str, str]) -> str:
        """Return the number under which a table knows the thing of a flat row; nothing for a blank."""
        kinds = {column["name"]: column["type"] for column in table["columns"]}
        cells = self._cells(table, role, flat)
        identity = tuple(plain(cells.get(name), kinds[name]) for name in natural_key(table))
        if not all(flat.get(name, "") for name in key_columns(table, role, self._by_name)):
            return ""
        return self._numbers[table["name"]].get(identity, "")
