"""The embedded database on disk that a file is landed in: its memory, and what it says of rows that it cannot
read.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from functools import partial
from itertools import count
from time import monotonic
from typing import Any, TypeVar

from sqlalchemy import column, create_engine, table
from sqlalchemy.engine import make_url
from sqlalchemy.exc import DBAPIError, OperationalError

from pravix.databases.duckdb import ARRIVING, arriving, arrow_batches
from pravix.databases.known import database
from pravix.engines.adaptor import adaptor_for
from pravix.engines.connection import SQLConnection
from pravix.engines.place import Place, Row
from pravix.errors import InputError
from pravix.memory import resident_bytes
from pravix.processors import processors
from pravix.progress import Progress, silent
from pravix.sources.connecting import Connected
from pravix.sources.layout import ragged_told
from pravix.temporary import let_go

_SHARE = 0.125
_MOST = 0.5
_LEAST = 256 << 20
_BESIDE = 192 << 20
"""What the rest of the program may take beside the database before that has to do with less..."""

_AT_LEAST = 128 << 20
"""...but never with less than this."""

_DIRECTLY = 64 << 20
"""What groups may take that have a place each, whether they are there or not, on all processors: that needs
no hashes, and is two to three times as quick for some ten thousands."""

_ENDS = 32
"""So much of it the least and the greatest value of a column take in a group."""

_MINUTES_FROM = 90

_LINE = re.compile(r"CSV Error on Line: (\d+)")
_WIDTH = re.compile(r"Expected Number of Columns: (\d+) Found: (\d+)")
_LONG = "Maximum line size"
_OPEN = "unterminated quote"
_NO_UTF8 = "not utf-8 encoded"
_LOST = "CSV Parser state machine reached an invalid state"
_FULL = "Out of Memory"
_NOT_WRITTEN = ("Could not write", "No space left", "failed to offload", "checkpoint failed")

_Found = TypeVar("_Found")


class _Landed(SQLConnection):
    """A connection to a database of our own in ``folder``, which goes when it is closed, or when the program
    ends.

    It is looked at often and kept for minutes, so nothing is compressed; and what is committed goes into its
    file at once: a log of a large table would be held in memory.

    Every statement stands for itself: one that fails changes nothing, and does not end the others. One for
    which ``memory`` (in bytes) is too little is carried out again with the ``most``, which is left so.
    """

    def __init__(self, name: str, folder: str, memory: int, most: int) -> None:
        url = make_url("duckdb:///").set(database=os.path.join(folder, "rows.duckdb"))
        spill = os.path.join(folder, "spill").replace("'", "''")
        settings = (
            f"SET memory_limit = '{memory >> 20}MiB'",
            f"SET temp_directory = '{spill}'",
            "SET force_compression = 'uncompressed'",
            "SET wal_autocheckpoint = '1KB'",
            "SET enable_progress_bar = true",
            "SET enable_progress_bar_print = false",
        )
        super().__init__(Connected(create_engine(url), name, url, None), adaptor_for("duckdb"), settings)
        self.folder = folder
        self._name, self._share, self._memory, self._most = name, memory, memory, most

    def ask(self, statement: Any, streamed: bool = False) -> Any:
        """As said there."""
        ask = super().ask
        return self._carried_out(lambda: ask(statement, streamed))

    def fetch(self, asked: Any, most: int) -> list[Row]:
        """As said there."""
        with self._undone():
            return super().fetch(asked, most)

    def run(self, sql: str) -> list[Row]:
        """As said there."""
        run = super().run

        def committed() -> list[Row]:
            found = run(sql)
            self.connection.commit()
            return found

        return self._carried_out(committed)

    def _carried_out(self, statement: Callable[[], _Found]) -> _Found:
        """Carry out a statement, with more memory if it must be."""
        try:
            with self._undone():
                return statement()
        except OperationalError as error:
            if not str(error.orig).startswith(_FULL) or self._memory >= self._most:
                raise
        self._share = self._memory = self._most
        self.allow(self._most)
        with self._undone():
            return statement()

    def allow(self, memory: int) -> None:
        """Let statements have so much memory (in bytes), or what was allowed before where that is more, but
        not more than the most.
        """
        allowed = max(self._memory, min(memory, self._most))
        self.connection.exec_driver_sql(f"SET memory_limit = '{allowed >> 20}MiB'")

    def yield_to(self, coming: int) -> None:
        """Do with less where the rest of the program, with so many bytes that are ``coming``, takes much.

        Some of that is the database's own: what it keeps of each part of a table grows with the rows, and
        it does not count it.
        """
        ((counted,),) = super().run("SELECT sum(memory_usage_bytes) FROM duckdb_memory()")
        beside = resident_bytes() - int(counted) + coming
        self._memory = min(self._share, max(self._share + _BESIDE - beside, _AT_LEAST))
        with suppress(DBAPIError), self._undone():  # What is in use just now cannot be let go.
            self.allow(0)

    @contextmanager
    def _undone(self) -> Iterator[None]:
        """Take back what fails; say of a row that cannot be read which one it is."""
        try:
            yield
        except DBAPIError as error:
            with suppress(Exception):
                self.connection.rollback()
            refused = _refused(self._name, str(error.orig))
            if refused is None:
                raise
            raise refused from None

    @property
    def dialect(self) -> Any:
        """How statements are written for DuckDB."""
        return self._target.engine.dialect

    def done(self) -> float:
        """Return how much of the statement is done, in per cent; none where DuckDB cannot tell. From any
        thread.
        """
        return float(self.connection.connection.driver_connection.query_progress())

    def arrow(self, sql: str) -> Iterator[Any]:
        """Return the rows of a query as batches of Arrow."""
        return arrow_batches(self.connection.connection.driver_connection, sql)

    def take(self, rows: Any, statement: str) -> None:
        """Carry out a statement in which the rows of an Arrow table have the name of arriving ones."""
        with arriving(self.connection.connection.driver_connection, rows):
            self.run(statement)

    def close(self) -> None:
        """As said there."""
        super().close()
        let_go(self.folder)


def _refused(name: str, complaint: str) -> InputError | None:
    """Return what is wrong with delimited text, or that the disk takes no more; None where DuckDB complains
    of something else.
    """
    if any(one in complaint for one in _NOT_WRITTEN):
        return InputError(
            f"{name} cannot be put into a database for a while: the disk takes no more",
            "Free some space, or name a folder on another disk in TMPDIR.",
        )
    if _LOST in complaint:
        return InputError(
            f"{name}: its lines end in different ways, or a cell holds a carriage return without quotes",
            "Write it with one kind of line end, or allow more memory: --memory",
        )
    line = _LINE.search(complaint)
    if line is None:
        return None
    row, width = int(line[1]), _WIDTH.search(complaint)
    if width is not None:
        told = ragged_told([(row, int(width[2]))], int(width[1]), name)
        return InputError(told, "Look there for a delimiter in an unquoted cell.")
    if _NO_UTF8 in complaint:
        return InputError(
            f"{name}: row {row} is not in UTF-8",
            "Say which encoding the file has (--encoding), write it in UTF-8, or allow more memory: --memory",
        )
    if _LONG in complaint:
        return InputError(f"{name}: row {row} is longer than 2 MB", "Allow more memory: --memory")
    if _OPEN in complaint:
        return InputError(
            f"{name}: row {row} has a quote that is never closed, or closed in the middle of a cell",
            "Close the quote, or double it if it belongs to the value.",
        )
    return InputError(f"{name}: row {row} cannot be read", "Look there for quotes and delimiters.")


class LandedPlace(Place):
    """The embedded database that a file was landed in; ``progress`` is told what is ``doing``.

    It takes an eighth of ``memory`` (in bytes), less where the rest of the program takes much, spills to
    disk, and takes up to half for what cannot be done with less.
    """

    def __init__(self, name: str, folder: str, memory: int, progress: Progress = silent) -> None:
        shares = (max(int(share * memory), _LEAST) for share in (_SHARE, _MOST))
        self._landed = _Landed(name, folder, *shares)
        super().__init__(name, self._landed, adaptor_for("duckdb"))
        self._progress = progress
        self._doing, self._begun = "", 0.0
        self._numbers = count(1)

    def kept(self, statement: Any) -> Any:
        """As said there, in any order."""
        self.yield_memory()
        name = f"kept {next(self._numbers)}"
        asked = statement.compile(dialect=self._landed.dialect, compile_kwargs={"literal_binds": True})
        with self.in_any_order():
            self.run(f'CREATE TEMP TABLE "{name}" AS {asked}')
        return table(name, *(column(one.name, one.type) for one in statement.selected_columns))

    def group_directly(self, columns: int) -> None:
        """Give groups of a table with so many columns a place each, where all of them together are small.

        DuckDB does not count these places into the memory that it may take.
        """
        places = _DIRECTLY // (processors() * columns * _ENDS)
        self.run(f"SET perfect_ht_threshold = {max(places.bit_length() - 1, 0)}")

    @contextmanager
    def in_any_order(self) -> Iterator[None]:
        """Let all processors fill a table: in the order of its rows one would, where memory is little."""
        self.run("SET preserve_insertion_order = false")
        try:
            yield
        finally:
            self.run("SET preserve_insertion_order = true")

    @contextmanager
    def room_for(self, columns: int) -> Iterator[None]:
        """Allow the memory in which all processors may fill a table of so many columns at once.

        DuckDB lets as many threads write as half of its memory has room for, 4 MB a column for each. Where
        filling fails it is left so: the place is closed then.
        """
        self.worked(lambda: self._landed.allow(processors() * columns * (8 << 20)))
        yield
        self.worked(lambda: self._landed.allow(0))

    def yield_memory(self, coming: int = 0) -> None:
        """Keep the memory of the whole program within bounds, with so many bytes that are ``coming``."""
        self.worked(lambda: self._landed.yield_to(coming))

    @contextmanager
    def doing(self, told: str) -> Iterator[None]:
        """Tell of the statement that is carried out here, with the time that is left."""
        self._doing, self._begun = told, monotonic()
        self._progress(told, 0)
        try:
            yield
        finally:
            self._doing = ""

    def waiting(self) -> None:
        """As said there."""
        done = self._landed.done() if self._doing else 0
        if done >= 1:
            left = (monotonic() - self._begun) * (100 - done) / done
            told = f"{left:.0f} s" if left < _MINUTES_FROM else f"{left / 60:,.0f} min"
            self._progress(f"{self._doing}: {done:.0f} %, about {told} left", 0)

    def beside(self, name: str) -> str:
        """Return the path of a file that is not there yet, beside what was landed; it goes with that."""
        return os.path.join(self._landed.folder, name)

    def taken(self, name: str, columns: Sequence[str], batches: Iterable[Mapping[str, Any]]) -> str:
        """Make a table of texts of rows that come in batches, an Arrow array a column; return its quoted
        name. The empty text becomes a blank.
        """
        import pyarrow

        kind = database("duckdb")
        called, quoted = kind.quoted(name), list(map(kind.quoted, columns))
        self.run(f"CREATE TABLE {called} ({', '.join(f'{one} VARCHAR' for one in quoted)})")
        told = ", ".join(f"NULLIF({one}, '')" for one in quoted)
        insert = f"INSERT INTO {called} SELECT {told} FROM {kind.quoted(ARRIVING)}"
        for batch in batches:
            rows = pyarrow.table(list(batch.values()), names=columns)
            self.worked(partial(self._landed.take, rows, insert))
        return called

    def arrow(self, sql: str) -> Iterator[Any]:
        """Yield the rows of a query as batches of Arrow."""
        found = self.worked(lambda: self._landed.arrow(sql))
        while (batch := self.worked(lambda: next(found, None))) is not None:
            yield batch
