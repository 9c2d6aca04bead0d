"""The type of a column, decided from the text of its cells."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date
from enum import Enum

from pravix.relation.relation import Column


class Kind(Enum):
    """What the texts of a column look like."""

    INTEGER = "integer"
    DECIMAL = "decimal"
    DATE = "date"
    TIME = "time"
    YES_NO = "yes/no"
    CODE = "code"
    TEXT = "text"
    EMPTY = "empty"


@dataclass(frozen=True)
class ColumnType:
    """The type of a column.

    ``length`` is the longest text; ``digits`` and ``scale`` count the digits of the largest number
    and those after the point; ``pattern`` is the one shape that all cells of a code share, with A for
    a capital letter, a for a small one and 9 for a digit.
    """

    kind: Kind
    length: int = 0
    digits: int = 0
    scale: int = 0
    pattern: str = ""

    def __str__(self) -> str:
        kind: str = self.kind.value
        if self.kind is Kind.DECIMAL:
            return f"decimal({self.digits},{self.scale})"
        if self.kind is Kind.CODE and self.pattern:
            return f"code {self.pattern}"
        if self.kind in (Kind.TEXT, Kind.CODE):
            return f"{kind}({self.length})"
        return kind


_INTEGER = re.compile(r"-?(?:0|[1-9][0-9]{0,17})")
_DECIMAL = re.compile(r"-?(?:0|[1-9][0-9]{0,17})(?:\.([0-9]{1,12}))?")
_DATE = re.compile(r"(\d{4})-(\d\d)-(\d\d)")
_TIME = re.compile(r"\d{1,3}:[0-5]\d(:[0-5]\d)?")
_CODE = re.compile(r"[A-Za-z0-9]+(?:[-/. ]?[A-Za-z0-9]+)*")
_YES_NO = frozenset({"yes", "no", "y", "n", "true", "false", "x"})
_PATTERN_LENGTH = 20


def column_type(column: Column) -> ColumnType:
    """Return the narrowest type that every value of a column fits.

    Numbers with leading zeros are codes: 007 must stay 007. A column of one repeated shape that holds
    a digit, or of short words in capitals, is a code. Linear in the different values.
    """
    values = column.present_values()
    length = max(map(len, values), default=0)
    if not values:
        return ColumnType(Kind.EMPTY)
    if len(values) <= 2 and {value.lower() for value in values} <= _YES_NO:
        return ColumnType(Kind.YES_NO, length)
    if all(map(_INTEGER.fullmatch, values)):
        return ColumnType(Kind.INTEGER, length, max(len(value.lstrip("-")) for value in values))
    if all(map(_DECIMAL.fullmatch, values)):
        return _decimal(values, length)
    if all(map(_is_date, values)):
        return ColumnType(Kind.DATE, length)
    if all(map(_TIME.fullmatch, values)):
        return ColumnType(Kind.TIME, length)
    shapes = {shape(value) for value in values}
    if len(shapes) == 1 and length <= _PATTERN_LENGTH and "9" in min(shapes):
        return ColumnType(Kind.CODE, length, pattern=min(shapes))
    if all(_is_code(value) for value in values):
        return ColumnType(Kind.CODE, length)
    return ColumnType(Kind.TEXT, length)


def shape(value: str) -> str:
    """Return a value with every capital as A, every small letter as a and every digit as 9."""
    return "".join(
        "9" if mark.isdecimal() else "A" if mark.isupper() else "a" if mark.isalpha() else mark
        for mark in value
    )


def _decimal(values: list[str], length: int) -> ColumnType:
    parts = [value.lstrip("-").partition(".") for value in values]
    scale = max(len(fraction) for _, _, fraction in parts)
    whole = max(len(number) for number, _, _ in parts)
    return ColumnType(Kind.DECIMAL, length, whole + scale, scale)


def _is_date(value: str) -> bool:
    match = _DATE.fullmatch(value)
    if match is None:
        return False
    try:
        date(int(match[1]), int(match[2]), int(match[3]))
    except ValueError:
        return False
    return True


def _is_code(value: str) -> bool:
    """Short, without small letters, and with a letter or a leading zero to tell it from a number."""
    return len(value) <= 12 and _CODE.fullmatch(value) is not None and value == value.upper()
