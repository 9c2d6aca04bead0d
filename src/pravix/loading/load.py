"""A folder of results loaded into a database: all or nothing, and checked there."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pkgutil import resolve_name

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.loading.sessions import Query, RefusedError, Session
from pravix.progress import Progress
from pravix.sources.connecting import Connected, connected
from pravix.sql.schema import beyond, held_otherwise, schema_statements
from pravix.sql.view import views
from pravix.wording import joined, shortened

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Loaded:
    """What was loaded: the rows of each table and of each view of flat rows, and what was done otherwise."""

    where: str
    rows: dict[str, int]
    views: dict[str, int]
    notes: tuple[str, ...] = ()
    keeps_rules: bool = True


def load_folder(folder: Folder, url: str, instead: bool = False, progress: Progress | None = None) -> Loaded:
    """Create the tables of a folder in a database, load their rows, and check what is there.

    Counts, references and the flat views are checked. Tables or a view of these names that are there already
    are an error, unless they are replaced (``instead``). A new SQLite file gets its name when it is complete;
    MySQL and MariaDB build under other names, and the others in one transaction. Raises InputError, with
    nothing changed, where the database refuses, could not hold the numbers, or a check fails.
    """
    target = connected(url, new=True)
    kind = database(target.url.get_backend_name())
    folder = folder.fitted(kind)
    lacking = beyond(folder.document, kind)
    if lacking:
        raise InputError(
            f"{target.name} cannot do this exactly: {lacking}",
            "Load into another database, or keep that column: pravix repair --keep",
        )
    told = progress or (lambda table, rows: None)
    try:
        with session_of(kind)(target, kind) as session:
            names, flat = [table.name for table in folder.tables], list(views(folder.document))
            make_room(session, (names, flat), target.name, instead)
            built = session.staged(folder)
            statements = schema_statements(built.document, kind, filled=True)
            for statement in statements.tables:
                session.execute(statement)
            counts = [session.fill(built, table, told) for table in built.tables]
            log.info("loaded %s: %s", target.name, dict(zip(names, counts, strict=True)))
            last = (*statements.indexes, *statements.references)  # Made faster when the rows are in.
            given = _check(session, built, counts, kind, last)
            session.shown(
                folder, dict(zip(flat, schema_statements(folder.document, kind).views, strict=True))
            )
    except RefusedError as refused:
        raise InputError(f"{target.name} could not be loaded: {refused}", "Nothing was changed.") from None
    rows = dict(zip(names, counts, strict=True))
    return Loaded(
        target.name, rows, dict(zip(flat, given, strict=True)), held_otherwise(folder.document, kind)
    )


def session_of(kind: Database) -> Callable[[Connected, Database], AbstractContextManager[Session]]:
    """Return what gives a session in a database; its module is loaded only now."""
    found: Callable[[Connected, Database], AbstractContextManager[Session]] = resolve_name(kind.session)
    return found


def make_room(session: Session, ours: tuple[list[str], list[str]], where: str, instead: bool) -> None:
    """Remove tables and views of the names of ours. Raises InputError where that is not wished."""
    tables, flat = ours
    there = {name.lower() for name in session.names()}
    taken = [name for name in (*tables, *flat) if name.lower() in there]
    if taken and not instead:
        raise InputError(
            f"{where} has {joined([shortened(name) for name in taken])} already",
            "Load into another database, or replace them: --replace.",
        )
    if taken:
        session.remove(tables, flat)


def _check(
    session: Session, folder: Folder, counts: Sequence[int], kind: Database, last: Sequence[str]
) -> list[int]:
    """Check the counts, carry out the ``last`` statements, check the references and the flat rows; return how
    many these are.
    """
    for table, rows in zip(folder.tables, counts, strict=True):
        found = session.count(kind.quoted(table.name))
        if found != rows or found != table.rows:
            told = f"{table.file} gives {found:,} rows, not {table.rows:,}"
            raise InputError(told, "Nothing was changed. See: pravix prove")
    parts = views(folder.document)
    queries = {name: Query(part, kind) for name, part in parts.items()}
    verified = session.verified(folder.tables, queries, last)
    if not verified.references_hold:
        raise InputError("a reference finds no row", "Nothing was changed. See: pravix prove")
    for name, part in parts.items():
        if verified.given[name] != (part.flat.mark, part.source.rows):
            raise InputError(
                f"the view {name} does not give back the rows of the file",
                "Nothing was changed. See: pravix prove",
            )
    return [verified.given[name][1] for name in parts]
