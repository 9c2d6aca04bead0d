"""SQLite: no decimals, no types that bind, one writer at a time."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from decimal import ROUND_HALF_EVEN
from shlex import quote
from typing import TYPE_CHECKING, Any

from pravix.databases.database import Database
from pravix.databases.number import Number
from pravix.databases.whole_numbers import WholeNumbers
from pravix.relation.types import Kind

if TYPE_CHECKING:
    from sqlalchemy.engine import URL


class SQLite(Database):
    """SQLite 3."""

    name = "sqlite"
    module = "sqlite"
    session = "pravix.loading.sqlite_session:sqlite_session"
    in_a_file = True
    adds_references = False
    defers = True
    exact_digits = 15
    keeps_places = False
    placeholder = "?"
    script_head = ("PRAGMA foreign_keys = ON;\n\n",)

    def read_as(self, columns: Iterable[Any]) -> list[Any]:
        """As said there: a column may hold cells of any type."""
        from sqlalchemy import type_coerce
        from sqlalchemy.types import NullType

        return [type_coerce(column, NullType()).label(column.name) for column in columns]

    def typed(self, sql: str, kind: Kind, type_name: str) -> str:
        """As said there: a column converts what it gets; numbers alone must be told to be compared."""
        return f"CAST({sql} AS NUMERIC)" if kind.numeric else sql

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """As said there: by way of JSON."""
        listed = f"""'[' || REPLACE(JSON_QUOTE({cell}), {self.text(mark)}, '","') || ']'"""
        return f"{rows} JOIN JSON_EACH({listed}) i", "i.value", "i.key + 1"

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """As said there."""
        return ("BEGIN IMMEDIATE",)

    def fit(self, name: str, spare: int = 0, relation: bool = False) -> str:
        """As said there: names that begin with sqlite_ are its own."""
        name = super().fit(name, spare, relation)
        return f"_{name}" if relation and name.lower().startswith("sqlite_") else name

    def folded(self, name: str) -> str:
        """As said there: case is ignored."""
        return name.lower()

    def list_of(self, fact: str, order: str, separator: str, source: str, where: str) -> str:
        """As said there: the aggregate takes rows as they come, so they come in order."""
        inner = f"SELECT {self.as_text(fact)} AS item FROM {source} WHERE {where} ORDER BY {order}"
        return f"(SELECT GROUP_CONCAT(item, {self.text(separator)}) FROM ({inner}))"

    def years_between(self, earlier: str, later: str) -> str:
        """As said there."""
        before = f"(STRFTIME('%m-%d', {later}) < STRFTIME('%m-%d', {earlier}))"
        return f"STRFTIME('%Y', {later}) - STRFTIME('%Y', {earlier}) - {before}"

    def days_between(self, earlier: str, later: str) -> str:
        """As said there: dates are texts."""
        return f"CAST(ROUND(JULIANDAY({later}) - JULIANDAY({earlier})) AS INTEGER)"

    def days_after(self, day: str, days: str) -> str:
        """As said there: dates are texts."""
        return f"DATE({day}, {days} || ' days')"

    def date(self, value: str) -> str:
        """As said there: a text."""
        return f"'{value}'"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """As said there: by whole numbers, which hold 18 digits."""
        return WholeNumbers("INTEGER").computed(operation, numbers, scale, rounding == ROUND_HALF_EVEN)

    def client(self, address: URL, query: str) -> str:
        """As said there."""
        return f"sqlite3 -header -column {quote(address.database or '')} {quote(query)}"
