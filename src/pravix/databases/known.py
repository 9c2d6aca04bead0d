"""The databases that are known, by name."""

from __future__ import annotations

from pravix.databases.database import Database
from pravix.databases.duckdb import DuckDB
from pravix.databases.mysql import MariaDB, MySQL
from pravix.databases.postgresql import PostgreSQL
from pravix.databases.spark import Spark
from pravix.databases.sqlite import SQLite
from pravix.databases.sqlserver import SQLServer
from pravix.errors import InputError
from pravix.wording import joined

_KNOWN: dict[str, Database] = {
    kind.name: kind for kind in (SQLite(), PostgreSQL(), MySQL(), MariaDB(), SQLServer(), DuckDB(), Spark())
}
_OTHER_NAMES = {"postgres": "postgresql", "mssql": "sqlserver", "sc": "spark"}
DATABASES = tuple(_KNOWN)
"""The names of the databases."""


def known_as(name: str) -> Database | None:
    """Return a database by its name; None where it is none that is known."""
    return _KNOWN.get(_OTHER_NAMES.get(name, name))


def database(name: str) -> Database:
    """Return a database by its name; InputError where it is none that is known."""
    found = known_as(name)
    if found is None:
        raise InputError(f"no SQL is written for {name}", f"Known are {joined(DATABASES)}.")
    return found
