"""DuckDB: an analytical database in a file, with large whole numbers and no savepoints."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN
from functools import cached_property
from shlex import quote
from typing import TYPE_CHECKING, Any

from pravix.databases.database import Database
from pravix.databases.number import Number
from pravix.databases.whole_numbers import WholeNumbers
from pravix.errors import InputError

if TYPE_CHECKING:
    from sqlalchemy.engine import URL

ARRIVING = "arriving rows"
"""The name by which a statement knows the rows that are given to it."""

_ROWS_AT_ONCE = 100_000
_DIGITS = 38
_ANY_LENGTH = 1_000_000


@contextmanager
def arriving(connection: Any, rows: Any) -> Iterator[None]:
    """Let statements of a connection read an Arrow table under the name of ``ARRIVING``.

    After one that failed nothing more is asked of the connection: that would be told in place of the fault.
    """
    connection.register(ARRIVING, rows)
    yield
    connection.unregister(ARRIVING)


def arrow_batches(connection: Any, sql: str) -> Iterator[Any]:
    """Return the rows of a query by a connection as batches of Arrow."""
    found = connection.sql(sql)
    return iter(getattr(found, "to_arrow_reader", found.fetch_arrow_reader)(_ROWS_AT_ONCE))


@dataclass(frozen=True)
class _HugeNumbers(WholeNumbers):
    """Whole numbers of 38 digits; dividing decimals would go through floating point."""

    kind: str = "HUGEINT"
    divided: str = "//"

    def whole(self, number: Number, scale: int) -> str:
        """As said there: by the text of the decimal, without its point."""
        decimal = f"CAST(CAST({number.sql} AS DECIMAL({_DIGITS}, {number.scale})) AS VARCHAR)"
        whole = f"CAST(REPLACE({decimal}, '.', '') AS {self.kind})"
        return f"({whole} * {10 ** (scale - number.scale)})" if scale > number.scale else whole

    def scaled(self, whole: str, scale: int) -> str:
        """As said there: times a decimal."""
        if not scale:
            return whole
        unit = f"CAST('{10**-scale:.{scale}f}' AS DECIMAL({scale}, {scale}))"
        return f"CAST({whole} AS DECIMAL({_DIGITS - scale}, 0)) * {unit}"


class DuckDB(Database):
    """DuckDB 1.0 and later; its SQL is written in the dialect of PostgreSQL, whose words it takes."""

    name = "duckdb"
    module = "postgresql"
    session = "pravix.loading.duckdb_session:duckdb_session"
    in_a_file = True
    tells_columns = False
    numbers_itself = False
    shared_series = True
    acts_on_references = False
    adds_references = False
    carriage_return = "CHR(13)"
    text_type = "VARCHAR"

    @cached_property
    def dialect(self) -> Any:
        """As said there, with names of any length."""
        dialect = super().dialect
        dialect.max_identifier_length = _ANY_LENGTH
        return dialect

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """As said there."""
        split = f"STRING_SPLIT({cell}, {self.text(mark)})"
        items = f"SELECT UNNEST({split}) AS item, GENERATE_SUBSCRIPTS({split}, 1) AS place"
        return f"{rows} CROSS JOIN LATERAL ({items}) i", "i.item", "i.place"

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """Raise InputError: without savepoints the rows that are refused cannot be told from the others."""
        raise InputError(
            "rows cannot be added to a DuckDB database one by one",
            "Put both files together, decompose them again, and load with --replace.",
        )

    def folded(self, name: str) -> str:
        """As said there: case is ignored."""
        return name.lower()

    def days_after(self, day: str, days: str) -> str:
        """As said there."""
        return f"CAST({day} + CAST({days} AS INTEGER) AS DATE)"

    def years_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"CAST(DATE_PART('year', AGE({later}, {earlier})) AS INTEGER)"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """As said there: by whole numbers."""
        return _HugeNumbers().computed(operation, numbers, scale, rounding == ROUND_HALF_EVEN)

    def client(self, address: URL, query: str) -> str:
        """As said there."""
        return f"duckdb {quote(address.database or '')} -c {quote(query)}"
