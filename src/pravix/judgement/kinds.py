"""What kind of thing a column holds, as far as its name and its values tell."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from enum import Enum

from pravix.relation.lexicon import (
    CLOCK_WORDS,
    CONTACT_WORDS,
    DAY_WORDS,
    GLUED,
    HOUR_WORDS,
    IDENTIFIER_WORDS,
    LABEL_WORDS,
    MEASURE_WORDS,
    PERIOD_WORDS,
)
from pravix.relation.relation import Column
from pravix.relation.types import ColumnType, Kind, column_type
from pravix.relation.words import noun, words


class Thing(Enum):
    """What the values of a column do: identify, stand for a thing, name it, count, measure, and so on."""

    IDENTIFIER = "identifier"
    LABEL = "word"
    TITLE = "name"
    DETAIL = "detail of something else"
    SERIAL = "running number"
    CONTACT = "phone or e-mail"
    NUMBER = "number"
    MEASURE = "measure"
    MOMENT = "date or time"
    PERIOD = "year or month"
    MARK = "yes/no"
    PROSE = "free text"


_NO_THINGS = (Thing.MEASURE, Thing.PROSE, Thing.MARK, Thing.MOMENT)
_PROSE_LENGTH = 40
_CONTACT = re.compile(r"[^@\s]+@[^@\s]+\.[a-z]+|(?:\+\d|0\d+[ /-])[\d ()/-]{4,}", re.IGNORECASE)
_SERIAL_DIGITS = 3
_LONGEST_COUNT = 12
_YEARS = range(1700, 2101)
_EPOCH = range(500_000_000, 2_000_000_000)
"""Seconds since 1970, of the years from 1985 to 2033."""

_DAY = 86_400
_MOST_WEEKS = 53
_MOST_DAYS = 31
_SIXTY = 60
_FEW = 5
_SHORTEST_STEM = 3
_MAGNITUDES = 20
_GAPS = 50
_LONGEST_CODE = 8
_ALIKE = 0.9


def things(columns: Sequence[Column]) -> dict[str, Thing]:
    """Return the kind of thing that each column of a table holds.

    Where the name of one begins the names of others (``depot``, ``depot_town``), the others describe it,
    and it identifies what they describe; beside a code or number of its own (``keeper_no``, ``keeper``) it is
    the name of the thing. Quadratic in the columns.
    """
    found = {column.name: thing(column) for column in columns}
    names = {name: tuple(_told(name)) for name in found}
    whole = {told for name, told in names.items() if told and found[name] not in _NO_THINGS}
    codes = {column.name for column in columns if codelike(column)}
    coded = {name[:-1] for name in names.values() if name and name[-1] in IDENTIFIER_WORDS - LABEL_WORDS}
    begun = {name[:length] for name in names.values() for length in range(1, len(name))}
    for name, kind in found.items():
        if names[name] in coded and kind is Thing.LABEL:
            found[name] = Thing.TITLE
        elif names[name] in begun - coded and kind in (Thing.LABEL, Thing.NUMBER, Thing.SERIAL):
            found[name] = Thing.IDENTIFIER
    described = {tuple(noun(name)) for name, kind in found.items() if kind in (Thing.IDENTIFIER, Thing.TITLE)}
    for name, kind in found.items():
        begins = any(names[name][:length] in described for length in range(1, len(names[name])))
        of_another = any(names[name][:length] in whole for length in range(1, len(names[name])))
        described_there = begins and not _identifies(names[name]) and (of_another or name not in codes)
        if described_there and kind in (Thing.LABEL, Thing.IDENTIFIER):
            found[name] = Thing.DETAIL
    return found


def _told(name: str) -> list[str]:
    """Return the words of a name without the numbers at its end: Iso2, alpha_3."""
    found = words(name)
    while len(found) > 1 and found[-1].isdigit():
        found.pop()
    return found


def _identifies(name: Sequence[str]) -> bool:
    return bool(name) and name[-1] in IDENTIFIER_WORDS | LABEL_WORDS


def thing(column: Column) -> Thing:
    """Return the kind of thing that a column holds. Linear in the different values.

    A word for identifiers at the end of the name decides, unless the values are decimals, dates or
    prose; then the type of the values; whole numbers are measures where the name says so.
    """
    return _thing(_told(column.name), column_type(column), column)


def _thing(name: list[str], found: ColumnType, column: Column) -> Thing:
    last = name[-1] if name else ""
    values = column.present_values
    if values and all(map(_CONTACT.fullmatch, values)) and found.kind not in (Kind.DATE, Kind.MOMENT):
        return Thing.CONTACT
    if last in CONTACT_WORDS and found.kind in (Kind.TEXT, Kind.CODE):
        return Thing.CONTACT
    if found.kind is Kind.DECIMAL and len(name) == 1 and last in CLOCK_WORDS:
        return Thing.MOMENT
    if found.kind is Kind.DECIMAL:
        identifies = last in IDENTIFIER_WORDS and _same_scale(column)
        return Thing.IDENTIFIER if identifies else Thing.MEASURE
    if found.kind in (Kind.DATE, Kind.TIME, Kind.MOMENT):
        return Thing.MOMENT
    if found.kind in (Kind.YES_NO, Kind.EMPTY):
        return Thing.MARK
    if found.kind is Kind.INTEGER:
        return _whole_numbers(name, values)
    if found.kind is Kind.CODE:
        return Thing.IDENTIFIER
    if last in IDENTIFIER_WORDS and last not in LABEL_WORDS:
        return Thing.IDENTIFIER
    if _usual_length(values) > _PROSE_LENGTH:
        return Thing.PROSE
    return Thing.TITLE if last in LABEL_WORDS else Thing.LABEL


def _whole_numbers(name: Sequence[str], values: Sequence[str]) -> Thing:
    """Return what whole numbers are, by the words of their name and by how they are spread."""
    last = name[-1] if name else ""
    numbers = [int(value) for value in values]
    low, high = min(numbers), max(numbers)
    if last in IDENTIFIER_WORDS or (len(values) > _FEW and _glued(last)):
        return Thing.IDENTIFIER
    if set(name) & MEASURE_WORDS:
        return Thing.MEASURE
    years = low in _YEARS and high in _YEARS
    small = low >= 0 and high <= _MOST_WEEKS
    days = low > 0 and high <= _MOST_DAYS
    clock = low >= 0 and high < _SIXTY
    if (set(name) & PERIOD_WORDS and (years or small)) or (set(name) & DAY_WORDS and days):
        return Thing.PERIOD
    if last in HOUR_WORDS and clock:
        return Thing.PERIOD
    if low in _EPOCH and high in _EPOCH and high - low > _DAY:
        return Thing.MOMENT
    if _serial(values):
        return Thing.SERIAL
    return Thing.MEASURE if _spread(numbers) else Thing.NUMBER


def _glued(word: str) -> bool:
    """Whether a word ends like an identifier without a gap: tailnum, custid."""
    return any(word.endswith(ending) and len(word) >= len(ending) + _SHORTEST_STEM for ending in GLUED)


def _usual_length(values: Sequence[str]) -> int:
    """Return a length that nine values in ten do not exceed: a few long names make no prose."""
    return sorted(map(len, values))[(len(values) * 9) // 10 - (len(values) > 1)]


def _spread(numbers: Sequence[int]) -> bool:
    """Whether numbers are spread over orders of magnitude with wide gaps, as measured ones are."""
    low, high = min(abs(number) for number in numbers), max(map(abs, numbers))
    return len(numbers) > _FEW and high > _MAGNITUDES * max(low, 1) and high - low > _GAPS * len(numbers)


def _serial(values: Sequence[str]) -> bool:
    """Whether whole numbers look given out: all of one length and no years, or a run without a gap."""
    numbers = [int(value) for value in values]
    low, high = min(numbers), max(numbers)
    if low in _YEARS and high in _YEARS:
        return False
    if len(set(map(len, values))) == 1 and len(values[0]) >= _SERIAL_DIGITS:
        return True
    return high - low + 1 == len(numbers) > _LONGEST_COUNT


def _same_scale(column: Column) -> bool:
    """Whether all decimals have the same number of places, as numbers like 5059.06 on a label do."""
    return len({len(value.partition(".")[2]) for value in column.present_values}) == 1


def codelike(column: Column) -> bool:
    """Whether values look like codes that were given: single words of one short length, or nearly so.

    It says nothing about what follows from them, only that they are fit to refer by.
    """
    values = column.present_values
    if len(values) < 2 or set(words(column.name)[-1:]) & LABEL_WORDS or any(" " in one for one in values):
        return False
    lengths = Counter(map(len, values))
    usual, times = lengths.most_common(1)[0]
    return usual <= _LONGEST_CODE and times >= _ALIKE * len(values)


def free_name(column: Column) -> bool:
    """Whether values are words as people choose them, and not codes that were given out."""
    last = words(column.name)[-1:]
    return (
        column_type(column).kind is Kind.TEXT
        and not codelike(column)
        and not set(last) & (IDENTIFIER_WORDS - LABEL_WORDS)
    )
