"""A folder of results loaded into a database: all or nothing, and checked there."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.errors import InputError
from pravix.handover.dialects import Database, database
from pravix.handover.opened import Folder
from pravix.handover.sessions import Progress, RefusedError, Session, server_session
from pravix.handover.sql import SERIES, schema_statements
from pravix.handover.sqlite_session import sqlite_session
from pravix.handover.view import views
from pravix.sources.connecting import connected
from pravix.wording import joined, shortened


@dataclass(frozen=True)
class Loaded:
    """What was loaded: the rows of each table, and those of each view of flat rows."""

    where: str
    rows: dict[str, int]
    views: dict[str, int]


def load_folder(folder: Folder, url: str, instead: bool = False, progress: Progress | None = None) -> Loaded:
    """Create the tables of a folder in a database, load their rows, and check what is there.

    Everything happens in one transaction. Counts, references and the flat views are checked. Tables or a view
    of these names that are there already are an error, unless they are replaced (``instead``). A new SQLite
    file gets its name when it is complete. Raises InputError, with nothing changed, where the database
    refuses or a check fails.
    """
    target = connected(url)
    kind = database(target.url.get_backend_name())
    folder = folder.fitted(kind)
    told = progress or (lambda table, rows: None)
    begun = sqlite_session if kind.name == "sqlite" else server_session
    try:
        with begun(target, kind) as session:
            _make_room(session, folder, target.name, kind, instead)
            statements = schema_statements(folder.document, kind)
            first = [text for text in statements if text.startswith(("CREATE TABLE", "CREATE SEQUENCE"))]
            for statement in first:
                session.execute(statement)
            counts = {table["name"]: session.fill(folder, table, told) for table in folder.tables}
            for statement in statements:  # Indexes are made faster when the rows are in.
                if statement not in first:
                    session.execute(statement)
            checked = _check(session, folder, counts, kind)
    except RefusedError as refused:
        raise InputError(f"{target.name} could not be loaded: {refused}", "Nothing was changed.") from None
    return Loaded(target.name, counts, checked)


def _make_room(session: Session, folder: Folder, where: str, kind: Database, instead: bool) -> None:
    flat = views(folder.document)
    names = [table["name"] for table in folder.tables]
    there = {name.lower() for name in session.names()}
    taken = [name for name in (*names, *flat) if name.lower() in there]
    if taken and not instead:
        raise InputError(
            f"{where} has {joined([shortened(name) for name in taken])} already",
            "Load into another database, or replace them: --replace.",
        )
    if taken:
        for view in flat:
            session.execute(f"DROP VIEW IF EXISTS {kind.quoted(view)}")
        for name in reversed(names):
            session.execute(f"DROP TABLE IF EXISTS {kind.quoted(name)}")
        if kind.name == "postgresql":
            session.execute(f"DROP SEQUENCE IF EXISTS {SERIES}")


def _check(session: Session, folder: Folder, counts: dict[str, int], kind: Database) -> dict[str, int]:
    """Check the counts, the references and the flat views in the database; return the views' rows."""
    for table in folder.tables:
        found = session.count(kind.quoted(table["name"]))
        if found != counts[table["name"]] or found != table["rows"]:
            raise InputError(
                f"{table['name']} holds {found:,} rows, not {table['rows']:,}", "Nothing was changed."
            )
    parts = views(folder.document)
    types = {kind.quoted(name): part["flat"]["types"] for name, part in parts.items()}
    references_hold, given = session.verified(types)
    if not references_hold:
        raise InputError("a reference finds no row", "Nothing was changed. See: pravix prove")
    for name, part in parts.items():
        if given[kind.quoted(name)] != (part["flat"]["mark"], part["source"]["rows"]):
            raise InputError(
                f"the view {kind.quoted(name)} does not give back the rows of the file",
                "Nothing was changed. See: pravix prove",
            )
    return {name: given[kind.quoted(name)][1] for name in parts}
