"""The words that a database takes for its own, so that no table should be called by them."""

from __future__ import annotations

from functools import cache

from sqlalchemy.dialects import mssql, mysql, postgresql, sqlite


@cache
def reserved_words() -> frozenset[str]:
    """Return, in small letters, what any of SQLite, PostgreSQL, MySQL and SQL Server reserves."""
    dialects = (module.dialect() for module in (sqlite, postgresql, mysql, mssql))
    return frozenset(word for dialect in dialects for word in dialect.identifier_preparer.reserved_words)
