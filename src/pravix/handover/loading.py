"""A folder of results loaded into a database: all or nothing, and checked there."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path
from typing import Any

from pravix.errors import InputError
from pravix.handover.dialects import Database, database
from pravix.handover.marks import mark_of
from pravix.handover.opened import Folder
from pravix.handover.sql import SERIES, schema_statements
from pravix.handover.view import view_name
from pravix.sources.connecting import Connected, connected
from pravix.wording import joined, shortened
from pravix.writing import new_file

Progress = Callable[[str, int], None]
"""Told the table that is being loaded and how many of its rows are in."""

_ROWS_AT_ONCE = 20_000


@dataclass(frozen=True)
class Loaded:
    """What was loaded: the rows of each table, and the name and the rows of the flat view."""

    where: str
    rows: dict[str, int]
    view: str
    view_rows: int


def load_folder(folder: Folder, url: str, instead: bool = False, progress: Progress | None = None) -> Loaded:
    """Create the tables of a folder in a database, load their rows, and check what is there.

    Everything happens in one transaction. Counts, references and the flat view are checked. Tables or a view
    of these names that are there already are an error, unless they are replaced (``instead``). A new SQLite
    file gets its name when it is complete. Raises InputError, with nothing changed, where the database
    refuses or a check fails.
    """
    from sqlalchemy.exc import SQLAlchemyError

    target = connected(url)
    kind = database(target.url.get_backend_name())
    folder = folder.fitted(kind)
    told = progress or (lambda table, rows: None)
    try:
        with _begun(target) as connection:
            _make_room(connection, folder, target, kind, instead)
            cursor = connection.connection.cursor()
            statements = schema_statements(folder.document, kind)
            first = [text for text in statements if text.startswith(("CREATE TABLE", "CREATE SEQUENCE"))]
            for statement in first:
                cursor.execute(statement)
            counts = {table["name"]: _fill(connection, folder, table, kind, told) for table in folder.tables}
            for statement in statements:  # Indexes are made faster when the rows are in.
                if statement not in first:
                    cursor.execute(statement)
            view_rows = _check(connection, folder, counts, kind)
    except (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error) as error:
        raise InputError(
            f"{target.name} could not be loaded: {target.reason(error)}", "Nothing was changed."
        ) from None
    return Loaded(target.name, counts, view_name(folder.document), view_rows)


@contextmanager
def _begun(target: Connected) -> Iterator[Any]:
    """Open a transaction; for a SQLite file that is not there yet, in a file of another name."""
    from sqlalchemy import event

    file = target.url.database if target.url.get_backend_name() == "sqlite" else None
    if not file or file == ":memory:" or os.path.exists(file):
        with _transaction(target) as connection:
            yield connection
        return
    with new_file(Path(file)) as made:
        new = connected(str(target.url.set(database=str(made))))
        event.listen(new.engine, "connect", _without_journal)
        with _transaction(replace(new, name=target.name)) as connection:
            yield connection


@contextmanager
def _transaction(target: Connected) -> Iterator[Any]:
    from sqlalchemy import event

    if target.url.get_backend_name() == "sqlite":
        event.listen(target.engine, "connect", _begin_by_hand)
        event.listen(target.engine, "begin", lambda connection: connection.exec_driver_sql("BEGIN"))
    try:
        with target.engine.begin() as connection:
            yield connection
    finally:
        target.engine.dispose()


def _without_journal(connection: Any, _: Any) -> None:
    """Spare the journal of a new file: it gets its name only when it is complete."""
    connection.execute("PRAGMA journal_mode = OFF")
    connection.execute("PRAGMA synchronous = OFF")


def _begin_by_hand(connection: Any, _: Any) -> None:
    """Keep the driver of SQLite from ending transactions on its own; references are checked at the end."""
    connection.isolation_level = None
    connection.execute("PRAGMA foreign_keys = OFF")


def _make_room(connection: Any, folder: Folder, target: Connected, kind: Database, instead: bool) -> None:
    from sqlalchemy import inspect

    inspected, view = inspect(connection), view_name(folder.document)
    names = [table["name"] for table in folder.tables]
    there = {name.lower() for name in (*inspected.get_table_names(), *inspected.get_view_names())}
    taken = [name for name in (*names, view) if name.lower() in there]
    if taken and not instead:
        raise InputError(
            f"{target.name} has {joined([shortened(name) for name in taken])} already",
            "Load into another database, or replace them: --replace.",
        )
    if taken:
        connection.exec_driver_sql(f"DROP VIEW IF EXISTS {kind.quoted(view)}")
        for name in reversed(names):
            connection.exec_driver_sql(f"DROP TABLE IF EXISTS {kind.quoted(name)}")
        if kind.name == "postgresql":
            connection.exec_driver_sql(f"DROP SEQUENCE IF EXISTS {SERIES}")


def _fill(connection: Any, folder: Folder, table: dict[str, Any], kind: Database, told: Progress) -> int:
    """Load the rows of a table by the fastest way of the database; return how many they are."""
    if kind.name == "postgresql":
        name = kind.quoted(table["name"])
        columns = ", ".join(kind.quoted(entry["name"]) for entry in table["columns"])
        done = 0
        with connection.connection.cursor().copy(f"COPY {name} ({columns}) FROM STDIN") as copy:
            for row in folder.rows(table):
                copy.write_row(row)
                done += 1
                if done % _ROWS_AT_ONCE == 0:
                    told(table["name"], done)
        told(table["name"], done)
        return done
    return load_rows(connection.connection.cursor(), folder, table, kind, told)


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


def _check(connection: Any, folder: Folder, counts: dict[str, int], kind: Database) -> int:
    """Check the counts, the references and the flat view in the database; return the view's rows."""
    for table in folder.tables:
        name = kind.quoted(table["name"])
        found = connection.exec_driver_sql(f"SELECT COUNT(*) FROM {name}").scalar()
        if found != counts[table["name"]] or found != table["rows"]:
            raise InputError(
                f"{table['name']} holds {found:,} rows, not {table['rows']:,}", "Nothing was changed."
            )
    if kind.name == "sqlite" and connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall():
        raise InputError("a reference finds no row", "Nothing was changed. See: pravix prove")
    source, flat = folder.document["source"], folder.document["flat"]
    view = kind.quoted(view_name(folder.document))
    cursor = connection.connection.cursor()
    cursor.execute(f"SELECT * FROM {view}")
    count = 0

    def batches() -> Iterator[Sequence[Sequence[object]]]:
        nonlocal count
        while rows := cursor.fetchmany(_ROWS_AT_ONCE):
            count += len(rows)
            yield rows

    if mark_of(batches(), flat["types"]) != flat["mark"] or count != source["rows"]:
        raise InputError(
            f"the view {view} does not give back the rows of the file",
            "Nothing was changed. See: pravix prove",
        )
    return count
