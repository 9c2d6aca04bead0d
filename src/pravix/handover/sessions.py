"""A transaction in a database, as loading uses it: rows in, counts and the flat view out."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from itertools import islice
from typing import Any, Protocol

from pravix.handover.dialects import Database
from pravix.handover.marks import RowHasher
from pravix.handover.opened import Folder
from pravix.sources.connecting import Connected

Progress = Callable[[str, int], None]
"""Told the table that is being loaded and how many of its rows are in."""

_ROWS_AT_ONCE = 20_000


class RefusedError(Exception):
    """What a database said when it refused, in one line."""


class Session(Protocol):
    """An open transaction in a database. Whatever the database refuses is raised as RefusedError."""

    def names(self) -> set[str]:
        """Return the names of the tables and views that are there."""
        ...

    def execute(self, statement: str) -> None:
        """Carry out a statement."""
        ...

    def fill(self, folder: Folder, table: dict[str, Any], told: Progress) -> int:
        """Load the rows of a table by the fastest way of the database; return how many they are."""
        ...

    def count(self, table: str) -> int:
        """Return how many rows a table (its name quoted) holds."""
        ...

    def verified(self, views: Mapping[str, Sequence[str]]) -> tuple[bool, dict[str, tuple[str, int]]]:
        """Return whether every reference finds its row, and what the views give.

        ``views`` has the types of their columns by their quoted names; for each, the mark of its rows is
        returned, and how many they are.
        """
        ...


@contextmanager
def server_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction on a database server: kept when the block ends well, otherwise undone."""
    from sqlalchemy.exc import SQLAlchemyError

    try:
        with target.engine.begin() as connection:
            yield _ServerSession(connection, kind)
    except (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error) as error:
        raise RefusedError(target.reason(error)) from None
    finally:
        target.engine.dispose()


class _ServerSession:
    """A transaction by a connection of SQLAlchemy."""

    def __init__(self, connection: Any, kind: Database) -> None:
        self._connection = connection
        self._kind = kind

    def names(self) -> set[str]:
        from sqlalchemy import inspect

        inspected = inspect(self._connection)
        return {*inspected.get_table_names(), *inspected.get_view_names()}

    def execute(self, statement: str) -> None:
        self._connection.connection.cursor().execute(statement)

    def fill(self, folder: Folder, table: dict[str, Any], told: Progress) -> int:
        cursor = self._connection.connection.cursor()
        if self._kind.name != "postgresql":
            return load_rows(cursor, folder, table, self._kind, told)
        name = self._kind.quoted(table["name"])
        columns = ", ".join(self._kind.quoted(entry["name"]) for entry in table["columns"])
        done = 0
        with cursor.copy(f"COPY {name} ({columns}) FROM STDIN") as copy:
            for row in folder.rows(table):
                copy.write_row(row)
                done += 1
                if done % _ROWS_AT_ONCE == 0:
                    told(table["name"], done)
        told(table["name"], done)
        return done

    def count(self, table: str) -> int:
        return int(self._connection.exec_driver_sql(f"SELECT COUNT(*) FROM {table}").scalar())

    def verified(self, views: Mapping[str, Sequence[str]]) -> tuple[bool, dict[str, tuple[str, int]]]:
        return True, {view: self._mark(view, types) for view, types in views.items()}

    def _mark(self, view: str, types: Sequence[str]) -> tuple[str, int]:
        cursor = self._connection.connection.cursor()
        cursor.execute(f"SELECT * FROM {view}")
        hasher = RowHasher(types)
        while rows := cursor.fetchmany(_ROWS_AT_ONCE):
            hasher.hashes(rows)
        return hasher.mark, hasher.count


def load_rows(
    cursor: Any, folder: Folder, table: dict[str, Any], kind: Database, told: Progress | None = None
) -> int:
    """Insert the rows of a table by a driver's cursor, many at once; return how many they are."""
    name = kind.quoted(table["name"])
    columns = ", ".join(kind.quoted(entry["name"]) for entry in table["columns"])
    mark = "?" if kind.name == "sqlite" else "%s"
    marks = ", ".join([mark] * len(table["columns"]))
    if mark == "%s":
        name, columns = name.replace("%", "%%"), columns.replace("%", "%%")
    done = 0
    for rows in _batches(folder.rows(table)):
        cursor.executemany(f"INSERT INTO {name} ({columns}) VALUES ({marks})", rows)
        done += len(rows)
        if told is not None:
            told(table["name"], done)
    return done


def _batches(rows: Iterable[Sequence[str | None]]) -> Iterator[list[Sequence[str | None]]]:
    rows = iter(rows)
    while batch := list(islice(rows, _ROWS_AT_ONCE)):
        yield batch
