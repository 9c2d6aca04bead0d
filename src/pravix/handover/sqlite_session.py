"""Loading into SQLite by columns: Arrow tables in, the flat view out, no Python object for each cell."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pravix.handover.dialects import Database
from pravix.handover.marks import RowHasher
from pravix.handover.opened import Folder
from pravix.handover.sessions import Progress, RefusedError, Session
from pravix.sources.connecting import Connected
from pravix.writing import new_file

_ROWS_AT_ONCE = 100_000
_CACHE = 400_000
"""The memory that SQLite may use for its pages, in KiB: a view that joins looks up rows in all of them."""

_PREFIX = re.compile(r"^[A-Z_]+: (\[SQLite\] )?(Failed to \w+ \w+: )?")


@contextmanager
def sqlite_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction in a SQLite database: kept when the block ends well, otherwise undone.

    A file that is not there yet gets its name when everything is in it.
    """
    from adbc_driver_manager import Error

    file = target.url.database or ":memory:"
    try:
        if file == ":memory:" or os.path.exists(file):
            with _transaction(file, kind, ()) as session:
                yield session
        else:  # The journal of a new file is spared: without its name, nobody will miss it.
            with (
                new_file(Path(file)) as made,
                _transaction(str(made), kind, ("journal_mode = OFF", "synchronous = OFF")) as session,
            ):
                yield session
    except Error as error:
        raise RefusedError(_PREFIX.sub("", str(error).splitlines()[0])) from None


@contextmanager
def _transaction(file: str, kind: Database, pragmas: Sequence[str]) -> Iterator[Session]:
    from adbc_driver_sqlite import dbapi

    path = file if file == ":memory:" else os.path.abspath(file)
    with dbapi.connect(path, autocommit=True) as connection:
        session = _SQLiteSession(connection, kind)
        for pragma in ("busy_timeout = 5000", *pragmas, f"cache_size = -{_CACHE}", "foreign_keys = OFF"):
            session.execute(f"PRAGMA {pragma}")
        session.execute("BEGIN IMMEDIATE")
        try:
            yield session
        except BaseException:
            session.execute("ROLLBACK")
            raise
        session.execute("COMMIT")


class _SQLiteSession:
    """A transaction by a connection that gives and takes Arrow tables."""

    def __init__(self, connection: Any, kind: Database) -> None:
        self._connection = connection
        self._kind = kind

    def names(self) -> set[str]:
        found = self._asked("SELECT name FROM sqlite_master WHERE type IN ('table', 'view')")
        return {name for (name,) in found}

    def execute(self, statement: str) -> None:
        self._asked(statement)

    def fill(self, folder: Folder, table: dict[str, Any], told: Progress) -> int:
        import pyarrow

        rows = folder.arrow(table)
        for place, column in enumerate(table["columns"]):
            if column["type"] == "integer":
                try:
                    numbers = rows.column(place).cast(pyarrow.int64())
                except pyarrow.ArrowInvalid:
                    continue  # SQLite decides what the text is.
                rows = rows.set_column(place, str(place), numbers)
                if table["primary_key"] == [column["name"]]:  # The rows are stored in its order anyway.
                    rows = rows.sort_by(str(place))
        columns = ", ".join(self._kind.quoted(entry["name"]) for entry in table["columns"])
        marks = ", ".join("?" * len(table["columns"]))
        done = 0
        for batch in rows.to_batches(_ROWS_AT_ONCE):
            with self._connection.cursor() as cursor:
                statement = f"INSERT INTO {self._kind.quoted(table['name'])} ({columns}) VALUES ({marks})"
                cursor.executemany(statement, batch)
            done += batch.num_rows
            told(table["name"], done)
        return done

    def count(self, table: str) -> int:
        return int(self._asked(f"SELECT COUNT(*) FROM {table}")[0][0])

    def has_orphans(self) -> bool:
        return bool(self._asked("PRAGMA foreign_key_check"))

    def mark(self, view: str, types: Sequence[str]) -> tuple[str, int]:
        """Return the mark of the rows that a view gives, and how many they are.

        The driver takes the type of each column from the rows of the first batch. Where a later one differs,
        all rows are taken as one batch.
        """
        try:
            hasher = self._hashed(view, types, _ROWS_AT_ONCE)
        except OSError:
            hasher = self._hashed(view, types, max(1, self.count(view)))
        return hasher.mark, hasher.count

    def _hashed(self, view: str, types: Sequence[str], at_once: int) -> RowHasher:
        hasher = RowHasher(types)
        for batch in self._fetched(f"SELECT * FROM {view}", at_once):
            hasher.hash_columns(batch)
        return hasher

    def _fetched(self, query: str, at_once: int) -> Iterator[Any]:
        with self._connection.cursor() as cursor:
            cursor.adbc_statement.set_options(**{"adbc.sqlite.query.batch_rows": at_once})
            cursor.execute(query)
            yield from cursor.fetch_record_batch()

    def _asked(self, statement: str) -> list[tuple[Any, ...]]:
        with self._connection.cursor() as cursor:
            cursor.execute(statement)
            return list(cursor.fetchall())
