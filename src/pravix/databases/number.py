"""A number in SQL."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Number:
    """An SQL expression, and how many decimal places its numbers have at most."""

    sql: str
    scale: int
