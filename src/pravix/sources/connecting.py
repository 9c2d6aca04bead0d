"""A database opened by its URL, with messages that never show the password."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from pravix.errors import InputError
from pravix.wording import shortened

if TYPE_CHECKING:
    from sqlalchemy import Engine
    from sqlalchemy.engine import URL

_DRIVERS = {"postgresql": "postgresql+psycopg", "mysql": "mysql+pymysql", "mariadb": "mariadb+pymysql"}


@dataclass(frozen=True)
class Connected:
    """An engine, the name under which messages may speak of it, and its URL."""

    engine: Engine
    name: str
    url: URL

    def reason(self, error: Exception) -> str:
        """Return the first line of a database's complaint, without the password."""
        told = str(getattr(error, "orig", None) or error).strip().splitlines()[0]
        password: Any = self.url.password
        return shortened(told.replace(str(password), "***") if password else told, 120)


def connected(url: str) -> Connected:
    """Return a database by its SQLAlchemy URL; it is not yet asked anything.

    Raises InputError where the URL cannot be read or its driver is not installed.
    """
    from sqlalchemy import create_engine
    from sqlalchemy.engine import make_url
    from sqlalchemy.exc import SQLAlchemyError

    try:
        address = make_url(url)
        name = address.render_as_string(hide_password=True)
        address = address.set(drivername=_DRIVERS.get(address.drivername, address.drivername))
        return Connected(create_engine(address), name, address)
    except ImportError as error:
        raise InputError(
            f"the driver {error.name} for {name} is missing", f"Install it: pip install {error.name}"
        ) from None
    except SQLAlchemyError:
        raise InputError("the URL of the database cannot be read", "For example: sqlite:///file.db") from None


@contextmanager
def inspecting(url: str) -> Iterator[Any]:
    """Give an inspector of SQLAlchemy for a database. Raises InputError where it cannot be read."""
    from sqlalchemy import inspect
    from sqlalchemy.exc import SQLAlchemyError

    database = connected(url)
    try:
        with database.engine.connect() as connection:
            yield inspect(connection)
    except SQLAlchemyError as error:
        raise InputError(f"{database.name} cannot be read: {database.reason(error)}") from None
    finally:
        database.engine.dispose()
