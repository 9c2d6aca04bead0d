"""Loading into SQLite by columns: Arrow tables in, the flat view out, no Python object for each cell."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Collection, Generator, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, contextmanager
from functools import partial
from threading import Event
from typing import Any, TypeVar

from pravix.databases.database import Database
from pravix.document.model import TableDocument
from pravix.document.row_hashes import Form, RowHasher
from pravix.folder.reader import Folder
from pravix.loading.sessions import (
    Query,
    RefusedError,
    Session,
    Verified,
    file_session,
    one_ahead,
    raise_stop,
)
from pravix.processors import processors
from pravix.progress import Progress
from pravix.relation.types import Kind
from pravix.sources.connecting import Connected
from pravix.sql.holding import reference_claims

_ROWS_AT_ONCE = 100_000
_CACHE = 400_000
"""The memory that SQLite may use for its pages, in KiB: a view that joins looks up rows in all of them."""

_ROWS_BESIDE = 5_000_000
"""Of so many rows the indexes are made while others are read."""

_T = TypeVar("_T")

_PREFIX = re.compile(r"^[A-Z_]+: (\[SQLite\] )?(Failed to \w+ \w+: )?")


@contextmanager
def sqlite_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction in a SQLite database: kept when the block ends well, otherwise undone."""
    from adbc_driver_manager import Error

    try:
        with file_session(target, partial(_transaction, kind)) as session:
            yield session
    except Error as error:
        raise_stop(error)
        raise RefusedError(_PREFIX.sub("", str(error).splitlines()[0])) from None


@contextmanager
def _transaction(kind: Database, file: str, staged: bool) -> Iterator[Session]:
    """Give a transaction in a file; one that is ``staged`` nobody else knows, so its journal is spared."""
    path = file if file == ":memory:" else os.path.abspath(file)
    with _opened(path) as connection:
        session = _SQLiteSession(connection, kind, path if staged else None)
        for pragma in ("journal_mode = OFF", "synchronous = OFF") if staged else ():
            session.execute(f"PRAGMA {pragma}")
        session.execute("BEGIN IMMEDIATE")
        try:
            yield session
        except BaseException:
            if not staged:
                session.execute("ROLLBACK")
            raise
        session.execute("COMMIT")


@contextmanager
def _opened(path: str) -> Iterator[Any]:
    """Give a connection by the driver's small interface: its large one loads packages that nothing needs."""
    from adbc_driver_manager import AdbcConnection
    from adbc_driver_sqlite import connect

    with connect(path) as database, AdbcConnection(database) as connection:
        for pragma in ("busy_timeout = 5000", f"cache_size = -{_CACHE}", "foreign_keys = OFF"):
            _asked(connection, f"PRAGMA {pragma}")
        yield connection


def _asked(connection: Any, statement: str) -> list[tuple[Any, ...]]:
    """Return the rows of a statement, which are few."""
    with closing(_fetched(connection, statement)) as batches:
        return [row for one in batches for row in zip(*(cells.to_pylist() for cells in one), strict=True)]


