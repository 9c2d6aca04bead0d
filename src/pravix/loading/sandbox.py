"""SQLite in memory for the tables of any folder: only what tables need is allowed, and it can be stopped."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from pravix.databases.known import database
from pravix.document.model import Document
from pravix.folder.reader import Folder
from pravix.loading.sessions import load_rows
from pravix.sql.schema import schema_statements

_STEPS = 20_000
"""Steps of SQLite's machine between two looks whether the user wants to stop."""

_ALLOWED = frozenset(
    {
        sqlite3.SQLITE_CREATE_TABLE,
        sqlite3.SQLITE_CREATE_INDEX,
        sqlite3.SQLITE_CREATE_VIEW,
        sqlite3.SQLITE_INSERT,
        sqlite3.SQLITE_UPDATE,
        sqlite3.SQLITE_READ,
        sqlite3.SQLITE_SELECT,
        sqlite3.SQLITE_REINDEX,
        sqlite3.SQLITE_TRANSACTION,
    }
)
_FUNCTIONS = frozenset(
    "abs cast coalesce count date group_concat julianday like max min nullif round strftime substr "
    "sum".split()
)
_PRAGMAS = frozenset({"foreign_keys", "foreign_key_check"})


class _Guard:
    """What a connection may do, and whether it was told to stop."""

    def __init__(self) -> None:
        self.stopped: BaseException | None = None

    def allows(self, action: int, one: str | None, other: str | None, *_: object) -> int:
        """Return whether SQLite may do something; called for every part of a statement."""
        if action == sqlite3.SQLITE_FUNCTION:
            allowed = (other or "").lower() in _FUNCTIONS
        elif action == sqlite3.SQLITE_PRAGMA:
            allowed = (one or "").lower() in _PRAGMAS
        else:
            allowed = action in _ALLOWED
        return sqlite3.SQLITE_OK if allowed else sqlite3.SQLITE_DENY

    def looks(self) -> int:
        """Return whether to stop; an interruption reaches Python only in here."""
        try:
            return int(self.stopped is not None)
        except BaseException as stopped:
            self.stopped = stopped
            return 1


@contextmanager
def guarded() -> Iterator[sqlite3.Connection]:
    """Give a connection to a new database in memory. What stops a statement is raised."""
    guard = _Guard()
    connection = sqlite3.connect(":memory:", isolation_level=None)
    connection.set_authorizer(guard.allows)
    connection.set_progress_handler(guard.looks, _STEPS)
    try:
        yield connection
    except sqlite3.OperationalError as error:
        if guard.stopped or str(error) == "interrupted":
            raise guard.stopped or KeyboardInterrupt from None
        raise
    finally:
        connection.close()


@contextmanager
def loaded_in_memory(folder: Folder) -> Iterator[tuple[sqlite3.Connection, Document]]:
    """Give a database with the tables of a folder, made anew from its design, and the design as it fits.

    Every constraint holds there; indexes are made and references looked up when the rows are in, which is
    faster. Raises sqlite3.Error where SQLite refuses, InputError where a file cannot be read.
    """
    kind = database("sqlite")
    fitted = folder.fitted(kind)
    statements = schema_statements(fitted.document, kind, filled=True)
    with guarded() as connection:
        connection.execute("BEGIN")
        for statement in statements.tables:
            connection.execute(statement)
        for table in fitted.tables:
            load_rows(connection.cursor(), fitted, table, kind)
        for statement in (*statements.indexes, *statements.references, *statements.views):
            connection.execute(statement)
        lost = connection.execute("PRAGMA foreign_key_check").fetchone()
        if lost is not None:
            raise sqlite3.IntegrityError(f"a reference of {lost[0]} to {lost[2]} finds no row")
        connection.execute("COMMIT")
        yield connection, fitted.document
