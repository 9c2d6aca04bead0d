"""A transaction in a database, as loading uses it: rows in, counts and the flat rows out."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any, Protocol, TypeVar, cast

from pravix.databases.database import Database
from pravix.databases.postgresql import PostgreSQL
from pravix.document.model import PartDocument, TableDocument
from pravix.document.row_hashes import Form, RowHasher, by_value
from pravix.folder.reader import Folder
from pravix.progress import Progress
from pravix.sources.connecting import Connected
from pravix.sql.schema import SERIES, series_of
from pravix.sql.view import flat_query
from pravix.writing import new_file

_ROWS_AT_ONCE = 20_000

_Batch = TypeVar("_Batch")


class RefusedError(Exception):
    """What a database said when it refused, in one line."""


@dataclass(frozen=True)
class Query:
    """A query for the flat rows of a source."""

    part: PartDocument
    kind: Database

    @property
    def sql(self) -> str:
        """The query for all rows."""
        return flat_query(self.part, self.kind)

    def of_some(self, condition: str) -> str:
        """Return the query for those whose row in the main table, ``t0``, fulfils a condition."""
        return flat_query(self.part, self.kind, condition)

    @property
    def forms(self) -> Sequence[Form]:
        """By what the cells of its columns count."""
        return by_value(self.part.flat.kinds)


class Session(Protocol):
    """An open transaction in a database. Whatever the database refuses is raised as RefusedError."""

    def names(self) -> set[str]:
        """Return the names of the tables and views that are there."""
        ...

    def staged(self, folder: Folder) -> Folder:
        """Return the folder with the names under which its tables are built, before they get their own."""
        ...

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """Remove tables and views of these names, where they are there."""
        ...

    def execute(self, statement: str) -> None:
        """Carry out a statement."""
        ...

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        """Load the rows of a table by the fastest way of the database; return how many they are."""
        ...

    def count(self, table: str) -> int:
        """Return how many rows a table (its name quoted) holds."""
        ...

    def number(self, query: str) -> int:
        """Return the number that a query gives."""
        ...

    def verified(
        self, tables: Sequence[TableDocument], queries: Mapping[str, Query], last: Sequence[str] = ()
    ) -> Verified:
        """Carry out the ``last`` statements, which add to filled tables; return whether every reference of
        and to these finds its row, and what the queries give.
        """
        ...

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        """Create the views, by their names the statements, when the tables have their own names."""
        ...


@dataclass(frozen=True)
class Verified:
    """Whether references hold, and for each query the mark of its rows and how many they are."""

    references_hold: bool
    given: Mapping[str, tuple[str, int]]


def raise_stop(error: BaseException) -> None:
    """Raise what stopped the program, where a driver reports that as an error of its own."""
    seen: BaseException | None = error
    while seen is not None:
        if not isinstance(seen, Exception):
            raise seen from None
        seen = seen.__cause__ or seen.__context__


def one_ahead(batches: Iterable[_Batch]) -> Iterator[_Batch]:
    """Yield batches while the next one is made beside."""
    remaining, end = iter(batches), object()
    with ThreadPoolExecutor(1) as beside:
        coming = beside.submit(next, remaining, end)
        while (batch := coming.result()) is not end:
            coming = beside.submit(next, remaining, end)
            yield cast(_Batch, batch)


@contextmanager
def file_session(
    target: Connected, transaction: Callable[[str, bool], AbstractContextManager[Session]]
) -> Iterator[Session]:
    """Give a session in the file of a database, by a ``transaction`` given the file and whether it is new.

    A file that is not there yet gets its name when everything is in it.
    """
    file = target.url.database or ":memory:"
    if file == ":memory:" or os.path.exists(file):
        with transaction(file, False) as session:
            yield session
    else:
        with new_file(Path(file), fresh=True) as made, transaction(str(made), True) as session:
            yield session


@contextmanager
def server_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction on a database server: kept when the block ends well, otherwise undone."""
    session = PostgreSQLSession if isinstance(kind, PostgreSQL) else ServerSession
    from sqlalchemy.exc import SQLAlchemyError

    try:
        with target.engine.begin() as connection:
            try:
                yield session(connection, kind)
            except BaseException as error:
                if not isinstance(
                    error, Exception
                ):  # In the midst of a statement nothing can be rolled back:
                    connection.invalidate()  # the server does it when the connection is gone.
                raise
    except (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error) as error:
        raise_stop(error)
        raise RefusedError(target.reason(error)) from None
    finally:
        target.engine.dispose()


