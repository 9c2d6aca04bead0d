"""A connection to the engine that has the rows: statements carried out one by one, heard, counted,
cancelled.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from time import perf_counter
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from pravix.errors import InputError

if TYPE_CHECKING:
    from pravix.engines.adaptor import Adaptor

log = logging.getLogger(__name__)

MOST_ROWS = 300_000
"""No statement brings more rows than this to the client."""

_AT_ONCE = 4_000
_WAIT = 0.2

Row = Sequence[Any]
_Found = TypeVar("_Found")


class Connection(Protocol):
    """What an engine is asked through, in one thread; ``cancel`` alone is called from another.

    What the engine refuses is raised as an error that ``reason`` can tell.
    """

    @property
    def connection(self) -> Any:
        """The connection of the engine's own library."""
        ...

    def ask(self, statement: Any, streamed: bool = False) -> Any:
        """Carry out a statement of SQLAlchemy Core, and return what its rows are fetched from.

        Only where they are ``streamed`` the client need not hold all of them.
        """
        ...

    def fetch(self, asked: Any, most: int) -> list[Row]:
        """Return the next rows of what was asked, at most so many; none when all were fetched."""
        ...

    def run(self, sql: str) -> list[Row]:
        """Carry out a statement in the engine's own words; return its rows."""
        ...

    def cancel(self) -> None:
        """Stop the statement that is being carried out, wherever it is."""
        ...

    def reason(self, error: Exception) -> str:
        """Return what the engine complained of, in one line without anything secret."""
        ...

    def close(self) -> None:
        """Let everything go."""
        ...


class Place:
    """An engine in use.

    ``name`` is how messages speak of it. Every statement is carried out in one thread of its own, so that an
    interruption is heard at once; then the engine is told to stop. ``statements`` and ``moved`` count what
    was asked and the rows that came for it.
    """

    def __init__(self, name: str, connection: Connection, adaptor: Adaptor) -> None:
        self.name = name
        self.adaptor = adaptor
        self.statements = 0
        self.moved = 0
        self._connection = connection
        self._thread = ThreadPoolExecutor(1, "engine")

    def rows(self, statement: Any, most: int = MOST_ROWS) -> list[Row]:
        """Return the rows of a statement. Raises InputError where there are more than ``most``, or it
        fails.
        """
        found = self.worked(lambda: self._asked(statement, most + 1))
        if len(found) > most:
            raise InputError(f"{self.name} gave more than {most:,} rows where fewer were counted")
        return found

    def row(self, statement: Any) -> Row:
        """Return the one row of a statement."""
        return self.rows(statement, 1)[0]

    def batches(self, statement: Any) -> Iterator[list[Row]]:
        """Yield all rows of a statement, some thousands at a time."""
        self.statements += 1
        asked = self.worked(lambda: self._connection.ask(statement, streamed=True))
        while batch := self.worked(lambda: self._connection.fetch(asked, _AT_ONCE)):
            self.moved += len(batch)
            yield batch

    def run(self, sql: str) -> list[Row]:
        """Carry out a statement in the engine's own words; return its rows."""
        begun = perf_counter()
        found = self.worked(lambda: self._connection.run(sql))
        log.debug("%.2f s: %s", perf_counter() - begun, sql)
        return found

    @property
    def connection(self) -> Any:
        """The engine's own connection; to be used in ``worked`` only."""
        return self._connection.connection

    def columns_of(self, statement: Any) -> list[str]:
        """Return the names of the columns of a statement's rows."""
        return self.worked(lambda: list(map(str, self._connection.ask(statement).keys())))

    def _asked(self, statement: Any, most: int) -> list[Row]:
        begun = perf_counter()
        found = self._connection.fetch(self._connection.ask(statement), most)
        self.statements += 1
        self.moved += len(found)
        log.debug("%.2f s, %d rows: %s", perf_counter() - begun, len(found), statement)
        return found

    def worked(self, work: Callable[[], _Found]) -> _Found:
        """Do what needs the connection in its thread. Raises InputError where the engine refuses."""
        future = self._thread.submit(work)
        try:
            while True:
                with suppress(TimeoutError):
                    return future.result(_WAIT)
                self.waiting()
                if future.done():  # The work itself ran out of time: the engine says so.
                    return future.result()
        except InputError:
            raise
        except Exception as error:
            raise InputError(f"{self.name} refused: {self._connection.reason(error)}") from None
        except BaseException:
            with suppress(Exception):
                self._connection.cancel()
            raise

    def kept(self, statement: Any) -> Any:
        """Keep the rows of a statement in a table of their own for a while, and return that; None where
        nothing is kept.
        """
        return None

    def waiting(self) -> None:
        """Tell what is under way, where that is known; called some times a second meanwhile."""

    def close(self) -> None:
        """Let the connection go, with all that it keeps for a while."""
        with suppress(Exception):
            self._thread.submit(self._connection.close).result(10)
        self._thread.shutdown(wait=False, cancel_futures=True)
