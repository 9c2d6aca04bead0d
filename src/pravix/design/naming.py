"""Names of tables, as a person would give them: after the thing, what is joined, or what is recorded."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from pravix.judgement.column_roles import epoch
from pravix.relation.lexicon import (
    CALENDAR,
    COUNT_WORDS,
    IDENTIFIER_WORDS,
    LABEL_WORDS,
    MOMENT_WORDS,
    PERIOD_WORDS,
)
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import noun, words
from pravix.wording import unused

_TIMES = (Kind.DATE, Kind.TIME, Kind.MOMENT)
_NUMBERS = (Kind.INTEGER, Kind.DECIMAL)
_MOST_PARTS = 3
_DIGIT = re.compile(r"\d")


@dataclass(frozen=True)
class TableName:
    """The name of a table; a ``guess`` where no column says what a row is."""

    name: str
    guess: bool


def table_names(
    keys: Sequence[tuple[str, ...]],
    header: Sequence[str],
    rows: Mapping[tuple[str, ...], Relation] | None = None,
) -> list[TableName]:
    """Return a name for each primary key, all different (also where case is ignored).

    ``drum_no`` gives ``drum``; ``Loan No`` with ``Object No`` gives ``Loan Object``, in the naming style of
    the header; points in time come last. With the ``rows`` of each table, a code without a noun takes that of
    its name (``ICAO`` beside ``Airport Name`` gives ``Airport``), and what joins others is called after the
    one number that is recorded there. Where two would be equal the later one takes the full names of its
    columns, and then a number.
    """
    separator = _separator(header)
    taken: dict[str, TableName] = {}
    for key in keys:
        table = rows.get(key) if rows is not None else None
        told, guess = _told(key, table, separator)
        options = [told, _joined(list(map(_stem, key)), separator), _joined(list(key), separator)]
        options += [f"{told}{separator}{number}" for number in range(2, len(keys) + 2)]
        free = next(name for name in options if name and name.lower() not in map(str.lower, taken))
        taken[free] = TableName(free, guess)
    return list(taken.values())


def _told(key: Sequence[str], table: Relation | None, separator: str) -> tuple[str, bool]:
    """Return what a table would be called, and whether that is a guess."""
    if len(key) == 1:
        (column,) = key
        named = _noun_of_the_name(column, table)
        return (named or _stem(column)), not named and _says_nothing(column)
    recorded = _recorded(key, table)
    if recorded:
        return recorded, False
    times = [column for column in key if _is_time(column, table)]
    uses = [column for column in key if column not in times]
    kept = (uses + times)[:_MOST_PARTS] if len(times) < 2 else [*uses[: _MOST_PARTS - 1], times[0]]
    return _joined(list(map(_stem, kept)), separator), len(key) > _MOST_PARTS or not uses


def _says_nothing(column: str) -> bool:
    """Whether a name is made of words for identifiers alone."""
    return set(words(column)) <= IDENTIFIER_WORDS | LABEL_WORDS


def _noun_of_the_name(column: str, table: Relation | None) -> str:
    """Return the noun of the column that names what a code without a noun stands for; empty without one."""
    if table is None or not _says_nothing(column):
        return ""
    others = [other for other in table.columns if other.name != column]
    for other in others:
        if words(other.name)[-1:] and words(other.name)[-1] in LABEL_WORDS and not _says_nothing(other.name):
            return _stem(other.name)
    texts = [other for other in others if other.distinct == table.row_count and _holds_words(other)]
    return next((other.name for other in texts if len(words(other.name)) == 1), "")


def _holds_words(column: Column) -> bool:
    """Whether a column holds words, without a digit in any of them."""
    return column_type(column).meant is Kind.TEXT and not any(map(_DIGIT.search, column.present_values))


def _recorded(key: Sequence[str], table: Relation | None) -> str:
    """Return the one number, called by one word, that is recorded where things meet; empty without one."""
    if table is None:
        return ""
    described = [column for column in table.columns if column.name not in key]
    numbers = [
        column.name for column in described if column_type(column).meant in _NUMBERS and not epoch(column)
    ]
    one = len(numbers) == 1 and len(words(numbers[0])) == 1 and len(described) <= len(key)
    says_what = one and not set(words(numbers[0])) & COUNT_WORDS and not _is_time(numbers[0], table)
    return numbers[0] if says_what else ""


def _is_time(column: str, table: Relation | None) -> bool:
    """Whether a column is a date, a time or a part of one."""
    if table is not None and column_type(table.column(column)).kind in _TIMES:
        return True
    last = words(column)[-1:]
    return bool(set(noun(column)) & frozenset().union(PERIOD_WORDS, *CALENDAR) or set(last) & MOMENT_WORDS)


def _joined(parts: Sequence[str], separator: str) -> str:
    """Return parts as one name; where no mark stands between words, each further part begins large."""
    if separator:
        return separator.join(parts)
    return "".join(part if place == 0 else part[:1].upper() + part[1:] for place, part in enumerate(parts))


def free_name(wanted: str, taken: Iterable[str], numbered: Callable[[int], str] | None = None) -> str:
    """Return a name that is not taken, case ignored: the one wanted, or that with a number."""
    used = {name.lower() for name in taken}
    return unused(wanted, lambda name: name.lower() in used, numbered)


def _stem(column: str) -> str:
    """Return a column name cut after the last word of its noun, spelled as in the header."""
    kept = noun(column)
    position = 0
    lowered = column.lower()
    for word in kept:
        found = lowered.find(word, position)
        if found < 0:
            return column
        position = found + len(word)
    return column[:position] if kept and words(column[:position]) == kept else column


def _separator(header: Sequence[str]) -> str:
    """Return what stands between words in most of the header's names of several words."""
    counts = {mark: sum(mark in name for name in header) for mark in ("_", " ", "-")}
    best = max(counts, key=lambda mark: counts[mark])
    if counts[best]:
        return best
    return "" if any(len(words(name)) > 1 for name in header) else "_"