class _SQLiteSession:
    """A transaction by a connection that gives and takes Arrow tables."""

    def __init__(self, connection: Any, kind: Database, staged: str | None) -> None:
        self._connection = connection
        self._kind = kind
        self._staged = staged

    def names(self) -> set[str]:
        found = _asked(self._connection, "SELECT name FROM sqlite_master WHERE type IN ('table', 'view')")
        return {name for (name,) in found}

    def staged(self, folder: Folder) -> Folder:
        return folder

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        kinds = dict(_asked(self._connection, "SELECT LOWER(name), type FROM sqlite_master"))
        for name in (*views, *reversed(tables)):
            if kinds.get(name.lower()) in ("table", "view"):
                self.execute(f"DROP {kinds[name.lower()].upper()} {self._kind.quoted(name)}")

    def execute(self, statement: str) -> None:
        _asked(self._connection, statement)

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        columns = ", ".join(map(self._kind.quoted, table.column_names))
        marks = ", ".join("?" * len(table.columns))
        statement = f"INSERT INTO {self._kind.quoted(table.name)} ({columns}) VALUES ({marks})"
        done = 0
        with _prepared(self._connection, statement) as insert:
            for batch in one_ahead(_with_numbers(batch, table) for batch in folder.batches(table)):
                insert.bind(batch)
                insert.execute_update()
                done += batch.num_rows
                told(table.name, done)
        return done

    def count(self, table: str) -> int:
        return self.number(f"SELECT COUNT(*) FROM {table}")

    def number(self, query: str) -> int:
        """As said there."""
        return int(_asked(self._connection, query)[0][0])

    def verified(
        self, tables: Sequence[TableDocument], queries: Mapping[str, Query], last: Sequence[str] = ()
    ) -> Verified:
        """As said there. In a staged file the queries are asked in parts, each by a connection of its own,
        beside the last statements: what these write waits in memory until all is read, if it is not too much.
        """
        if self._staged is None:
            for statement in last:
                self.execute(statement)
            marks = {name: _marked([_hashed(self._connection, one)]) for name, one in queries.items()}
            return Verified(_references_hold(self._connection, {table.name for table in tables}), marks)
        if sum(table.rows for table in tables) > _ROWS_BESIDE:
            for statement in last:
                self.execute(statement)
            last = ()
        self.execute("COMMIT")
        self.execute("PRAGMA cache_spill = OFF")
        self.execute("BEGIN IMMEDIATE")
        stop = Event()
        with ThreadPoolExecutor() as beside:
            given = {
                name: [
                    beside.submit(self._elsewhere, partial(_hashed, query=query, only=only, stop=stop))
                    for only in self._parts(query)
                ]
                for name, query in queries.items()
            }
            try:
                for statement in last:
                    self.execute(statement)
                hold = _own_references_hold(self._connection, tables, self._kind)
                return Verified(
                    hold, {name: _marked([one.result() for one in parts]) for name, parts in given.items()}
                )
            except BaseException:
                stop.set()
                raise

    def _elsewhere(self, work: Callable[[Any], _T]) -> _T:
        """Do something by another connection to the staged file."""
        assert self._staged is not None
        with _opened(self._staged) as other:
            return work(other)

    def _parts(self, query: Query) -> list[str]:
        """Return conditions that part the rows of the main table; each row fulfils one of them."""
        main = query.part.by_name[query.part.main]
        taken = {name.lower() for name in main.column_names}
        row = next((name for name in ("rowid", "oid", "_rowid_") if name not in taken), None)
        count = min(processors(), main.rows // _ROWS_AT_ONCE)
        if row is None or count < 2:
            return [""]
        name = self._kind.quoted(main.name)
        ends = [
            self.number(f"SELECT {row} FROM {name} ORDER BY {row} LIMIT 1 OFFSET {main.rows * part // count}")
            for part in range(1, count)
        ]
        after = ["", *(f"t0.{row} > {end}" for end in ends)]
        until = [*(f"t0.{row} <= {end}" for end in ends), ""]
        return [" AND ".join(filter(None, both)) for both in zip(after, until, strict=True)]

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        for statement in views.values():
            self.execute(statement)


def _with_numbers(batch: Any, table: TableDocument) -> Any:
    """Return rows with their whole numbers as such, in the order in which a key of one number stores them."""
    import pyarrow

    for place, column in enumerate(table.columns):
        if column.kind is Kind.INTEGER:
            try:
                numbers = batch.column(place).cast(pyarrow.int64())
            except pyarrow.ArrowInvalid:
                continue  # SQLite decides what the text is.
            batch = batch.set_column(place, str(place), numbers)
            if table.primary_key == (column.name,):
                batch = batch.sort_by(str(place))
    return batch


def _marked(parts: Sequence[RowHasher]) -> tuple[str, int]:
    """Return the mark of the rows that parts of a query give, and how many they are."""
    first, *others = parts
    for one in others:
        first.add(one)
    return first.mark, first.count


def _hashed(connection: Any, query: Query, only: str = "", stop: Event | None = None) -> RowHasher:
    """Return the hashes of the rows that a query gives.

    The driver takes the type of each column from the rows of the first batch. Where a later one differs,
    all rows are taken as one batch.
    """
    sql = query.of_some(only)
    try:
        return _hashed_by(connection, sql, query.forms, _ROWS_AT_ONCE, stop)
    except OSError:
        ((rows,),) = _asked(connection, f"SELECT COUNT(*) FROM ({sql})")
        return _hashed_by(connection, sql, query.forms, max(1, int(rows)), stop)


def _hashed_by(
    connection: Any, sql: str, forms: Sequence[Form], at_once: int, stop: Event | None
) -> RowHasher:
    hasher = RowHasher(forms)
    with closing(_fetched(connection, sql, at_once)) as batches:
        for batch in batches:
            if stop is not None and stop.is_set():
                break
            hasher.hash_columns(batch.columns)
    return hasher


def _fetched(connection: Any, query: str, at_once: int = _ROWS_AT_ONCE) -> Generator[Any, None, None]:
    """Yield the rows of a query as batches of Arrow; to be closed before the connection is."""
    from pyarrow import RecordBatchReader

    with _prepared(connection, query) as statement:
        statement.set_options(**{"adbc.sqlite.query.batch_rows": at_once})
        handle, _ = statement.execute_query()
        with RecordBatchReader.from_stream(handle) as batches:
            yield from batches


@contextmanager
def _prepared(connection: Any, sql: str) -> Iterator[Any]:
    from adbc_driver_manager import AdbcStatement

    with AdbcStatement(connection) as statement:
        statement.set_sql_query(sql)
        statement.prepare()
        yield statement


def _own_references_hold(connection: Any, tables: Sequence[TableDocument], kind: Database) -> bool:
    """Whether the references of the tables find their rows, in a file that holds nothing else."""
    return all(_asked(connection, claim.against) == [(0,)] for claim in reference_claims(tables, kind))


def _references_hold(connection: Any, tables: Collection[str]) -> bool:
    """Whether the references of the tables, and those of others to them, find their rows."""
    wrong = _asked(connection, "PRAGMA foreign_key_check")
    return not any(table in tables or parent in tables for table, _, parent, _ in wrong)