class ServerSession:
    """A transaction by a connection of SQLAlchemy."""

    def __init__(self, connection: Any, kind: Database) -> None:
        self._connection = connection
        self._kind = kind

    def names(self) -> set[str]:
        """As said there."""
        from sqlalchemy import inspect

        inspected = inspect(self._connection)
        return {*inspected.get_table_names(), *inspected.get_view_names()}

    def staged(self, folder: Folder) -> Folder:
        """As said there: in a transaction tables have their own names from the beginning."""
        return folder

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """As said there."""
        for view in views:
            self.execute(f"DROP VIEW IF EXISTS {self._kind.quoted(view)}")
        for name in reversed(tables):
            self.execute(f"DROP TABLE IF EXISTS {self._kind.quoted(name)}")
        for statement in self._kind.dropping_series(SERIES, list(map(series_of, tables))):
            self.execute(statement)

    def execute(self, statement: str) -> None:
        """As said there: by the driver itself, so that a per cent sign is only that."""
        self._asked(statement)

    def _asked(self, statement: str) -> Any:
        cursor = self._connection.connection.cursor()
        cursor.execute(statement)
        return cursor

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        """As said there."""
        return load_rows(self._connection.connection.cursor(), folder, table, self._kind, told)

    def count(self, table: str) -> int:
        """As said there."""
        return self.number(f"SELECT COUNT(*) FROM {table}")

    def number(self, query: str) -> int:
        """As said there."""
        ((found,),) = self._asked(query).fetchall()
        return int(found)

    def verified(
        self, tables: Sequence[TableDocument], queries: Mapping[str, Query], last: Sequence[str] = ()
    ) -> Verified:
        """As said there: a server holds references at every moment."""
        for statement in last:
            self.execute(statement)
        return Verified(True, {name: self._mark(query) for name, query in queries.items()})

    def _mark(self, query: Query) -> tuple[str, int]:
        cursor = self._asked(query.sql)
        hasher = RowHasher(query.forms)
        while rows := cursor.fetchmany(_ROWS_AT_ONCE):
            hasher.hashes(rows)
        return hasher.mark, hasher.count

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        """As said there."""
        for statement in views.values():
            self.execute(statement)


class PostgreSQLSession(ServerSession):
    """A transaction in PostgreSQL, where rows come in by COPY."""

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        """As said there."""
        cursor = self._connection.connection.cursor()
        name = self._kind.quoted(table.name)
        columns = ", ".join(map(self._kind.quoted, table.column_names))
        done = 0
        with cursor.copy(f"COPY {name} ({columns}) FROM STDIN") as copy:
            for row in folder.rows(table):
                copy.write_row(row)
                done += 1
                if done % _ROWS_AT_ONCE == 0:
                    told(table.name, done)
        told(table.name, done)
        return done


def insert_statement(table: str, columns: Sequence[str], kind: Database) -> str:
    """Return the statement that inserts a row, with the driver's place-holders for its cells."""
    name, listed = kind.quoted(table), ", ".join(map(kind.quoted, columns))
    mark = kind.placeholder
    if "%" in mark:
        name, listed = name.replace("%", "%%"), listed.replace("%", "%%")
    return f"INSERT INTO {name} ({listed}) VALUES ({', '.join([mark] * len(columns))})"


def load_rows(
    cursor: Any, folder: Folder, table: TableDocument, kind: Database, told: Progress | None = None
) -> int:
    """Insert the rows of a table by a driver's cursor, many at once; return how many they are."""
    statement = insert_statement(table.name, table.column_names, kind)
    done = 0
    for rows in _batches(folder.rows(table)):
        cursor.executemany(statement, rows)
        done += len(rows)
        if told is not None:
            told(table.name, done)
    return done


def _batches(rows: Iterable[Sequence[str | None]]) -> Iterator[list[Sequence[str | None]]]:
    rows = iter(rows)
    while batch := list(islice(rows, _ROWS_AT_ONCE)):
        yield batch
