"""Loading into DuckDB by columns: Arrow tables in, the rows of the flat views out."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from typing import TYPE_CHECKING, Any

from pravix.databases.database import Database
from pravix.databases.duckdb import ARRIVING, arriving, arrow_batches
from pravix.document.model import TableDocument
from pravix.document.row_hashes import RowHasher
from pravix.folder.reader import Folder
from pravix.loading.sessions import (
    Query,
    RefusedError,
    ServerSession,
    Session,
    file_session,
    one_ahead,
    raise_stop,
)
from pravix.progress import Progress
from pravix.sources.connecting import Connected

if TYPE_CHECKING:
    import pyarrow


@contextmanager
def duckdb_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a transaction in a DuckDB database: kept when the block ends well, otherwise undone."""
    import duckdb

    try:
        with file_session(target, partial(_transaction, kind)) as session:
            yield session
    except duckdb.Error as error:
        raise_stop(error)
        raise RefusedError(target.reason(error)) from None


@contextmanager
def _transaction(kind: Database, file: str, staged: bool) -> Iterator[Session]:
    import duckdb

    if staged:
        os.unlink(file)  # DuckDB makes its file itself, and takes no empty one.
    with duckdb.connect(file) as connection:
        connection.execute("BEGIN")
        try:
            yield DuckDBSession(connection, kind)
        except BaseException:
            connection.execute("ROLLBACK")
            raise
        connection.execute("COMMIT")


class DuckDBSession(ServerSession):
    """A transaction by a connection of DuckDB's own."""

    def names(self) -> set[str]:
        """As said there."""
        told = "SELECT table_name FROM information_schema.tables WHERE table_schema = current_schema()"
        return {name for (name,) in self._asked(told).fetchall()}

    def execute(self, statement: str) -> None:
        """As said there; what a statement gives is fetched, for the connection waits for that."""
        self._asked(statement).fetchall()

    def _asked(self, statement: str) -> Any:
        return self._connection.execute(statement)

    def _mark(self, query: Query) -> tuple[str, int]:
        hasher = RowHasher(query.forms)
        for batch in arrow_batches(self._connection, query.sql):
            hasher.hash_columns(batch.columns)
        return hasher.mark, hasher.count

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        """As said there: the database reads the Arrow table where it lies, and makes types of its texts."""
        import pyarrow

        name, rows = self._kind.quoted(table.name), self._kind.quoted(ARRIVING)
        columns = ", ".join(map(self._kind.quoted, table.column_names))
        insert = f"INSERT INTO {name} ({columns}) SELECT * FROM {rows}"
        done = 0
        for batch in one_ahead(folder.batches(table)):
            for some in _slices(batch, table):
                with arriving(self._connection, pyarrow.Table.from_batches([some])):
                    self.execute(insert)
            done += batch.num_rows
            told(table.name, done)
        return done


def _slices(rows: pyarrow.RecordBatch, table: TableDocument) -> Iterator[pyarrow.RecordBatch]:
    """Yield the rows of a table in slices of which none has a row that refers to another of it.

    DuckDB finds what rows of the same statement refer to in no other way.
    """
    links = [link for link in table.foreign_keys if link.references.table == table.name]
    start, met = 0, set[tuple[int, object]]()

    def cells(columns: Sequence[str]) -> Iterator[tuple[object, ...]]:
        return zip(
            *(rows.column(table.column_names.index(name)).to_pylist() for name in columns), strict=True
        )

    keys = [cells(one.references.columns) for one in links]
    ends = [cells(one.columns) for one in links]
    for place, (own, referred) in enumerate(
        zip(zip(*keys, strict=True), zip(*ends, strict=True), strict=True)
    ):
        if met & set(enumerate(referred)):
            yield rows.slice(start, place - start)
            start, met = place, set()
        met |= set(enumerate(own))
    yield rows.slice(start)
