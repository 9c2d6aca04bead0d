"""Codes whose meaning is not in the file."""

from __future__ import annotations

import numpy as np

from pravix.first_normal_form.finding import Finding, Topic
from pravix.relation.lexicon import MEASURE_WORDS
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words
from pravix.wording import joined

CODES = Topic("codes", "Codes whose meaning is not in the file", "codes")

_CODE_WORDS = frozenset("status state type kind class grade category cat flag level code group".split())
_MOST_CODES = 9


def find_codes(relation: Relation) -> list[Finding]:
    """Return a finding for each column of numbers or letters in the place of words."""
    return [found for column in relation.columns if (found := _codes(column, relation)) is not None]


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
        topic=CODES,
        columns=(column.name,),
        told=f"{column.name} holds {joined(told)}: write down what each means",
        sure=0.8,
    )


def _spelled_out(column: Column, relation: Relation) -> bool:
    """Whether some column of words has one value for each value of this one."""
    for other in relation.columns:
        if (
            other is not column
            and column_type(other).meant is Kind.TEXT
            and other.distinct >= column.distinct
        ):
            pairs = len(np.unique(column.codes.astype(np.int64) * len(other.values) + other.codes))
            if pairs == column.distinct + (column.blanks > 0):
                return True
    return False
