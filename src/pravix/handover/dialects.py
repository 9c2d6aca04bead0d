"""The databases that tables are written for, and how each says what is needed to build a cell again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN
from functools import cached_property
from importlib import import_module
from typing import Any

from pravix.errors import InputError
from pravix.wording import joined

_MODULES = {
    "sqlite": "sqlite",
    "postgresql": "postgresql",
    "mysql": "mysql",
    "mariadb": "mysql",
    "sqlserver": "mssql",
}
DATABASES = tuple(_MODULES)
"""The names of the databases."""

_COLLATIONS = {
    "mysql": "utf8mb4_0900_bin",
    "mariadb": "utf8mb4_nopad_bin",
    "sqlserver": "Latin1_General_100_BIN2",
}
_SQL_SERVER = (14, 0)
"""SQL Server 2017, the first that puts lists together (STRING_AGG)."""


@dataclass(frozen=True)
class Number:
    """An SQL expression for a number with ``scale`` decimal places."""

    sql: str
    scale: int


@dataclass(frozen=True)
class Database:
    """One kind of database; ``name`` is one of ``DATABASES``."""

    name: str

    @cached_property
    def dialect(self) -> Any:
        """The dialect of SQLAlchemy; with named parameters, so that a per cent sign stays single."""
        dialect = import_module(f"sqlalchemy.dialects.{_MODULES[self.name]}").dialect(paramstyle="named")
        if self.name == "sqlserver":
            dialect.server_version_info = _SQL_SERVER
            dialect.default_schema_name = "dbo"
        return dialect

    @property
    def collation(self) -> str | None:
        """The collation in which two texts are equal only if every letter is; None where that is usual."""
        return _COLLATIONS.get(self.name)

    @property
    def exact_digits(self) -> int:
        """How many digits a decimal number may have to be held exactly."""
        return 15 if self.name == "sqlite" else 38

    @property
    def script_head(self) -> tuple[str, ...]:
        """The lines that a script begins with, whatever the settings of the client that runs it."""
        if self.name == "sqlite":
            return ("PRAGMA foreign_keys = ON;\n\n",)
        if self.name in ("mysql", "mariadb"):
            return ("SET NAMES utf8mb4;\n\n",)
        if self.name == "postgresql":
            return ("SET client_encoding = 'UTF8';\n\n",)
        return ()

    @property
    def savepoint(self) -> tuple[str, ...]:
        """The statements that begin what can be undone alone."""
        return ("SAVE TRANSACTION pravix",) if self.name == "sqlserver" else ("SAVEPOINT pravix",)

    @property
    def back_to_savepoint(self) -> tuple[str, ...]:
        """The statements that undo what came since."""
        word = "TRANSACTION" if self.name == "sqlserver" else "TO SAVEPOINT"
        return (f"ROLLBACK {word} pravix",)

    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """The statements after which nobody else changes the tables until the transaction ends."""
        if self.name == "sqlite":
            return ("BEGIN IMMEDIATE",)
        if self.name == "postgresql":
            listed = ", ".join(map(self.quoted, tables))
            return (f"LOCK TABLE {listed} IN SHARE ROW EXCLUSIVE MODE",)
        if self.name in ("mysql", "mariadb"):
            return tuple(f"SELECT COUNT(*) FROM {self.quoted(name)} FOR UPDATE" for name in tables)
        return tuple(f"SELECT COUNT(*) FROM {self.quoted(name)} WITH (TABLOCKX)" for name in tables)

    def quoted(self, name: str) -> str:
        """Return a name quoted, always: a name of the file is data."""
        return str(self.dialect.identifier_preparer.quote_identifier(name))

    def text(self, value: str) -> str:
        """Return a text as a literal; a carriage return, which some clients change, stands apart from it."""
        parts = [self._text(part) for part in value.split("\r")]
        if len(parts) == 1:
            return parts[0]
        own = {
            "postgresql": "CHR(13)",
            "mysql": "CHAR(13 USING utf8mb4)",
            "mariadb": "CHAR(13 USING utf8mb4)",
        }
        carriage = own.get(self.name, "CHAR(13)")
        return self.put_together([one for part in parts for one in (carriage, part)][1:])

    def _text(self, value: str) -> str:
        escaped = value.replace("'", "''")
        if self.name in ("mysql", "mariadb"):
            escaped = escaped.replace("\\", "\\\\")
        return f"{'N' if self.name == 'sqlserver' else ''}'{escaped}'"

    def as_text(self, sql: str) -> str:
        """Return an expression as text."""
        kinds = {"sqlite": "TEXT", "postgresql": "TEXT", "sqlserver": "NVARCHAR(4000)"}
        return f"CAST({sql} AS {kinds.get(self.name, 'CHAR')})"

    def put_together(self, parts: Sequence[str]) -> str:
        """Return texts one after the other; null where one of them is."""
        if self.name in ("mysql", "mariadb"):
            return f"CONCAT({', '.join(parts)})"
        return f" {'+' if self.name == 'sqlserver' else '||'} ".join(parts)

    def part_of(self, sql: str, start: int, end: int) -> str:
        """Return the characters of a text from ``start`` (0 is the first) up to ``end``."""
        called = "SUBSTRING" if self.name == "sqlserver" else "SUBSTR"
        return f"{called}({self.as_text(sql)}, {start + 1}, {end - start})"

    def list_of(self, fact: str, order: str, separator: str, source: str, where: str) -> str:
        """Return the query for a text of all facts of some rows, in order, with a separator between."""
        mark, item = self.text(separator), self.as_text(fact)
        if self.name == "postgresql":
            return f"(SELECT STRING_AGG({item}, {mark} ORDER BY {order}) FROM {source} WHERE {where})"
        if self.name == "sqlserver":
            listed = f"STRING_AGG({item}, {mark}) WITHIN GROUP (ORDER BY {order})"
            return f"(SELECT {listed} FROM {source} WHERE {where})"
        if self.name in ("mysql", "mariadb"):
            listed = f"GROUP_CONCAT({item} ORDER BY {order} SEPARATOR {mark})"
            return f"(SELECT {listed} FROM {source} WHERE {where})"
        inner = f"SELECT {item} AS item FROM {source} WHERE {where} ORDER BY {order}"
        return f"(SELECT GROUP_CONCAT(item, {mark}) FROM ({inner}))"

    def years(self, earlier: str, later: str) -> str:
        """Return the whole years from one date to another; null where the first is the later one."""
        if self.name == "postgresql":
            years = f"CAST(DATE_PART('year', AGE({later}, {earlier})) AS INTEGER)"
        elif self.name in ("mysql", "mariadb"):
            years = f"TIMESTAMPDIFF(YEAR, {earlier}, {later})"
        elif self.name == "sqlserver":
            before = f"DATEADD(YEAR, DATEDIFF(YEAR, {earlier}, {later}), {earlier}) > {later}"
            years = f"DATEDIFF(YEAR, {earlier}, {later}) - CASE WHEN {before} THEN 1 ELSE 0 END"
        else:
            before = f"(STRFTIME('%m-%d', {later}) < STRFTIME('%m-%d', {earlier}))"
            years = f"STRFTIME('%Y', {later}) - STRFTIME('%Y', {earlier}) - {before}"
        return f"CASE WHEN {later} >= {earlier} THEN {years} END"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """Return an operation on numbers, rounded to ``scale`` places; null where a number is.

        SQLite has no decimals: there the numbers are whole numbers of their last places, so that the result
        is exact as far as these hold (18 digits).
        """
        even = rounding == ROUND_HALF_EVEN
        if self.name == "sqlite":
            return _in_whole_numbers(operation, numbers, scale, even)
        sql = [one.sql for one in numbers]
        if operation in ("+", "sum", "-", "*"):
            value = f" {'+' if operation == 'sum' else operation} ".join(sql)
        else:
            hundred = "100 * " if operation == "%" else ""
            wide = f"CAST({hundred}{sql[0]} AS DECIMAL(38, 18))"
            value = f"{wide} / NULLIF({sql[1]}, 0)"
        if not even:
            return f"ROUND({value}, {scale})"
        half = f"ABS({value}) * {10**scale}"
        tie = f"{half} - FLOOR({half}) = 0.5 AND FLOOR({half}) / 2 = FLOOR(FLOOR({half}) / 2)"
        down = f"SIGN({value}) * FLOOR({half}) / {10**scale}.0"
        return f"CASE WHEN {tie} THEN {down} ELSE ROUND({value}, {scale}) END"


def _in_whole_numbers(operation: str, numbers: Sequence[Number], scale: int, even: bool) -> str:
    """Return the rounded result of whole-number arithmetic as a fraction of 10 ** ``scale``."""
    widest = max(one.scale for one in numbers)
    same = [_whole(one, widest) for one in numbers]
    if operation in ("+", "sum", "-"):
        above, below = f" {'-' if operation == '-' else '+'} ".join(same), 10**widest
    elif operation == "*":
        above = " * ".join(_whole(one, one.scale) for one in numbers)
        below = int(10 ** sum(one.scale for one in numbers))
    else:
        factor = (100 if operation == "%" else 1) * 10**scale
        signed = f"CASE WHEN {same[1]} < 0 THEN -{factor} ELSE {factor} END"
        return _rounded(f"({same[0]} * {signed})", f"NULLIF(ABS({same[1]}), 0)", scale, even)
    return _rounded(f"(({above}) * {10**scale})", str(below), scale, even)


def _whole(number: Number, scale: int) -> str:
    return f"CAST(ROUND({number.sql} * {10**scale}) AS INTEGER)"


def _rounded(above: str, below: str, scale: int, even: bool) -> str:
    """Return ``above / below`` rounded to a whole number, halves away from zero or to even, then scaled.

    Division of whole numbers leaves out what is behind the point.
    """
    whole = f"((2 * {above} + CASE WHEN {above} < 0 THEN -{below} ELSE {below} END) / (2 * {below}))"
    if even:
        tie = f"(2 * ABS({above}) + {below}) % (2 * {below}) = 0 AND {whole} % 2 <> 0"
        whole = f"({whole} - CASE WHEN NOT ({tie}) THEN 0 WHEN {above} < 0 THEN -1 ELSE 1 END)"
    return f"{whole} / {10**scale}.0" if scale else whole


def database(name: str) -> Database:
    """Return a database by its name; InputError where it is none that is known."""
    known = {"postgres": "postgresql", "mssql": "sqlserver"}.get(name, name)
    if known not in _MODULES:
        raise InputError(f"no SQL is written for {name}", f"Known are {joined(DATABASES)}.")
    return Database(known)
