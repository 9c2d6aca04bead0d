"""Loading where a table that is created cannot be undone: MySQL and MariaDB, where it ends the transaction,
and Spark, which has none.

Tables are built under other names and get their own when all rows are in and checked; in MySQL and MariaDB in
one statement, RENAME TABLE. What they replace waits under other names until the views are there. A table of
names tells what a load is doing; the load is done when it is gone. So whatever stops it, the next one finds
out what to undo.
"""

from __future__ import annotations

import logging
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from typing import Any, ClassVar, Self

from pravix.databases.database import Database
from pravix.databases.spark import Spark
from pravix.document.model import TableDocument
from pravix.folder.reader import Folder
from pravix.loading.sessions import RefusedError, ServerSession, Session, raise_stop
from pravix.progress import Progress
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
    made = SparkSession if isinstance(kind, Spark) else MySQLSession
    from sqlalchemy.exc import SQLAlchemyError

    errors = (SQLAlchemyError, target.engine.dialect.loaded_dbapi.Error)
    try:
        connection = target.engine.connect()
        try:
            session = made(connection, kind)
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
            fresh = type(session)(connection, kind)
            with suppress(*errors):  # It may have ended by itself.
                fresh.end(session)
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
        self._tables: list[str] = []
        self._views: list[str] = []
        self._replaced: list[str] = []

    def begin(self, level: int = logging.WARNING) -> None:
        """Undo what a load that was stopped has left: logged."""
        if self._roll_back() | self._dropped(_BUILT) | self._dropped(_KEPT):
            log.log(level, "undid what a load that was stopped had left in the database")

    def end(self, other: Self) -> None:
        """Have the server end another session."""

    def close(self) -> None:
        """Let the connection go, without waiting for what it does."""
        self._connection.invalidate()

    def staged(self, folder: Folder) -> Folder:
        """As said there: the tables are numbered."""
        self._tables = [table.name for table in folder.tables]
        return Folder(folder.path, renamed(folder.document, self._numbered(_BUILT, self._tables)))

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """As said there, but only later: what is there stays until the new tables are complete.

        Views make room first, and come back last: some databases look at what they are views of.
        """
        there = self.names()
        self._replaced = [name for name in (*views, *tables) if name in there]

    def shown(self, folder: Folder, views: Mapping[str, str]) -> None:
        """As said there: first the tables get their names."""
        self._views = list(views)
        names, text = self._kind.quoted(self._fit(_NAMES)), self._kind.text
        self.execute(f"CREATE TABLE {names} (kind CHAR(1), place INT, name {self.name_type})")
        told = [("t", place, name) for place, name in enumerate(self._tables)]
        told += [("v", place, name) for place, name in enumerate(self._views)]
        told += [("r", place, name) for place, name in enumerate(self._replaced)]
        rows = ", ".join(f"({text(kind)}, {place}, {text(name)})" for kind, place, name in told)
        self.execute(f"INSERT INTO {names} VALUES {rows}")
        self.kept()
        built = {made: name for name, made in self._numbered(_BUILT, self._tables).items()}
        self.rename(self._numbered(_KEPT, self._replaced) | built)
        for statement in views.values():
            self.execute(statement)

    def finish(self) -> None:
        """Keep what was made: from here on the old tables are no more than what is to be cleared away."""
        self.execute(f"DROP TABLE {self._kind.quoted(self._fit(_NAMES))}")
        try:
            self._dropped(_KEPT)
        except Exception as error:
            log.warning("old tables are left under names like %s0: %s", self._fit(_KEPT), error)

    def _roll_back(self) -> bool:
        """Give the old tables their names again, if a load was stopped between the new ones and its end."""
        there = self.names()
        if self._fit(_NAMES) not in there:
            return False
        names = self._kind.quoted(self._fit(_NAMES))
        rows = self._asked(f"SELECT kind, name FROM {names} ORDER BY place").fetchall()
        tables, views, replaced = ([name for kind, name in rows if kind == wanted] for wanted in "tvr")
        kept, built = self._numbered(_KEPT, replaced), self._numbered(_BUILT, tables)
        for view in views:
            if kept.get(view) in there or view not in replaced:
                self.execute(f"DROP VIEW IF EXISTS {self._kind.quoted(view)}")
        new = {name: made for name, made in built.items() if made not in there}
        self.rename(new | {kept[name]: name for name in reversed(replaced) if kept[name] in there})
        self.execute(f"DROP TABLE {names}")
        return True

    def _dropped(self, beginning: str) -> bool:
        """Drop all tables and views whose names begin so; return whether there were any."""
        start = self._fit(beginning)
        found = [
            (name, view)
            for name, view in self.there()
            if name.startswith(start) and name[len(start) :].isdigit()
        ]
        for name, view in found:
            self.execute(f"DROP {'VIEW' if view else 'TABLE'} {self._kind.quoted(name)}")
        return bool(found)

    def _fit(self, name: str) -> str:
        return self._kind.fit(f"{name}0", relation=True)[:-1]

    def _numbered(self, beginning: str, names: Sequence[str]) -> dict[str, str]:
        return {name: f"{self._fit(beginning)}{place}" for place, name in enumerate(names)}

    name_type: ClassVar[str]

    def kept(self) -> None:
        """Keep what was done, whatever comes."""

    def there(self) -> list[tuple[str, bool]]:
        """Return the names of all tables and views, and whether each is a view."""
        raise NotImplementedError

    def rename(self, names: Mapping[str, str]) -> None:
        """Give tables and views other names."""
        raise NotImplementedError


