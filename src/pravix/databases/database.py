"""A kind of database, and how SQL is written for it where nothing is said to the contrary."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from decimal import ROUND_HALF_EVEN
from functools import cached_property
from importlib import import_module
from pkgutil import resolve_name
from typing import TYPE_CHECKING, Any, ClassVar

from pravix.databases.number import Number
from pravix.errors import InputError
from pravix.relation.types import Kind

if TYPE_CHECKING:
    from sqlalchemy.engine import URL


class Database(ABC):
    """One kind of database: what differs from others stands here, and nowhere else.

    Class attributes say what it is and can do, methods how it says what is needed to build a cell again.
    ``name_limit`` counts characters; None where names may be of any length. ``numbers_itself`` says that a
    column can be numbered by itself (IDENTITY), ``shared_series`` that a sequence can number several tables.
    """

    name: ClassVar[str]
    module: ClassVar[str]
    """The module of SQLAlchemy with its dialect."""

    own_dialect: ClassVar[str] = ""
    """The dialect where it is none of SQLAlchemy's but ours, ``module:class``."""

    session: ClassVar[str] = "pravix.loading.sessions:server_session"
    """Where the session is that loads into it, ``module:function``; see ``pravix.loading.sessions``."""

    in_a_file: ClassVar[bool] = False
    """Whether a database is a file."""

    collation: ClassVar[str | None] = None
    """The collation in which two texts are equal only if every letter is; None where that is usual."""

    exact_digits: ClassVar[int] = 38
    """How many digits a decimal number may have to be held exactly."""

    name_limit: ClassVar[int | None] = None
    numbers_itself: ClassVar[bool] = True
    shared_series: ClassVar[bool] = False
    reads_dates: ClassVar[bool] = True
    """Whether a column of dates takes a text that is one."""

    keeps_rules: ClassVar[bool] = True
    """Whether keys, references, checks and indexes can be made at all."""

    acts_on_references: ClassVar[bool] = True
    """Whether a reference can delete and change along (ON DELETE CASCADE)."""

    adds_references: ClassVar[bool] = True
    """Whether a table can be given a reference when its rows are in."""

    checks_references_at_once: ClassVar[bool] = False
    """Whether references are checked together, which is quicker, where they are made when the rows are in."""

    defers: ClassVar[bool] = False
    """Whether a reference can be checked when a transaction ends."""

    driver: ClassVar[str] = ""
    """The driver that SQLAlchemy is to use; empty where its own choice is right."""

    extra: ClassVar[str] = ""
    """The extra of Pravix that installs the driver, where its own name is not what is to be installed."""

    tells_columns: ClassVar[bool] = True
    """Whether SQLAlchemy can tell the columns of a table; where not, the driver rounds and parses nothing."""

    keeps_places: ClassVar[bool] = True
    """Whether a number comes back with the decimal places of its column: 17.50, not 17.5."""

    placeholder: ClassVar[str] = "%s"
    """What stands for a cell in the driver's statements."""

    script_head: ClassVar[tuple[str, ...]] = ()
    """The lines that a script begins with, whatever the settings of the client that runs it."""

    batch_end: ClassVar[str] = ""
    """What a script has after each statement."""

    savepoint: ClassVar[str] = "SAVEPOINT pravix"
    """The statement that begins what can be undone alone."""

    back_to_savepoint: ClassVar[str] = "ROLLBACK TO SAVEPOINT pravix"
    """The statement that undoes what came since."""

    carriage_return: ClassVar[str] = "CHAR(13)"
    text_type: ClassVar[str] = "TEXT"
    """The type that an expression is cast to as a text."""

    @cached_property
    def dialect(self) -> Any:
        """The dialect of SQLAlchemy; with named parameters, so that a per cent sign stays single."""
        if self.own_dialect:
            return resolve_name(self.own_dialect)(paramstyle="named")
        return import_module(f"sqlalchemy.dialects.{self.module}").dialect(paramstyle="named")

    @cached_property
    def day_types(self) -> Mapping[Kind, Any]:
        """The types of SQLAlchemy for days and times; of a kind without one they are kept as texts."""
        from sqlalchemy import Date, DateTime, Time

        return {Kind.DATE: Date(), Kind.MOMENT: DateTime(), Kind.TIME: Time()}

    def read_as(self, columns: Iterable[Any]) -> list[Any]:
        """Return what to select of columns so that the driver rounds and parses nothing on the way."""
        return list(columns)

    @abstractmethod
    def locking(self, tables: Sequence[str]) -> tuple[str, ...]:
        """The statements after which nobody else changes the tables until the transaction ends."""

    def fit(self, name: str, spare: int = 0, relation: bool = False) -> str:
        """Return a name that is allowed, with room for ``spare`` letters after it.

        Those of a ``relation`` are the names of tables, views and indexes.
        """
        name = name.replace("\0", "_")
        return name[: self.name_limit - spare] if self.name_limit else name

    @property
    def key_ending(self) -> int:
        """How many letters the database puts behind a table's name for a name of its own."""
        return 0

    def folded(self, name: str) -> str:
        """Return what is equal for two names that the database does not tell apart."""
        return name

    def quoted(self, name: str) -> str:
        """Return a name quoted, always: a name of the file is data."""
        return str(self.dialect.identifier_preparer.quote_identifier(name))

    def text(self, value: str) -> str:
        """Return a text as a literal; a carriage return, which some clients change, stands apart from it."""
        parts = [self.literal(part) for part in value.split("\r")]
        if len(parts) == 1:
            return parts[0]
        return self.put_together([one for part in parts for one in (self.carriage_return, part)][1:])

    def literal(self, value: str) -> str:
        """Return a text without a carriage return as a literal."""
        return "'" + value.replace("'", "''") + "'"

    def as_text(self, sql: str) -> str:
        """Return an expression as text."""
        return f"CAST({sql} AS {self.text_type})"

    def typed(self, sql: str, kind: Kind, type_name: str) -> str:
        """Return a text in the type of a column; where a database converts it by itself, as it is."""
        return f"CAST({sql} AS {type_name})"

    def with_items(self, rows: str, cell: str, mark: str) -> tuple[str, str, str]:
        """Return rows joined with the items of a list in one of their cells; an item, and its place there."""
        raise InputError(f"{self.name} cannot split lists where the rows are")

    def put_together(self, parts: Sequence[str]) -> str:
        """Return texts one after the other; null where one of them is."""
        return " || ".join(parts)

    def part_of(self, sql: str, start: int, end: int) -> str:
        """Return the characters of a text from ``start`` (0 is the first) up to ``end``."""
        return f"SUBSTR({self.as_text(sql)}, {start + 1}, {end - start})"

    def list_of(self, fact: str, order: str, separator: str, source: str, where: str) -> str:
        """Return the query for a text of all facts of some rows, in order, with a separator between."""
        listed = self.listed(self.as_text(fact), order, self.text(separator))
        return f"(SELECT {listed} FROM {source} WHERE {where})"

    def list_with_last(
        self, fact: str, order: str, separator: str, last: str, source: str, where: str
    ) -> str:
        """Return the expression for such a text with another separator, ``last``, before the last fact."""
        count = f"(SELECT MAX({order}) FROM {source} WHERE {where})"
        first = self.list_of(fact, order, separator, source, f"{where} AND {order} < {count}")
        end = f"(SELECT {self.as_text(fact)} FROM {source} WHERE {where} AND {order} = {count})"
        several = self.put_together([first, self.text(last), end])
        return f"CASE WHEN {count} > 1 THEN {several} ELSE {end} END"

    def listed(self, item: str, order: str, mark: str) -> str:
        """Return the aggregate that puts texts together in order, with a mark between."""
        return f"STRING_AGG({item}, {mark} ORDER BY {order})"

    @abstractmethod
    def years_between(self, earlier: str, later: str) -> str:
        """Return the whole years from a date to one that is not before it."""

    def years(self, earlier: str, later: str) -> str:
        """Return the whole years from one date to another; null where the first is the later one."""
        return f"CASE WHEN {later} >= {earlier} THEN {self.years_between(earlier, later)} END"

    def days_between(self, earlier: str, later: str) -> str:
        """Return the days from one date to another, as a whole number."""
        return f"({later} - {earlier})"

    def days_after(self, day: str, days: str) -> str:
        """Return the date some days after another."""
        return f"({day} + {days})"

    def date(self, value: str) -> str:
        """Return a date of the form year-month-day as a literal."""
        return f"DATE '{value}'"

    def day_literal(self, type_name: str, value: str) -> str:
        """Return a day or a time of a type as a literal."""
        return f"{type_name} {self.literal(value)}"

    def as_whole(self, sql: str) -> str:
        """Return a text of digits as a whole number."""
        return f"CAST({sql} AS INTEGER)"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """Return an operation on numbers, rounded to ``scale`` places; null where a number is."""
        sql = [one.sql for one in numbers]
        if operation in ("+", "sum", "-", "*"):
            value = f" {'+' if operation == 'sum' else operation} ".join(sql)
        else:
            hundred = "100 * " if operation == "%" else ""
            wide = f"CAST({hundred}{sql[0]} AS DECIMAL(38, 18))"
            value = f"{wide} / NULLIF({sql[1]}, 0)"
        if rounding != ROUND_HALF_EVEN:
            return f"ROUND({value}, {scale})"
        half = f"ABS({value}) * {10**scale}"
        tie = f"{half} - FLOOR({half}) = 0.5 AND FLOOR({half}) / 2 = FLOOR(FLOOR({half}) / 2)"
        down = f"SIGN({value}) * FLOOR({half}) / {10**scale}.0"
        return f"CASE WHEN {tie} THEN {down} ELSE ROUND({value}, {scale}) END"

    def client(self, address: URL, query: str) -> str:
        """Return the command by which the database's own client carries out a query.

        The password and all settings are left out.
        """
        raise InputError(f"{self.name} is written for, and not connected to")

    def numbering_by_hand(self, table: str, on: bool) -> str:
        """Return the statement that allows numbers of one's own in a numbered column; none where none is."""
        return ""

    def dropping_series(self, shared: str, own: Sequence[str]) -> tuple[str, ...]:
        """Return the statements that remove the sequence which tables share, and those of their ``own``.

        Where columns are numbered by themselves, tables have none of their own.
        """
        made = ([shared] if self.shared_series else []) + ([] if self.numbers_itself else list(own))
        return tuple(f"DROP SEQUENCE IF EXISTS {self.quoted(name)}" for name in made)

    def going_on(self, table: str, column: str, series: str | None, highest: int) -> str:
        """Return the statement after which numbering goes on after a number; none where it does by itself.

        ``series`` is the sequence where several tables share one.
        """
        return ""
