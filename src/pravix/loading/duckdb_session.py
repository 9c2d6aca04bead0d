"""Loading into DuckDB by columns: Arrow tables in, the rows of the flat views out."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pravix.databases.database import Database
from pravix.document.row_hashes import RowHasher
from pravix.folder.reader import Folder
from pravix.loading.sessions import Progress, Query, RefusedError, Session, Verified, raise_stop
from pravix.sources.connecting import Connected
from pravix.sql.schema import SERIES
from pravix.writing import new_file

_ROWS_AT_ONCE = 20_000
_ARRIVING = "arriving rows"


@contextmanager
def duckdb_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction in a DuckDB database: kept when the block ends well, otherwise undone.

    A file that is not there yet gets its name when everything is in it.
    """
    import duckdb

    file = target.url.database or ":memory:"
    try:
        if file == ":memory:" or os.path.exists(file):
            with _transaction(file, kind) as session:
                yield session
        else:
            with new_file(Path(file), fresh=True) as made:
                made.unlink()  # DuckDB makes its file itself, and takes no empty one.
                with _transaction(str(made), kind) as session:
                    yield session
    except duckdb.Error as error:
        raise_stop(error)
        raise RefusedError(target.reason(error)) from None


@contextmanager
def _transaction(file: str, kind: Database) -> Iterator[Session]:
    import duckdb

    with duckdb.connect(file) as connection:
        connection.execute("BEGIN")
        try:
            yield DuckDBSession(connection, kind)
        except BaseException:
            connection.execute("ROLLBACK")
            raise
        connection.execute("COMMIT")


class DuckDBSession:
    """A transaction by a connection of DuckDB's own."""

    def __init__(self, connection: Any, kind: Database) -> None:
        self._connection = connection
        self._kind = kind

    def names(self) -> set[str]:
        """As said there."""
        told = "SELECT table_name FROM information_schema.tables WHERE table_schema = current_schema()"
        return {name for (name,) in self._connection.execute(told).fetchall()}

    def staged(self, folder: Folder) -> Folder:
        """As said there: in a transaction tables have their own names from the beginning."""
        return folder

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """As said there."""
        for view in views:
            self.execute(f"DROP VIEW IF EXISTS {self._kind.quoted(view)}")
        for name in reversed(tables):
            self.execute(f"DROP TABLE IF EXISTS {self._kind.quoted(name)}")
        self.execute(self._kind.dropping_series(SERIES))

    def execute(self, statement: str) -> None:
        """As said there."""
        self._connection.execute(statement)

    def fill(self, folder: Folder, table: dict[str, Any], told: Progress) -> int:
        """As said there: the database reads the Arrow table where it lies, and makes types of its texts."""
        rows = folder.arrow(table)
        name, arriving = self._kind.quoted(table["name"]), self._kind.quoted(_ARRIVING)
        columns = ", ".join(self._kind.quoted(entry["name"]) for entry in table["columns"])
        self._connection.register(_ARRIVING, rows)
        self.execute(f"INSERT INTO {name} ({columns}) SELECT * FROM {arriving}")
        self._connection.unregister(_ARRIVING)
        told(table["name"], rows.num_rows)
        return int(rows.num_rows)

    def count(self, table: str) -> int:
        """As said there."""
        return int(self._connection.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0])

    def verified(self, tables: Sequence[str], queries: Mapping[str, Query]) -> Verified:
        """As said there: references hold at every moment."""
        return Verified(True, {name: self._mark(query) for name, query in queries.items()})

    def _mark(self, query: Query) -> tuple[str, int]:
        result = self._connection.execute(query.sql)
        hasher = RowHasher(query.types)
        while rows := result.fetchmany(_ROWS_AT_ONCE):
            hasher.hashes(rows)
        return hasher.mark, hasher.count

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        """As said there."""
        for statement in views.values():
            self.execute(statement)
