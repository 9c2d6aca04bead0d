"""Compound values, codes whose meaning is not in the file, and columns that say nothing."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from pravix.atomic.finding import Finding, Topic
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import MEASURE_WORDS, words
from pravix.wording import joined, shortened

_PERSON_WORDS = frozenset(
    "keeper driver person contact author owner agent member helm registrar collector observer".split()
)
_CODE_WORDS = frozenset("status state type kind class grade category cat flag level code group".split())
_MOSTLY = 0.85
_MOST_CODES = 9


@dataclass(frozen=True)
class Compound:
    """A way in which one value holds several facts: its pattern, and the names of the parts."""

    pattern: re.Pattern[str]
    parts: tuple[str, ...]
    told: str


_COMPOUNDS = (
    Compound(
        re.compile(r"(-?\d+(?:[.,]\d+)?)\s+([^\W\d]{1,6}|%|€|\$)"),
        ("value", "unit"),
        "a number with its unit",
    ),
    Compound(
        re.compile(r"([^\W\d][\w.'’ -]*?[^\W\d.])\s+(\d{1,4}[a-zA-Z]?)"),
        ("street", "number"),
        "a street with its number",
    ),
    Compound(
        re.compile(r"([^\W\d][\w.'’-]*\.?)\s+([^\W\d][\w'’-]+)"), ("given", "family"), "a person's two names"
    ),
    Compound(
        re.compile(r"([^\W\d][\w'’-]+),\s*([^\W\d][\w.'’-]*)"), ("family", "given"), "a person's two names"
    ),
)


def find_oddities(relation: Relation) -> list[Finding]:
    """Return findings on compound values, on codes, and on columns that say nothing."""
    found = []
    for column in relation.columns:
        finding = _says_nothing(column, relation) or _compound(column) or _codes(column, relation)
        if finding is not None:
            found.append(finding)
    return found


def _compound(column: Column) -> Finding | None:
    values = column.present_values
    kind = column_type(column).kind
    if len(values) < 4 or kind not in (Kind.TEXT, Kind.CODE):
        return None
    for compound in _COMPOUNDS if kind is Kind.TEXT else _COMPOUNDS[:1]:
        matches = [match for value in values if (match := compound.pattern.fullmatch(value))]
        if len(matches) < _MOSTLY * len(values) or not _plausible(compound, column, matches):
            continue
        example = matches[0]
        split = joined(
            [f"{part} {text}" for part, text in zip(compound.parts, example.groups(), strict=True)]
        )
        return Finding(
            topic=Topic.COMPOUND,
            columns=(column.name,),
            told=f"{column.name} holds {compound.told}: {shortened(example[0])} would be {split}",
            sure=len(matches) / len(values) - 0.1,
            preview=(
                tuple(f"{column.name}_{part}" for part in compound.parts),
                *(match.groups() for match in matches[:3]),
            ),
        )
    return None


def _plausible(compound: Compound, column: Column, matches: list[re.Match[str]]) -> bool:
    """Whether the parts are what they are taken for: few units, streets that come again, persons."""
    first, second = {match[1] for match in matches}, {match[2] for match in matches}
    if compound.parts == ("value", "unit"):
        return len(second) <= 5
    if compound.parts == ("street", "number"):
        return len(first) < len(matches) and len(second) > 3
    return bool(_PERSON_WORDS & set(words(column.name)))


def _codes(column: Column, relation: Relation) -> Finding | None:
    """Numbers or letters in the place of words, where no other column spells them out."""
    values, found = column.present_values, column_type(column)
    short = found.kind in (Kind.INTEGER, Kind.CODE) and found.length <= 2
    if not short or not 2 <= len(values) <= _MOST_CODES or relation.row_count < 5 * len(values):
        return None
    named = bool(_CODE_WORDS & set(words(column.name))) and not MEASURE_WORDS & set(words(column.name))
    if not named or _spelled_out(column, relation):
        return None
    counts = column.counts
    told = [f"{value} ({counts[column.values.index(value)]:,})" for value in sorted(values)]
    return Finding(
        topic=Topic.CODES,
        columns=(column.name,),
        told=f"{column.name} holds {joined(told)}: write down what each means",
        sure=0.8,
    )


def _spelled_out(column: Column, relation: Relation) -> bool:
    """Whether some column of words has one value for each value of this one."""
    for other in relation.columns:
        if other is not column and column_type(other).kind is Kind.TEXT and other.distinct >= column.distinct:
            pairs = len(np.unique(column.codes.astype(np.int64) * len(other.values) + other.codes))
            if pairs == column.distinct + (column.blanks > 0):
                return True
    return False


def _says_nothing(column: Column, relation: Relation) -> Finding | None:
    values = column.present_values
    if relation.row_count < 2:
        return None
    if not values:
        told = f"{column.name} is blank in every row"
    elif len(values) == 1 and not column.blanks:
        told = f"{column.name} is {shortened(values[0])} in every row"
    elif _runs_on(column):
        told = f"{column.name} only counts the rows: {column.text(0)}, {column.text(1)}, ..."
    else:
        return None
    return Finding(Topic.SAYS_NOTHING, (column.name,), told, 1.0 if not values else 0.9)


def _runs_on(column: Column) -> bool:
    """Whether a column holds 1, 2, 3, ... or a like run in the order of the rows."""
    first = column.text(0)
    if not first.isdecimal() or len(first) > 9 or first not in ("0", "1"):
        return False
    start = int(first)
    return all(text == str(start + place) for place, text in enumerate(column.texts()))
