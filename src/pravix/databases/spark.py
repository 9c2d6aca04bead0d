"""Spark: tables of Parquet on one machine or many, without transactions, keys and references."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from decimal import ROUND_HALF_EVEN
from functools import cached_property
from shlex import quote
from typing import TYPE_CHECKING, Any

from pravix.databases.database import Database
from pravix.databases.number import Number
from pravix.databases.whole_numbers import WholeNumbers
from pravix.errors import InputError
from pravix.relation.types import Kind

if TYPE_CHECKING:
    from sqlalchemy.engine import URL

_OTHER = re.compile(r"[^0-9A-Za-z_]")


class Spark(Database):
    """Spark 3.5 and later."""

    name = "spark"
    own_dialect = "pravix.databases.spark_dialect:SparkDialect"
    session = "pravix.loading.staging:staged_session"
    reads_dates = False
    keeps_rules = False
    numbers_itself = False
    acts_on_references = False
    adds_references = False
    text_type = "STRING"
    extra = "spark"

    @cached_property
    def day_types(self) -> Mapping[Kind, Any]:
        """As said there: it has no times of a day."""
        return {kind: one for kind, one in super().day_types.items() if kind is not Kind.TIME}

    def fit(self, name: str, spare: int = 0, relation: bool = False) -> str:
        """As said there: tables and views have names of small ASCII letters, digits and underscores."""
        return super().fit(_OTHER.sub("_", name.lower()) if relation else name, spare, relation)

    def literal(self, value: str) -> str:
        """As said there: a backslash escapes."""
        from pravix.databases.spark_dialect import escaped

        return escaped(value)

    def folded(self, name: str) -> str:
        """As said there: case is ignored."""
        return name.lower()

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """Raise InputError: nothing can be undone there."""
        raise InputError("rows cannot be added to tables of Spark one by one")

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """As said there."""
        literal = self.text(mark)
        quoted = f"CONCAT('\\\\Q', {literal}, '\\\\E')"
        return (
            f"{rows} LATERAL VIEW POSEXPLODE(SPLIT({cell}, {quoted})) i AS place, item",
            "i.item",
            "i.place + 1",
        )

    def listed(self, item: str, order: str, mark: str) -> str:
        """As said there."""
        items = _in_order(item, order)
        return f"CASE WHEN COUNT(*) > 0 THEN ARRAY_JOIN({items}, {mark}) END"

    def list_with_last(
        self, fact: str, order: str, separator: str, last: str, source: str, where: str
    ) -> str:
        """As said there: in one query, for one within another cannot speak of the row outside."""
        facts = _in_order(self.as_text(fact), order)
        size = f"SIZE({facts})"
        first = f"ARRAY_JOIN(SLICE({facts}, 1, {size} - 1), {self.text(separator)})"
        several = self.put_together([first, self.text(last), f"{facts}[{size} - 1]"])
        told = f"CASE WHEN {size} > 1 THEN {several} WHEN {size} = 1 THEN {facts}[0] END"
        return f"(SELECT {told} FROM {source} WHERE {where})"

    def client(self, address: URL, query: str) -> str:
        """As said there."""
        return f"spark-sql -e {quote(query)}"

    def days_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"DATEDIFF({later}, {earlier})"

    def days_after(self, day: str, days: str) -> str:
        """As said there."""
        return f"DATE_ADD({day}, CAST({days} AS INT))"

    def years_between(self, earlier: str, later: str) -> str:
        """As said there: by the day of the year, for months count from one last day to another as whole."""
        before = f"DATE_FORMAT({later}, 'MMdd') < DATE_FORMAT({earlier}, 'MMdd')"
        return f"(YEAR({later}) - YEAR({earlier}) - CASE WHEN {before} THEN 1 ELSE 0 END)"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """As said there: by whole numbers, for a quotient would be cut to fewer places on the way."""
        return WholeNumbers("DECIMAL(38, 0)", "DIV").computed(
            operation, numbers, scale, rounding == ROUND_HALF_EVEN
        )

    def as_whole(self, sql: str) -> str:
        """As said there."""
        return f"CAST({sql} AS INT)"


def _in_order(item: str, order: str) -> str:
    """Return the aggregate that puts items in order into an array: Spark sorts pairs."""
    pairs = f"SORT_ARRAY(COLLECT_LIST(STRUCT({order} AS place, {item} AS item)))"
    return f"TRANSFORM({pairs}, one -> one.item)"
