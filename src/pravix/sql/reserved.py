"""The words that a database takes for its own, so that no table should be called by them."""

from __future__ import annotations

from functools import cache
from pathlib import Path


@cache
def reserved_words() -> frozenset[str]:
    """Return, in small letters, what any of SQLite, PostgreSQL, MySQL and SQL Server reserves.

    They stand in a file, as SQLAlchemy knows them: to load four of its dialects takes as long as a small
    design.
    """
    return frozenset(Path(__file__).with_suffix(".txt").read_text(encoding="ascii").split())
