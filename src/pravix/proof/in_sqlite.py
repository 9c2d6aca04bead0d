"""The tables of a folder tried in SQLite: does it take them, and do its views give the flat rows back?"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing

from pravix.databases.known import database
from pravix.document.model import FlatDocument
from pravix.document.row_hashes import RowHasher, by_value
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.loading.sandbox import loaded_in_memory
from pravix.proof.claim import Claim
from pravix.sql.schema import beyond
from pravix.sql.view import views

_MOST_ROWS = 2_000_000
"""Tables of more rows are not tried: they would have to be in memory."""

_ROWS_AT_ONCE = 50_000


def in_sqlite(folder: Folder) -> Claim:
    """Return whether SQLite takes all rows with the constraints on, and its views give the flat rows back."""
    kind = database("sqlite")
    lacking = beyond(folder.document, kind)
    if lacking:
        return True, f"Not tried in SQLite, which would round: {lacking}."
    rows = sum(table.rows for table in folder.tables)
    if rows > _MOST_ROWS:
        told = f"{rows:,} rows are more than it is given in memory"
        return True, f"Not tried in SQLite: {told} (pravix load {folder.path} sqlite:///NEW.db does)."
    try:
        with loaded_in_memory(folder) as (connection, fitted):
            for name, part in views(fitted).items():
                given = _hashed(connection, f"SELECT * FROM {kind.quoted(name)}", part.flat)
                if (given.count, given.mark) != (part.source.rows, part.flat.mark):
                    return False, f"In SQLite the view {name} does not give the rows of the file."
    except (sqlite3.Error, InputError) as error:
        return False, f"SQLite refuses the tables: {error}."
    return True, "SQLite takes all rows with the constraints on, and gives those of the file back."


def _hashed(connection: sqlite3.Connection, query: str, flat: FlatDocument) -> RowHasher:
    hasher = RowHasher(by_value(flat.kinds))
    with closing(connection.execute(query)) as cursor:
        for rows in _fetched(cursor):
            hasher.hashes(rows)
    return hasher


def _fetched(cursor: sqlite3.Cursor) -> Iterator[list[tuple[object, ...]]]:
    while rows := cursor.fetchmany(_ROWS_AT_ONCE):
        yield rows
