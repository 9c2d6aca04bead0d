"""What each column holds, in numbers: the survey of a relation."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from pravix.relation.relation import Column, Relation
from pravix.relation.types import ColumnType, column_type

_EXAMPLES = 3


@dataclass(frozen=True)
class ColumnProfile:
    """One column in numbers.

    ``distinct`` counts the different values, ``blanks`` the blank cells and ``repeats`` the cells whose
    value stands in an earlier row as well; the three together are the rows. ``examples`` are the most
    frequent values with how often each occurs.
    """

    name: str
    type: ColumnType
    distinct: int
    blanks: int
    repeats: int
    examples: tuple[tuple[str, int], ...]


def profile(relation: Relation) -> tuple[ColumnProfile, ...]:
    """Return the profile of every column. Linear in the cells."""
    return tuple(_profile(column) for column in relation.columns)


def _profile(column: Column) -> ColumnProfile:
    counts = column.counts.copy()
    counts[0] = 0
    places = np.argsort(-counts, kind="stable")[:_EXAMPLES]
    frequent = tuple((column.values[code], int(counts[code])) for code in places if counts[code])
    return ColumnProfile(
        name=column.name,
        type=column_type(column),
        distinct=column.distinct,
        blanks=column.blanks,
        repeats=column.filled - column.distinct,
        examples=(frequent if column.whole is None else column.whole.frequent)[:_EXAMPLES],
    )
