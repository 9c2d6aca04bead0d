"""What kind of thing a column holds, as far as its name and its values tell."""

from __future__ import annotations

from enum import Enum

from pravix.relation.relation import Column
from pravix.relation.types import ColumnType, Kind, column_type
from pravix.relation.words import IDENTIFIER_WORDS, LABEL_WORDS, MEASURE_WORDS, words


class Thing(Enum):
    """What the values of a column do: identify, stand for a thing, name it, count, measure, and so on."""

    IDENTIFIER = "identifier"
    LABEL = "word"
    TITLE = "name"
    NUMBER = "number"
    MEASURE = "measure"
    MOMENT = "date or time"
    MARK = "yes/no"
    PROSE = "free text"


_PROSE_LENGTH = 40


def thing(column: Column) -> Thing:
    """Return the kind of thing that a column holds. Linear in the different values.

    A word for identifiers at the end of the name decides, unless the values are decimals, dates or
    prose; then the type of the values; whole numbers are measures where the name says so.
    """
    return _thing(words(column.name), column_type(column), column)


def _thing(name: list[str], found: ColumnType, column: Column) -> Thing:
    last = name[-1] if name else ""
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
        return Thing.MEASURE if MEASURE_WORDS & set(name) else Thing.NUMBER
    if found.kind is Kind.CODE:
        return Thing.IDENTIFIER
    if last in IDENTIFIER_WORDS and last not in LABEL_WORDS:
        return Thing.IDENTIFIER
    if found.length > _PROSE_LENGTH:
        return Thing.PROSE
    return Thing.TITLE if last in LABEL_WORDS else Thing.LABEL


def _same_scale(column: Column) -> bool:
    """Whether all decimals have the same number of places, as numbers like 5059.06 on a label do."""
    return len({len(value.partition(".")[2]) for value in column.present_values}) == 1
