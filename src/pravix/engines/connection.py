"""A database of SQLAlchemy as a place where rows live: opened to be looked at, in one state of all rows."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

from pravix.engines.adaptor import Adaptor, adaptor_for
from pravix.engines.place import Place, Row
from pravix.errors import InputError
from pravix.sources.connecting import Connected, connected


class SQLConnection:
    """A connection to a database in a transaction that only reads; see ``pravix.engines.place``.

    ``settings`` are statements that begin it, where not those of the adaptor do.
    """

    def __init__(self, target: Connected, adaptor: Adaptor, settings: Sequence[str] | None = None) -> None:
        self._target = target
        self._adaptor = adaptor
        self._settings = adaptor.settings if settings is None else settings
        self._open: Any = None

    @property
    def connection(self) -> Any:
        """The connection of SQLAlchemy; opened when it is first used."""
        if self._open is None:
            made = self._target.engine.connect()
            self._adaptor.begun(made.connection.dbapi_connection)
            for statement in self._settings:
                made.exec_driver_sql(statement)
            self._open = made
        return self._open

    def ask(self, statement: Any, streamed: bool = False) -> Any:
        """As said there."""
        options = {"stream_results": True, "max_row_buffer": 4_000} if streamed else {}
        return self.connection.execute(statement, execution_options=options)

    def fetch(self, asked: Any, most: int) -> list[Row]:
        """As said there."""
        return list(asked.fetchmany(most))

    def run(self, sql: str) -> list[Row]:
        """As said there."""
        done = self.connection.exec_driver_sql(sql)
        return list(done.fetchall()) if done.returns_rows else []

    def cancel(self) -> None:
        """As said there."""
        if self._open is not None:
            self._adaptor.cancel(self._open.connection.dbapi_connection, self._target.engine)

    def reason(self, error: Exception) -> str:
        """As said there."""
        return self._target.reason(error)

    def close(self) -> None:
        """As said there: nothing was changed, so nothing is kept."""
        if self._open is not None:
            with suppress(Exception):
                self._open.rollback()
            self._open.close()
        self._target.engine.dispose()


def database_place(url: str) -> Place:
    """Return the database at a URL as a place. Raises InputError where it cannot do what is needed."""
    target = connected(url)
    adaptor = adaptor_for(target.kind.name if target.kind else target.url.get_backend_name())
    place = Place(target.name, SQLConnection(target, adaptor), adaptor)
    try:
        place.row(adaptor.lacking())
    except InputError as refused:
        place.close()
        raise InputError(
            f"{target.name} cannot be worked in: {refused}",
            "It must know sub-queries, GROUP BY, COUNT, MIN, MAX, CASE, COALESCE and CAST.",
        ) from None
    return place