class MySQLSession(StagedSession):
    """A session in MySQL or MariaDB, where only one load is under way at a time."""

    name_type = "VARCHAR(64) COLLATE utf8mb4_bin"

    def __init__(self, connection: Any, kind: Database) -> None:
        super().__init__(connection, kind)
        self._number = int(self._asked("SELECT CONNECTION_ID()").fetchone()[0])

    def begin(self, level: int = logging.WARNING) -> None:
        """As said there: first wait until nobody else loads here."""
        got = self._asked(f"SELECT GET_LOCK(CONCAT('pravix ', DATABASE()), {_LOCK_SECONDS})").fetchone()[0]
        if got != 1:
            raise RefusedError("another load into it is under way")
        super().begin(level)

    def end(self, other: Self) -> None:
        """As said there."""
        self.execute(f"KILL {other._number}")

    def remove(self, tables: Sequence[str], views: Sequence[str]) -> None:
        """As said there, and no other table may refer to one that is replaced."""
        super().remove(tables, views)
        outside = self._asked(
            "SELECT TABLE_NAME, REFERENCED_TABLE_NAME FROM information_schema.KEY_COLUMN_USAGE "
            "WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IS NOT NULL"
        ).fetchall()
        for name, referred in outside:
            if referred in self._replaced and name not in self._replaced:
                raise RefusedError(f"the table {name} refers to {referred}, which would be replaced")

    def kept(self) -> None:
        """As said there."""
        self.execute("COMMIT")

    def there(self) -> list[tuple[str, bool]]:
        """As said there."""
        rows = self._asked(
            "SELECT TABLE_NAME, TABLE_TYPE FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
        ).fetchall()
        return [(name, "VIEW" in kind) for name, kind in rows]

    def _dropped(self, beginning: str) -> bool:
        self.execute("SET FOREIGN_KEY_CHECKS = 0")
        found = super()._dropped(beginning)
        self.execute("SET FOREIGN_KEY_CHECKS = 1")
        return found

    def rename(self, names: Mapping[str, str]) -> None:
        """As said there: all at once."""
        quoted = self._kind.quoted
        if names:
            pairs = ", ".join(f"{quoted(old)} TO {quoted(new)}" for old, new in names.items())
            self.execute(f"RENAME TABLE {pairs}")


class SparkSession(StagedSession):
    """A session of Spark, which keeps no references: they are looked up."""

    name_type = "STRING"

    def there(self) -> list[tuple[str, bool]]:
        """As said there."""
        views = {row[1] for row in self._asked("SHOW VIEWS").fetchall()}
        return [(row[1], row[1] in views) for row in self._asked("SHOW TABLES").fetchall()]

    def rename(self, names: Mapping[str, str]) -> None:
        """As said there: one by one."""
        views = {name for name, view in self.there() if view}
        for old, new in names.items():
            kind = "VIEW" if old in views else "TABLE"
            self.execute(f"ALTER {kind} {self._kind.quoted(old)} RENAME TO {self._kind.quoted(new)}")

    def fill(self, folder: Folder, table: TableDocument, told: Progress) -> int:
        """Raise RefusedError: Spark's tables are filled from one that is there."""
        raise RefusedError("rows come into it from a table there only: --from TABLE")
