"""A database opened by its URL, with messages that never show the password."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING

from pravix.errors import InputError
from pravix.wording import shortened

if TYPE_CHECKING:
    from sqlalchemy import Engine, Inspector
    from sqlalchemy.engine import URL

    from pravix.databases.database import Database

HIDDEN = "***"
_URL = re.compile(r"[a-z][a-z0-9+]*://", re.IGNORECASE)
_LOCAL = re.compile(r"local\[(\d+|\*)\]")
_PARTS = re.compile(r"(sc://[^/]*)/;(.*)", re.IGNORECASE)
_HARMLESS = frozenset("host port sslmode charset application_name connect_timeout mode uri timeout".split())
"""Parts of a URL's query that hold nothing secret."""


@dataclass(frozen=True)
class Connected:
    """An engine, the name under which messages may speak of it, its URL, and what is known of its kind."""

    engine: Engine
    name: str
    url: URL
    kind: Database | None

    def reason(self, error: Exception) -> str:
        """Return the first line of a database's complaint, without anything secret of the URL."""
        told = (str(getattr(error, "orig", None) or error).strip() or type(error).__name__).splitlines()[0]
        for secret in sorted(_secrets(self.url), key=len, reverse=True):
            told = told.replace(secret, HIDDEN)
        return shortened(told, 120)


def is_url(source: str) -> bool:
    """Return whether a source is the URL of a database and no path; ``local[2]`` is Spark on this machine."""
    return (_URL.match(source) or _LOCAL.fullmatch(source)) is not None


def url_of(url: str | URL) -> URL:
    """Return a URL in its parts. Those of Spark Connect come after a semicolon: they are its query."""
    from sqlalchemy.engine import make_url

    if isinstance(url, str):
        url = re.sub(r"^postgres(?=[:+])", "postgresql", url)
    if isinstance(url, str) and _LOCAL.fullmatch(url):
        return make_url("sc://").set(database=url)
    parts = _PARTS.fullmatch(url) if isinstance(url, str) else None
    if parts is None:
        return make_url(url)
    return make_url(parts[1]).set(query=dict(part.split("=", 1) for part in parts[2].split(";") if part))


def shown_url(url: str | URL) -> str:
    """Return a URL as it may be shown, printed and stored: without passwords, wherever a driver takes one.

    That is after the user's name, and in every part of the query that is not known to be harmless. What
    cannot be read as a URL is cut after its scheme.
    """
    from sqlalchemy.exc import SQLAlchemyError

    if isinstance(url, str):
        url = re.sub(r"^postgres(?=[:+])", "postgresql", url)
    if isinstance(url, str) and _LOCAL.fullmatch(url):
        return url
    try:
        address = url_of(url)
    except (SQLAlchemyError, ValueError):
        scheme, mark, _ = str(url).partition("://")
        return f"{scheme}{mark}{HIDDEN}" if mark else HIDDEN
    parts = [address.host, address.username]
    if not _in_a_file(address):
        parts.append(address.database)
    if any("@" in (part or "") for part in parts) or ":" in (address.username or ""):
        return f"{address.drivername}://{HIDDEN}"  # Not escaped: nobody can tell what is secret.
    harmless = {key: value for key, value in address.query.items() if key.lower() in _HARMLESS}
    return address.set(query=harmless).render_as_string(hide_password=True)


def _secrets(url: URL) -> list[str]:
    """Return what must not be told of a URL."""
    found = [str(url.password)] if url.password else []
    found += [
        part.rpartition("@")[0] for part in (url.host, url.username, url.database) if part and "@" in part
    ]
    for key, value in url.query.items():
        if key.lower() not in _HARMLESS:
            found += [value] if isinstance(value, str) else list(value)
    return [secret for secret in found if secret]


def connected(url: str, new: bool = False) -> Connected:
    """Return a database by its SQLAlchemy URL; it is not yet asked anything.

    Only with ``new`` a database that is a file may be one that is not there yet. Raises InputError where the
    URL cannot be read or its driver is not installed.
    """
    from sqlalchemy import create_engine
    from sqlalchemy.dialects import registry
    from sqlalchemy.exc import SQLAlchemyError

    kind = None
    try:
        address, name = url_of(url), shown_url(url)
        kind = _kind(address)
        if kind is not None and kind.own_dialect:
            registry.register(address.get_backend_name(), *kind.own_dialect.split(":"))
        if kind is not None and kind.driver and "+" not in address.drivername:
            address = address.set(drivername=kind.driver)
        if _in_a_file(address) and not new:
            _check_there(address, name)
        return Connected(create_engine(address), name, address, kind)
    except ImportError as error:
        wanted = f"'pravix[{kind.extra}]'" if kind is not None and kind.extra else error.name
        raise InputError(
            f"the driver {error.name} for {name} is missing", f"Install it: pip install {wanted}"
        ) from None
    except (SQLAlchemyError, ValueError, TypeError):
        raise InputError("the URL of the database cannot be read", "For example: sqlite:///file.db") from None


def _kind(address: URL) -> Database | None:
    from pravix.databases.known import known_as

    return known_as(address.get_backend_name())


def _in_a_file(address: URL) -> bool:
    kind = _kind(address)
    return kind is not None and kind.in_a_file


def _check_there(address: URL, name: str) -> None:
    file = address.database or ":memory:"
    if file != ":memory:" and not file.startswith("file:") and not os.path.isfile(file):
        raise InputError(f"{name}: there is no file {file}", "Check the name and the folder.")


@contextmanager
def inspecting(url: str) -> Iterator[Inspector]:
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
