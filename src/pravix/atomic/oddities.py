"""Codes whose meaning is not in the file, and columns that say nothing."""

from __future__ import annotations

import numpy as np

from pravix.atomic.finding import Finding, Topic
from pravix.relation.lexicon import MEASURE_WORDS
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words
from pravix.wording import joined, shortened

_CODE_WORDS = frozenset("status state type kind class grade category cat flag level code group".split())
_MOST_CODES = 9


def find_oddities(relation: Relation) -> list[Finding]:
    """Return findings on codes, and on columns that say nothing."""
    found = []
    for column in relation.columns:
        finding = _says_nothing(column, relation) or _codes(column, relation)
        if finding is not None:
            found.append(finding)
    return found


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
