"""PostgreSQL."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from shlex import quote
from typing import TYPE_CHECKING, Any

from pravix.databases.database import Database

if TYPE_CHECKING:
    from sqlalchemy.engine import URL


class PostgreSQL(Database):
    """PostgreSQL 12 and later."""

    name = "postgresql"
    module = "postgresql"
    checks_references_at_once = True
    defers = True
    driver = "postgresql+psycopg"
    name_limit = 63
    shared_series = True
    script_head = ("SET client_encoding = 'UTF8';\n\n",)
    carriage_return = "CHR(13)"

    def read_as(self, columns: Iterable[Any]) -> list[Any]:
        """As said there: JSON as the text that it is."""
        from sqlalchemy import JSON, Text, cast

        return [
            cast(column, Text).label(column.name) if isinstance(column.type, JSON) else column
            for column in columns
        ]

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """As said there."""
        split = f"UNNEST(STRING_TO_ARRAY({cell}, {self.text(mark)})) WITH ORDINALITY"
        return f"{rows} CROSS JOIN LATERAL {split} AS i(item, place)", "i.item", "i.place"

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """As said there."""
        return (f"LOCK TABLE {', '.join(map(self.quoted, tables))} IN SHARE ROW EXCLUSIVE MODE",)

    def fit(self, name: str, spare: int = 0, relation: bool = False) -> str:
        """As said there: the limit is in bytes."""
        assert self.name_limit is not None
        return name.replace("\0", "_").encode()[: self.name_limit - spare].decode(errors="ignore")

    def years_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"CAST(DATE_PART('year', AGE({later}, {earlier})) AS INTEGER)"

    def going_on(self, table: str, column: str, series: str | None, highest: int) -> str:
        """As said there."""
        own = f"pg_get_serial_sequence({self.text(self.quoted(table))}, {self.text(column)})"
        called = own if series is None else f"'{series}'"
        return f"SELECT setval({called}, {max(highest, 1)})"

    def client(self, address: URL, query: str) -> str:
        """As said there."""
        from sqlalchemy.engine import URL

        parts = {part: getattr(address, part) for part in ("username", "host", "port", "database")}
        return f"psql {quote(URL.create('postgresql', **parts).render_as_string())} -c {quote(query)}"
