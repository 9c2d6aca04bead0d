"""Loading into MySQL and MariaDB, where a table that is created ends the transaction.

Tables are built under other names and get their own in one statement, RENAME TABLE, when all rows are in and
checked. What they replace waits under other names until the views are there. A table of names tells what a
load is doing; the load is done when it is gone. So whatever stops it, the next one finds out what to undo.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from typing import Any

from pravix.databases.database import Database
from pravix.folder.reader import Folder
from pravix.loading.sessions import RefusedError, ServerSession, Session, raise_stop
from pravix.sources.connecting import Connected
from pravix.sql.identifiers import renamed

log = logging.getLogger(__name__)

_BUILT = "pravix unfinished "
_KEPT = "pravix replaced "
_NAMES = "pravix unfinished names"
_LOCK_SECONDS = 10


@contextmanager
def staged_session(target: Connected, kind: Database) -> Iterator[Session]:
    """Give a session whose tables get their names when the block ends well; otherwise all is as it was."""
    from sqlalchemy.exc import SQLAlchemyError

    errors = (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error)
    try:
        connection = target.engine.connect()
        try:
            session = StagedSession(connection, kind)
            session.begin()
            try:
                yield session
                session.finish()
            except BaseException:
                _undo(target, kind, session)
                raise
        finally:
            with suppress(*errors):  # What is done is done, should the connection be lost only now.
                connection.close()
    except errors as error:
        raise_stop(error)
        raise RefusedError(target.reason(error)) from None
    finally:
        target.engine.dispose()


def _undo(target: Connected, kind: Database, session: StagedSession) -> None:
    """Undo by a connection of its own: the first may be gone, or in the midst of a statement."""
    from sqlalchemy.exc import SQLAlchemyError

    errors = (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error)
    with suppress(*errors):
        session.close()
    try:
        with target.engine.connect() as connection:
            fresh = StagedSession(connection, kind)
            with suppress(*errors):  # It may have ended by itself.
                fresh.execute(f"KILL {session.number}")
            fresh.begin(logging.DEBUG)
    except (RefusedError, *errors) as error:
        log.warning(
            "%s could not be put in order (%s); the next load into it does that",
            target.name,
            target.reason(error),
        )


class StagedSession(ServerSession):
    """Tables built under other names, by a connection of SQLAlchemy."""

    def __init__(self, connection: Any, kind: Database) -> None:
        super().__init__(connection, kind)
        self.number = int(self._asked("SELECT CONNECTION_ID()").fetchone()[0])
        self._tables: list[str] = []
        self._views: list[str] = []
        self._replaced: list[str] = []

    def begin(self, level: int = logging.WARNING) -> None:
        """Wait until nobody else loads here, and undo what a load that was stopped has left: logged."""
        got = self._asked(f"SELECT GET_LOCK(CONCAT('pravix ', DATABASE()), {_LOCK_SECONDS})").fetchone()[0]
        if got != 1:
            raise RefusedError("another load into it is under way")
        if self._roll_back() | self._dropped(_BUILT) | self._dropped(_KEPT):
            log.log(level, "undid what a load that was stopped had left in the database")

    def close(self) -> None:
        """Let the connection go, without waiting for what it does."""
        self._connection.invalidate()

    def staged(self, folder: Folder) -> Folder:
        """As said there: the tables are numbered."""
        self._tables = [table.name for table in folder.tables]
        return Folder(folder.path, renamed(folder.document, _numbered(_BUILT, self._tables)))

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """As said there, but only later: what is there stays until the new tables are complete."""
        there = self.names()
        self._replaced = [name for name in (*tables, *views) if name in there]
        outside = self._asked(
            "SELECT TABLE_NAME, REFERENCED_TABLE_NAME FROM information_schema.KEY_COLUMN_USAGE "
            "WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IS NOT NULL"
        ).fetchall()
        for name, referred in outside:
            if referred in self._replaced and name not in self._replaced:
                raise RefusedError(f"the table {name} refers to {referred}, which would be replaced")

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        """As said there: first the tables get their names, all at once."""
        self._views = list(views)
        names = self._kind.quoted(_NAMES)
        self.execute(f"CREATE TABLE {names} (kind CHAR(1), place INT, name VARCHAR(64) COLLATE utf8mb4_bin)")
        cursor = self._connection.connection.cursor()
        told = [("t", place, name) for place, name in enumerate(self._tables)]
        told += [("v", place, name) for place, name in enumerate(self._views)]
        told += [("r", place, name) for place, name in enumerate(self._replaced)]
        cursor.executemany(f"INSERT INTO {names} VALUES (%s, %s, %s)", told)
        self.execute("COMMIT")
        kept = _numbered(_KEPT, self._replaced)
        built = {made: name for name, made in _numbered(_BUILT, self._tables).items()}
        self._rename(kept | built)
        for statement in views.values():
            self.execute(statement)

    def finish(self) -> None:
        """Keep what was made: from here on the old tables are no more than what is to be cleared away."""
        self.execute(f"DROP TABLE {self._kind.quoted(_NAMES)}")
        try:
            self._dropped(_KEPT)
        except Exception as error:
            log.warning("old tables are left under names like %s0: %s", _KEPT, error)

    def _rename(self, names: Mapping[str, str]) -> None:
        quoted = self._kind.quoted
        if names:
            pairs = ", ".join(f"{quoted(old)} TO {quoted(new)}" for old, new in names.items())
            self.execute(f"RENAME TABLE {pairs}")

    def _roll_back(self) -> bool:
        """Give the old tables their names again, if a load was stopped between the new ones and its end."""
        if _NAMES not in self.names():
            return False
        rows = self._asked(f"SELECT kind, name FROM {self._kind.quoted(_NAMES)} ORDER BY place").fetchall()
        tables, views, replaced = ([name for kind, name in rows if kind == wanted] for wanted in "tvr")
        there, kept = self.names(), _numbered(_KEPT, replaced)
        if not any(made in there for made in _numbered(_BUILT, tables).values()):
            for view in views:
                self.execute(f"DROP VIEW IF EXISTS {self._kind.quoted(view)}")
            back = {made: name for name, made in kept.items() if made in there}
            self._rename(_numbered(_BUILT, tables) | back)
        self.execute(f"DROP TABLE {self._kind.quoted(_NAMES)}")
        return True

    def _dropped(self, beginning: str) -> bool:
        """Drop all tables and views whose names begin so; return whether there were any."""
        rows = self._asked(
            "SELECT TABLE_NAME, TABLE_TYPE FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
        ).fetchall()
        found = [
            (name, kind)
            for name, kind in rows
            if name.startswith(beginning) and name[len(beginning) :].isdigit()
        ]
        self.execute("SET FOREIGN_KEY_CHECKS = 0")
        for name, kind in found:
            self.execute(f"DROP {'VIEW' if 'VIEW' in kind else 'TABLE'} {self._kind.quoted(name)}")
        self.execute("SET FOREIGN_KEY_CHECKS = 1")
        return bool(found)


def _numbered(beginning: str, names: Sequence[str]) -> dict[str, str]:
    return {name: f"{beginning}{place}" for place, name in enumerate(names)}
