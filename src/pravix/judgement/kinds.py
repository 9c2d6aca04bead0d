"""What kind of thing a column holds, as far as its name and its values tell."""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import Enum

from pravix.relation.relation import Column
from pravix.relation.types import ColumnType, Kind, column_type
from pravix.relation.words import IDENTIFIER_WORDS, LABEL_WORDS, MEASURE_WORDS, noun, words


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
    MARK = "yes/no"
    PROSE = "free text"


_PROSE_LENGTH = 40
_CONTACT = re.compile(r"[^@\s]+@[^@\s]+\.[a-z]+|(?:\+\d|0\d+[ /-])[\d ()/-]{4,}", re.IGNORECASE)
_SERIAL_DIGITS = 3
_LONGEST_COUNT = 12
_YEARS = range(1800, 2101)


def things(columns: Sequence[Column]) -> dict[str, Thing]:
    """Return the kind of thing that each column of a table holds.

    Where the name of one begins the names of others (``depot``, ``depot_town``), the others describe it,
    and it identifies what they describe; beside a code or number of its own (``keeper_no``, ``keeper``) it is
    the name of the thing. Quadratic in the columns.
    """
    found = {column.name: thing(column) for column in columns}
    names = {name: tuple(words(name)) for name in found}
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
        if begins and kind in (Thing.LABEL, Thing.IDENTIFIER) and not _identifies(names[name]):
            found[name] = Thing.DETAIL
    return found


def _identifies(name: Sequence[str]) -> bool:
    return bool(name) and name[-1] in IDENTIFIER_WORDS | LABEL_WORDS


def thing(column: Column) -> Thing:
    """Return the kind of thing that a column holds. Linear in the different values.

    A word for identifiers at the end of the name decides, unless the values are decimals, dates or
    prose; then the type of the values; whole numbers are measures where the name says so.
    """
    return _thing(words(column.name), column_type(column), column)


def _thing(name: list[str], found: ColumnType, column: Column) -> Thing:
    last = name[-1] if name else ""
    values = column.present_values
    if values and all(map(_CONTACT.fullmatch, values)) and found.kind not in (Kind.DATE, Kind.MOMENT):
        return Thing.CONTACT
    if found.kind is Kind.DECIMAL:
        identifies = last in IDENTIFIER_WORDS and _same_scale(column)
        return Thing.IDENTIFIER if identifies else Thing.MEASURE
    if found.kind in (Kind.DATE, Kind.TIME, Kind.MOMENT):
        return Thing.MOMENT
    if found.kind in (Kind.YES_NO, Kind.EMPTY):
        return Thing.MARK
    if found.kind is Kind.INTEGER:
        if last in IDENTIFIER_WORDS:
            return Thing.IDENTIFIER
        if MEASURE_WORDS & set(name):
            return Thing.MEASURE
        return Thing.SERIAL if _serial(values) else Thing.NUMBER
    if found.kind is Kind.CODE:
        return Thing.IDENTIFIER
    if last in IDENTIFIER_WORDS and last not in LABEL_WORDS:
        return Thing.IDENTIFIER
    if found.length > _PROSE_LENGTH:
        return Thing.PROSE
    return Thing.TITLE if last in LABEL_WORDS else Thing.LABEL


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
