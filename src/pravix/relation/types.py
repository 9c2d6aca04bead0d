"""The type of a column, decided from the text of its cells, with the reason and the exceptions."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from enum import Enum
from math import isfinite
from weakref import WeakKeyDictionary

from pravix.relation.relation import Column
from pravix.relation.texts import Texts, lengths, lines, together

ISO_DAY = "9999-99-99"
"""The shape of a date that databases read."""


class Kind(Enum):
    """What the texts of a column look like."""

    INTEGER = "integer"
    DECIMAL = "decimal"
    DATE = "date"
    TIME = "time"
    MOMENT = "date and time"
    YES_NO = "yes/no"
    CODE = "code"
    TEXT = "text"
    EMPTY = "empty"

    @classmethod
    def of_type(cls, told: str) -> Kind:
        """Return the kind of a type as ``str`` tells it; ValueError where it tells none."""
        return cls(re.split(r"\(|(?<=^code) ", told, maxsplit=1)[0])

    @property
    def numeric(self) -> bool:
        """Whether it is one of numbers."""
        return self in (Kind.INTEGER, Kind.DECIMAL)

    @property
    def stored_form(self) -> str:
        """The shape in which databases take days and times, and give them back; empty for other kinds."""
        return _STORED_FORMS.get(self, "")


_STORED_FORMS = {Kind.DATE: ISO_DAY, Kind.MOMENT: f"{ISO_DAY} 99:99:99", Kind.TIME: "99:99:99"}


@dataclass(frozen=True)
class ColumnType:
    """The type of a column.

    ``length`` is the longest text; ``digits`` and ``scale`` count the digits of the largest number
    and those after the point; ``pattern`` is the one shape that all cells of a code share, with A for
    a capital letter, a for a small one and 9 for a digit. ``reason`` says what decided, in a few words.
    ``nearly`` is the kind that all values but a few ``exceptions`` have; None where there is none.
    ``two_orders`` says that some dates have the day first and some the month. ``floats`` says that texts are
    numbers as programs write them, with more places than the numbers of a database keep or with an exponent.
    """

    kind: Kind
    length: int = 0
    digits: int = 0
    scale: int = 0
    pattern: str = ""
    reason: str = ""
    nearly: Kind | None = None
    exceptions: tuple[str, ...] = ()
    two_orders: bool = False
    floats: bool = False

    @property
    def meant(self) -> Kind:
        """The kind of what the texts mean: numbers that only texts keep as they are written are decimals."""
        return Kind.DECIMAL if self.floats else self.kind

    @property
    def remarkable(self) -> bool:
        """Whether the analyst should look: a few exceptions, or two orders of day and month."""
        return self.nearly is not None or self.two_orders or self.floats

    @property
    def iso(self) -> bool:
        """Whether dates are written as year-month-day, which databases read."""
        return self.kind in (Kind.DATE, Kind.MOMENT) and self.pattern.startswith(ISO_DAY)

    @property
    def stored(self) -> bool:
        """Whether all cells are days or times as databases give them back: to the second, below 24 hours."""
        return bool(self.pattern) and self.pattern == self.kind.stored_form

    def __str__(self) -> str:
        kind: str = self.kind.value
        if self.kind is Kind.DECIMAL:
            return f"decimal({self.digits},{self.scale})"
        if self.kind is Kind.CODE and self.pattern:
            return f"code {self.pattern}"
        if self.kind in (Kind.TEXT, Kind.CODE):
            return f"{kind}({self.length})"
        return kind


SMALL_DIGITS = 9
"""Whole numbers of so many digits fit into an INTEGER of every database."""

YES_NO_PAIRS = (("yes", "no"), ("y", "n"), ("true", "false"), ("ja", "nein"), ("x", ""))
"""Words for true and false, in small letters; the empty text stands for a blank."""

MOST_PLACES = 15
"""A decimal number has at most so many decimal places, as many as a double is sure of."""

_MOST_DIGITS = 18
_INTEGER = re.compile(r"-?(?:0|[1-9][0-9]{0,17})")
_DECIMAL = re.compile(rf"-?(?:0|[1-9][0-9]{{0,17}})(?:\.([0-9]{{1,{MOST_PLACES}}}))?")
NUMBER = re.compile(r"-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?")
"""A plain number, of any length."""
_FLOAT = re.compile(r"-?(?:0|[1-9][0-9]{0,17})(?:\.[0-9]+)?(?:[eE][-+]?[0-9]{1,3})?")
_ISO_DATE = re.compile(r"(\d{4})-(\d\d)-(\d\d)")
_ANY_DATE = re.compile(r"(\d{1,2})([./-])(\d{1,2})\2(\d{4})")
_TIME = re.compile(r"\d{1,3}:[0-5]\d(:[0-5]\d)?")
_MOMENT = re.compile(r"(\d{4}-\d\d-\d\d)[ T]([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d+)?)?")
_LAST_HOUR = "23"
_CODE = re.compile(r"[A-Za-z0-9]+(?:[-/. ]?[A-Za-z0-9]+)*")
_PATTERN_LENGTH = 20
_SAMPLE = 200
_NEARLY_FROM = 20
_NEARLY_SHARE = 0.03
_EXCEPTIONS_NAMED = 5


_KNOWN: WeakKeyDictionary[Column, ColumnType] = WeakKeyDictionary()


def column_type(column: Column) -> ColumnType:
    """Return the narrowest type that every value of a column fits; worked out once for each column.

    Numbers with leading zeros are codes: 007 must stay 007. A column of one repeated shape that holds
    a digit, or of short words in capitals, is a code. Where all but a few values would fit a narrower
    type, that and the exceptions are told. Linear in the different values.
    """
    column = column.same_values
    found = _KNOWN.get(column)
    if found is None:
        found = _KNOWN[column] = _column_type(column.present_values)
    return found


def _column_type(values: Sequence[str]) -> ColumnType:
    if not values:
        return ColumnType(Kind.EMPTY, reason="all cells are blank")
    length = int(lengths(values).max())
    if len(values) <= 2 and any({value.lower() for value in values} <= set(pair) for pair in YES_NO_PAIRS):
        return ColumnType(Kind.YES_NO, length, reason=f"only {' and '.join(values)}")
    sample = values[:: max(1, len(values) // _SAMPLE)]
    nearly: tuple[Kind, tuple[str, ...]] | None = None
    for kind, test in _TESTS:
        misfits = sum(not test(value) for value in sample)
        if misfits == 0 and _all_fit(kind, test, values):
            twins = _written_in_two_ways(kind, values)
            return _two_ways(twins, kind, values, length) if twins else _narrow(kind, values, length)
        if nearly is None and len(values) >= _NEARLY_FROM and misfits <= 2 * _NEARLY_SHARE * len(sample):
            exceptions = [value for value in values if not test(value)]
            if len(exceptions) <= max(1, _NEARLY_SHARE * len(values)):
                nearly = kind, tuple(exceptions[:_EXCEPTIONS_NAMED])
    return _textual(values, length, sample, nearly)


def fits(kind: Kind, value: str, stored: bool = True) -> bool:
    """Return whether a cell is one of a column of a kind, by the rules by which kinds are found.

    Days and times are ``stored`` as databases give them back, or written otherwise. A text or a code may be
    anything.
    """
    if kind is Kind.YES_NO:
        return any(value.lower() in pair for pair in YES_NO_PAIRS)
    if kind is Kind.DATE:
        return _is_iso_date(value) if stored else _is_other_date(value)
    if stored and kind in (Kind.MOMENT, Kind.TIME):
        return _form_of(kind, [value]) == kind.stored_form
    test = next((test for known, test in _TESTS if known is kind), None)
    return test is None or bool(test(value))


def sure_number(found: ColumnType) -> str:
    """Return a regular expression: a text that it is all of surely is a number that a column of a type holds.

    Nothing for a column of no numbers. Others may be such numbers as well.
    """
    if found.kind is Kind.INTEGER and found.digits:
        return f"-?(0|[1-9][0-9]{{0,{min(found.digits, _MOST_DIGITS) - 1}}})"
    if found.kind is Kind.DECIMAL and found.scale:
        whole = min(max(found.digits - found.scale, 1), _MOST_DIGITS)
        return f"-?(0|[1-9][0-9]{{0,{whole - 1}}})([.][0-9]{{1,{min(found.scale, MOST_PLACES)}}})?"
    return ""


class Misfit(Enum):
    """Why a cell cannot stand in a column of a type."""

    KIND = "it is written otherwise"
    PLACES = "it has more decimal places"
    DIGITS = "it has more digits"
    LENGTH = "it is longer"


def misfit(found: ColumnType, cell: str) -> Misfit | None:
    """Return why a filled cell cannot stand in a column of a type, by the rules by which types are found.

    A whole number may have as many digits as an INTEGER holds, a date is as long as it is.
    """
    if not fits(found.kind, cell, found.stored):
        return Misfit.KIND
    if found.kind is Kind.DECIMAL:
        whole, _, part = cell.lstrip("-").partition(".")
        if len(part) > found.scale:
            return Misfit.PLACES
        return Misfit.DIGITS if len(whole) > max(found.digits - found.scale, 1) else None
    if found.kind is Kind.INTEGER:
        return Misfit.DIGITS if len(cell.lstrip("-")) > SMALL_DIGITS >= found.digits else None
    if len(cell) > max(found.length, 1) and not found.stored:
        return Misfit.LENGTH
    return None


def comparable(cell: object, numeric: bool) -> str:
    """Return a cell as it is compared, from a file or a database: numbers by value, a blank as no text."""
    if cell is None or cell == "":
        return ""
    if not numeric:
        return _clock(cell) if isinstance(cell, timedelta) else str(cell)
    if isinstance(cell, float):
        cell = Decimal(repr(cell)) if isfinite(cell) else str(cell)
    return exact(f"{cell:f}" if isinstance(cell, Decimal) else str(cell))


def _clock(time: timedelta) -> str:
    """Return a time as some drivers give it: the hours with two digits."""
    minutes, seconds = divmod(int(time.total_seconds()), 60)
    return f"{minutes // 60:02}:{minutes % 60:02}:{seconds:02}"


def exact(number: str) -> str:
    """Return the one text that equal numbers share: 15.50 and 15.5 give 15.5, -0 gives 0.

    Any other text is returned as it is. No digit is rounded.
    """
    if not is_number(number):
        return number
    whole, _, part = number.partition(".")
    part = part.rstrip("0")
    if part:
        return f"{whole}.{part}"
    return "0" if whole == "-0" else whole


def is_number(text: str) -> bool:
    """Return whether a text is a plain number: digits with a point at most, no leading zeros, any length."""
    return NUMBER.fullmatch(text) is not None


def shape(value: str) -> str:
    """Return a value with every capital as A, every small letter as a and every digit as 9."""
    return value.translate(_SHAPES)


class _Shapes(dict[int, str]):
    """The mark that stands for each character in a shape, worked out when the character is first met."""

    def __missing__(self, code: int) -> str:
        mark = chr(code)
        found = "9" if mark.isdecimal() else "A" if mark.isupper() else "a" if mark.isalpha() else mark
        self[code] = found
        return found


_SHAPES = _Shapes()


_LINES = {
    Kind.INTEGER: re.compile(rf"(?:{_INTEGER.pattern}\n)*+"),
    Kind.DECIMAL: re.compile(rf"(?:{_DECIMAL.pattern}\n)*+"),
}
"""For the kinds that most columns have: the pattern of all values at once, each on a line."""


def _all_fit(kind: Kind, test: Callable[[str], object], values: Sequence[str]) -> bool:
    pattern = _LINES.get(kind)
    if pattern is None:
        return all(map(test, values))
    if kind is Kind.INTEGER and isinstance(values, Texts) and values.plain_numbers()[1].all():
        return True
    text = lines(values)
    return text.count("\n") == len(values) and pattern.fullmatch(text) is not None


def _is_iso_date(value: str) -> bool:
    match = _ISO_DATE.fullmatch(value)
    return match is not None and _is_day(int(match[1]), int(match[2]), int(match[3]))


def _is_other_date(value: str) -> bool:
    match = _ANY_DATE.fullmatch(value)
    if match is None:
        return False
    one, other, year = int(match[1]), int(match[3]), int(match[4])
    return _is_day(year, other, one) or _is_day(year, one, other)


def _is_day(year: int, month: int, day: int) -> bool:
    try:
        date(year, month, day)
    except ValueError:
        return False
    return True


def _is_moment(value: str) -> bool:
    match = _MOMENT.fullmatch(value)
    return match is not None and _is_iso_date(match[1])


_TESTS: Sequence[tuple[Kind, Callable[[str], object]]] = (
    (Kind.INTEGER, _INTEGER.fullmatch),
    (Kind.DECIMAL, _DECIMAL.fullmatch),
    (Kind.DATE, _is_iso_date),
    (Kind.DATE, _is_other_date),
    (Kind.TIME, _TIME.fullmatch),
    (Kind.MOMENT, _is_moment),
)


def _written_in_two_ways(kind: Kind, values: Sequence[str]) -> tuple[str, str] | None:
    """Return two texts of one number, such as 1.1 and 1.10; None where every number has one text."""
    if kind is Kind.INTEGER:
        both = ("-0", "0")
        return both if "-0" in together(values) and set(both) <= set(values) else None
    if kind is not Kind.DECIMAL or len(set(map(float, values))) == len(values):
        return None
    known: dict[str, str] = {}
    for value in values:
        if known.setdefault(exact(value), value) != value:
            return known[exact(value)], value
    return None


def _two_ways(twins: tuple[str, str], kind: Kind, values: Sequence[str], length: int) -> ColumnType:
    """Return the type of numbers of which one is written in two ways: as a number the two would be one."""
    reason = f"one number in two ways: {twins[0]} and {twins[1]}"
    found = Kind.CODE if all(map(_is_code, values)) else Kind.TEXT
    return ColumnType(found, length, reason=reason, nearly=kind, exceptions=twins)


def _narrow(kind: Kind, values: Sequence[str], length: int) -> ColumnType:
    if kind is Kind.INTEGER:
        digits = max(len(value.lstrip("-")) for value in values) if "-" in together(values) else length
        return ColumnType(kind, length, digits, reason="whole numbers without leading zeros")
    if kind is Kind.DECIMAL:
        forms = {(value[0] == "-", value.find("."), len(value)) for value in values}
        scale = max(long - point - 1 if point >= 0 else 0 for _, point, long in forms)
        whole = max((point if point >= 0 else long) - signed for signed, point, long in forms)
        return ColumnType(
            kind, length, whole + scale, scale, reason=f"numbers with up to {scale} decimal places"
        )
    if kind is Kind.DATE and not _is_iso_date(values[0]):
        reason, two = _date_order(values)
        return ColumnType(kind, length, pattern=shape(values[0]), reason=reason, two_orders=two)
    return ColumnType(kind, length, pattern=_form_of(kind, values), reason=f"every value is a {kind.value}")


def _form_of(kind: Kind, values: Sequence[str]) -> str:
    """Return the form in which databases give days or times back, where all have it; else that of a day."""
    day = "" if kind is Kind.TIME else ISO_DAY
    test = next(test for known, test in _TESTS if known is kind)
    alike = {shape(value) for value in values} == {kind.stored_form} and all(map(test, values))
    if kind is Kind.TIME and max(value[:2] for value in values) > _LAST_HOUR:
        alike = False
    return kind.stored_form if alike else day


def _date_order(values: Sequence[str]) -> tuple[str, bool]:
    """Return which of day and month comes first, as far as the values tell, and whether each does in some."""
    parts = [match for value in values if (match := _ANY_DATE.fullmatch(value))]
    day_first = [match[0] for match in parts if int(match[1]) > 12]
    month_first = [match[0] for match in parts if int(match[3]) > 12]
    if day_first and month_first:
        return f"two orders of day and month: {day_first[0]} and {month_first[0]}", True
    if day_first or month_first:
        first, second = ("day", "month") if day_first else ("month", "day")
        return f"{first} before {second}, as {(day_first or month_first)[0]} shows", False
    return "no value tells whether the day or the month comes first", False


def _textual(
    values: Sequence[str],
    length: int,
    sample: Sequence[str],
    nearly: tuple[Kind, tuple[str, ...]] | None,
) -> ColumnType:
    kind, exceptions = nearly or (None, ())
    if nearly and nearly[0] in (Kind.INTEGER, Kind.DECIMAL) and any(value[:1] == "0" for value in exceptions):
        kind, exceptions = None, ()
    if any("." in value for value in sample) and all(map(_FLOAT.fullmatch, values)):
        reason = f"numbers with more than {MOST_PLACES} decimal places, or with an exponent"
        return ColumnType(Kind.TEXT, length, reason=reason, nearly=kind, exceptions=exceptions, floats=True)
    pattern = shape(values[0])
    if (
        length <= _PATTERN_LENGTH
        and "9" in pattern
        and _same_shape(pattern, sample)
        and _same_shape(pattern, values)
    ):
        zeros = (
            ", leading zeros kept" if all(value[:1] == "0" or value.isdecimal() for value in sample) else ""
        )
        return ColumnType(
            Kind.CODE, length, pattern=pattern, reason=f"every value looks like {pattern}{zeros}"
        )
    if all(_is_code(value) for value in values):
        reason = "short, without small letters"
        if any(value[:1] == "0" and value.isdecimal() for value in values):
            reason = "numbers with leading zeros"
        return ColumnType(Kind.CODE, length, reason=reason, nearly=kind, exceptions=exceptions)
    reason = f"{kind.value} but for a few values" if kind else "no narrower type fits"
    return ColumnType(Kind.TEXT, length, reason=reason, nearly=kind, exceptions=exceptions)


def _same_shape(pattern: str, values: Sequence[str]) -> bool:
    """Whether all values have one shape: told of all at once, as translating one long text is quick."""
    alike = bool((lengths(values) == len(pattern)).all())
    return alike and shape(together(values)) == pattern * len(values)


def _is_code(value: str) -> bool:
    """Short, without small letters, and with a letter or a leading zero to tell it from a number."""
    return len(value) <= 12 and value == value.upper() and _CODE.fullmatch(value) is not None
