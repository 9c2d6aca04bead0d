"""A formula: how a column comes back from others, as text and in SQL."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal, InvalidOperation, localcontext
from typing import Annotated, ClassVar, Literal

from msgspec import Meta

from pravix.databases.number import Number
from pravix.first_normal_form.rebuilt import Expressions, Names, Rebuilt
from pravix.relation.relation import Relation

Operation = Literal["+", "-", "*", "/", "%", "sum", "mean", "years", "days", "after", "year", "part", "join"]
Rounding = Literal["ROUND_HALF_UP", "ROUND_HALF_EVEN"]

_NO_NUMBERS = ("part", "join", "after")
_ANY_NUMBER = ("sum", "mean")


class Formula(Rebuilt, frozen=True, kw_only=True, tag="computed"):
    """How a column is computed from others: an operation on columns, and how the result is written.

    ``operation`` is one of ``+ - * /`` (on two columns), ``%`` (a hundred times the quotient), ``sum`` and
    ``mean`` (of two columns and more), ``years`` and ``days`` (whole years, and days, from one date to
    another), ``after`` (a date some days after another), ``year`` (the year of one column less that of
    another), ``part`` (the characters from ``start`` to ``end`` of one column) and ``join`` (two columns with
    ``between``). A ``constant`` stands in the place of the last column, or of the first with
    ``constant_first``. With ``blanks_count_nothing`` a sum is blank only where all of its columns are.
    Numbers are written with ``scale`` decimal places, rounded by ``rounding``; with ``trimmed`` without
    needless zeros.
    """

    layered: ClassVar[bool] = True

    columns: Annotated[Names, Meta(min_length=1)]
    operation: Operation
    scale: Annotated[int, Meta(ge=0, le=30)] = 0
    rounding: Rounding = "ROUND_HALF_UP"
    trimmed: bool = False
    start: Annotated[int, Meta(ge=0, le=10**6)] = 0
    end: Annotated[int, Meta(ge=0, le=10**6)] = 0
    between: str = ""
    constant: Annotated[
        str, Meta(pattern=r"^(-?[0-9]{1,18}(\.[0-9]{1,18})?|[0-9]{4}-[0-9]{2}-[0-9]{2})?$")
    ] = ""
    constant_first: bool = False
    blanks_count_nothing: bool = False

    @property
    def needs(self) -> Names:
        """As said there."""
        return self.columns

    @property
    def scale_of_numbers(self) -> int:
        """As said there."""
        return self.scale

    @property
    def is_arithmetic(self) -> bool:
        """As said there."""
        return self.operation not in _NO_NUMBERS

    @property
    def is_sound(self) -> bool:
        """As said there."""
        count = len(self.columns) + bool(self.constant)
        if self.operation in _ANY_NUMBER:
            return len(self.columns) >= 2 and not self.constant
        dated = self.operation in ("years", "days") or not self.constant
        return count == (1 if self.operation == "part" else 2) and (dated or "-" not in self.constant[1:])

    def __str__(self) -> str:
        told = list(self.columns)
        if self.constant:
            told.insert(0 if self.constant_first else len(told), self.constant)
        if self.operation == "part":
            return f"characters {self.start + 1} to {self.end} of {told[0]}"
        if self.operation == "join":
            return f"{told[0]} and {told[1]} with {self.between!r} between"
        if self.operation == "sum":
            return " + ".join(told) + (", blanks left out" if self.blanks_count_nothing else "")
        if self.operation == "mean":
            return f"the mean of {', '.join(told)}"
        if self.operation in ("years", "days"):
            return f"whole {self.operation} from {told[0]} to {told[1]}"
        if self.operation == "after":
            return f"{told[0]} + {told[1]} days"
        if self.operation == "year":
            return f"the year of {told[0]} - the year of {told[1]}"
        if self.operation == "%":
            return f"100 * {told[0]} / {told[1]}"
        return f"{told[0]} {self.operation} {told[1]}"

    def cell(self, cells: Sequence[str]) -> str:
        """As said there; a blank where one of the cells is blank."""
        if self.blanks_count_nothing:
            cells = [cell for cell in cells if cell]
        if not cells or not all(cells):
            return ""
        if self.constant:
            cells = (self.constant, *cells) if self.constant_first else (*cells, self.constant)
        if self.operation == "part":
            return cells[0][self.start : self.end]
        if self.operation == "join":
            return f"{cells[0]}{self.between}{cells[1]}"
        if self.operation in ("years", "days", "after", "year"):
            return _of_dates(self.operation, cells[0], cells[1])
        return self._number(cells)

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """As said there."""
        if self.constant:
            own = self._constant_number(database)
            cells = (own, *cells) if self.constant_first else (*cells, own)
        sql = [one.sql for one in cells]
        if self.operation == "part":
            return database.part_of(sql[0], self.start, self.end)
        if self.operation == "join":
            first, second = (database.as_text(one) for one in sql)
            return database.put_together([first, database.text(self.between), second])
        if self.operation == "years":
            return database.years(sql[0], sql[1])
        if self.operation == "days":
            return database.days_between(sql[0], sql[1])
        if self.operation == "after":
            return database.days_after(sql[0], sql[1])
        if self.operation == "year":
            years = [Number(database.as_whole(database.part_of(one, 0, 4)), 0) for one in sql]
            return database.computed("-", years, 0, self.rounding)
        if self.operation == "mean":
            whole = Number(f"({' + '.join(sql)})", max(one.scale for one in cells))
            return database.computed("/", [whole, Number(str(len(cells)), 0)], self.scale, self.rounding)
        if self.blanks_count_nothing:
            filled = " AND ".join(f"{one} IS NULL" for one in sql)
            some = [Number(f"COALESCE({one.sql}, 0)", one.scale) for one in cells]
            told = database.computed("sum", some, self.scale, self.rounding)
            return f"CASE WHEN {filled} THEN NULL ELSE {told} END"
        return database.computed(self.operation, cells, self.scale, self.rounding)

    def _constant_number(self, database: Expressions) -> Number:
        if self.operation in ("years", "days"):
            return Number(database.date(self.constant), 0)
        return Number(self.constant, len(self.constant.partition(".")[2]))

    def _number(self, cells: Sequence[str]) -> str:
        try:
            with localcontext(prec=50):
                exact = _exact_number(self.operation, [Decimal(cell) for cell in cells])
                rounded = exact.quantize(Decimal(1).scaleb(-self.scale), self.rounding)
        except (InvalidOperation, ZeroDivisionError):
            return ""
        text = f"{rounded:f}"
        text = text.rstrip("0").rstrip(".") if self.trimmed and "." in text else text
        return text.removeprefix("-") if not rounded else text

    def texts(self, relation: Relation) -> list[str]:
        """Return the computed cells for every row of a relation."""
        known: dict[tuple[str, ...], str] = {}
        rows = zip(*(relation.column(name).texts() for name in self.columns), strict=True)
        return [known[row] if row in known else known.setdefault(row, self.cell(row)) for row in rows]


def _exact_number(operation: str, numbers: Sequence[Decimal]) -> Decimal:
    if operation in ("+", "sum"):
        return sum(numbers, Decimal(0))
    if operation == "mean":
        return sum(numbers, Decimal(0)) / len(numbers)
    one, other = numbers
    if operation == "-":
        return one - other
    if operation == "*":
        return one * other
    return one / other if operation == "/" else 100 * one / other


def _of_dates(operation: str, one: str, other: str) -> str:
    """Return what two dates, or a date and days, come to; a blank where one is no ISO date."""
    try:
        if operation == "year":
            return str(int(one[:4]) - int(other[:4]))
        if operation == "after":
            return (date.fromisoformat(one) + timedelta(days=int(other))).isoformat()
        first, last = date.fromisoformat(one), date.fromisoformat(other)
    except (ValueError, OverflowError):
        return ""
    if operation == "days":
        return str((last - first).days)
    years = last.year - first.year - ((last.month, last.day) < (first.month, first.day))
    return str(years) if years >= 0 else ""
