"""SQL Server: scripts only."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from pravix.databases.database import Database
from pravix.databases.mysql import without_accents
from pravix.relation.types import Kind

_VERSION = (14, 0)
"""SQL Server 2017, the first that puts lists together (STRING_AGG)."""


class SQLServer(Database):
    """SQL Server 2017 and later."""

    name = "sqlserver"
    module = "mssql"
    collation = "Latin1_General_100_BIN2"
    name_limit = 128
    shared_series = True
    batch_end = "GO"
    savepoint = "SAVE TRANSACTION pravix"
    back_to_savepoint = "ROLLBACK TRANSACTION pravix"
    text_type = "NVARCHAR(4000)"

    @cached_property
    def dialect(self) -> Any:
        """As said there, of a version."""
        dialect = super().dialect
        dialect.server_version_info = _VERSION
        dialect.default_schema_name = "dbo"
        return dialect

    @cached_property
    def day_types(self) -> Mapping[Kind, Any]:
        """As said there: to the second, so that they are told as they were."""
        from sqlalchemy import Date
        from sqlalchemy.dialects import mssql

        moment: Any = mssql.DATETIME2
        time: Any = mssql.TIME

        return {Kind.DATE: Date(), Kind.MOMENT: moment(0), Kind.TIME: time(0)}

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """As said there."""
        return tuple(f"SELECT COUNT(*) FROM {self.quoted(name)} WITH (TABLOCKX)" for name in tables)

    def folded(self, name: str) -> str:
        """As said there: case and accents are ignored."""
        return without_accents(name)

    def literal(self, value: str) -> str:
        """As said there: in Unicode."""
        return f"N{super().literal(value)}"

    def put_together(self, parts: Sequence[str]) -> str:
        """As said there."""
        return " + ".join(parts)

    def part_of(self, sql: str, start: int, end: int) -> str:
        """As said there."""
        return f"SUBSTRING({self.as_text(sql)}, {start + 1}, {end - start})"

    def listed(self, item: str, order: str, mark: str) -> str:
        """As said there."""
        return f"STRING_AGG({item}, {mark}) WITHIN GROUP (ORDER BY {order})"

    def days_between(self, earlier: str, later: str) -> str:
        """As said there."""
        return f"DATEDIFF(day, {earlier}, {later})"

    def days_after(self, day: str, days: str) -> str:
        """As said there."""
        return f"DATEADD(day, {days}, {day})"

    def date(self, value: str) -> str:
        """As said there."""
        return f"CAST('{value}' AS DATE)"

    def years_between(self, earlier: str, later: str) -> str:
        """As said there."""
        before = f"DATEADD(YEAR, DATEDIFF(YEAR, {earlier}, {later}), {earlier}) > {later}"
        return f"DATEDIFF(YEAR, {earlier}, {later}) - CASE WHEN {before} THEN 1 ELSE 0 END"

    def numbering_by_hand(self, table: str, on: bool) -> str:
        """As said there."""
        return f"SET IDENTITY_INSERT {self.quoted(table)} {'ON' if on else 'OFF'}"
