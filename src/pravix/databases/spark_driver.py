"""Spark Connect as a driver of databases (PEP 249), as far as SQLAlchemy needs one.

A connection is a session of its own on a Spark server, or on one that is begun on this machine. Nothing can
be undone: Spark has no transactions.
"""

from __future__ import annotations

import logging
import sys
import warnings
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from importlib.util import find_spec
from itertools import islice
from socket import create_connection
from typing import Any
from urllib.parse import urlsplit

_SECONDS = 10
_QUIET = {"spark.ui.enabled": "false", "spark.ui.showConsoleProgress": "false", "spark.log.level": "OFF"}

apilevel = "2.0"
threadsafety = 1
paramstyle = "named"


class Error(Exception):
    """What Spark complained of."""


class InterfaceError(Error):
    """Spark cannot be reached."""


class DatabaseError(Error):
    """A statement was refused."""


OperationalError = ProgrammingError = InternalError = DataError = IntegrityError = DatabaseError
NotSupportedError = DatabaseError


@contextmanager
def _heard(kind: type[Error]) -> Iterator[None]:
    """Raise what Spark complains of as an error of a kind, in its first line; its own log stays silent."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            yield
    except Error:
        raise
    except (Exception, SystemExit) as error:  # It ends the program where it finds no Spark.
        told = getattr(error, "getMessage", lambda: None)() or str(error)
        raise kind(str(told).strip().partition("\n")[0]) from None


@contextmanager
def _as_a_program() -> Iterator[None]:
    """Have the running program look like one that was read from a file: Spark's client takes it for a test of
    its own otherwise, and ends it.
    """
    main = sys.modules["__main__"]
    named = hasattr(main, "__file__")
    if not named:
        main.__file__ = __file__
    try:
        yield
    finally:
        if not named:
            del main.__file__


def connect(remote: str, schema: str = "") -> Connection:
    """Begin a session: ``remote`` is ``sc://host:port``, or ``local[2]`` for two cores of this machine.

    Tables without a schema are those of ``schema``, or of Spark's own choice.

    Raises InterfaceError where there is no such server, or no Spark on this machine.
    """
    if remote.startswith("local") and find_spec("pyspark.core") is None:
        raise InterfaceError(
            "only Spark's client is here; pip install 'pyspark[connect]' has all of it, and needs Java"
        )
    for name in ("SQLQueryContextLogger", "DataFrameQueryContextLogger"):
        logging.getLogger(name).setLevel(logging.CRITICAL)
    if (address := urlsplit(remote)).hostname:
        with _heard(InterfaceError):  # The client itself would try for many minutes.
            create_connection((address.hostname, address.port), _SECONDS).close()
    with _heard(InterfaceError), _as_a_program():
        from pyspark.sql import SparkSession

        builder: Any = SparkSession.builder
        if remote.startswith("local"):
            made = builder.master(remote).config(map=_QUIET).getOrCreate()
        else:
            made = builder.remote(remote).create()
        if schema:
            made.catalog.setCurrentDatabase(schema)
        return Connection(made)


class Connection:
    """A session of Spark."""

    def __init__(self, session: Any) -> None:
        self.session = session

    def cursor(self) -> Cursor:
        """Return what statements are carried out by."""
        return Cursor(self.session)

    def interrupt(self) -> None:
        """Stop all that the session is doing; called from another thread."""
        with _heard(DatabaseError):
            self.session.interruptAll()

    def commit(self) -> None:
        """Do nothing: what is done is kept."""

    def rollback(self) -> None:
        """Do nothing: what is done is kept."""

    def close(self) -> None:
        """End the session."""
        with suppress(Error), _heard(DatabaseError):
            self.session.stop()


class Cursor:
    """A statement and its rows, which come in batches."""

    arraysize = 1
    rowcount = -1
    lastrowid = None

    def __init__(self, session: Any) -> None:
        self._session = session
        self._rows: Iterator[Any] = iter(())
        self.description: list[tuple[Any, ...]] | None = None

    def execute(self, statement: str, parameters: Mapping[str, Any] | None = None) -> None:
        """Carry out a statement; its parameters stand for their names after a colon."""
        with _heard(DatabaseError):
            found = self._session.sql(statement, args=dict(parameters) if parameters else None)
            fields = found.schema.fields
            self.description = [
                (field.name, field.dataType.simpleString(), *[None] * 5) for field in fields
            ] or None
            self._rows = found.toLocalIterator() if fields else iter(())

    def executemany(self, statement: str, rows: Sequence[Mapping[str, Any]]) -> None:
        """Carry out a statement for each of some rows."""
        for row in rows:
            self.execute(statement, row)

    def fetchmany(self, size: int = 1) -> list[tuple[Any, ...]]:
        """Return the next rows."""
        with _heard(DatabaseError):
            return [tuple(row) for row in islice(self._rows, size)]

    def fetchone(self) -> tuple[Any, ...] | None:
        """Return the next row."""
        return next(iter(self.fetchmany(1)), None)

    def fetchall(self) -> list[tuple[Any, ...]]:
        """Return all rows that are left."""
        with _heard(DatabaseError):
            return [tuple(row) for row in self._rows]

    def close(self) -> None:
        """Let the rows go."""
        self._rows = iter(())
