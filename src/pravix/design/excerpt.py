"""A few rows that show a step: the file's before it, and those of the new table after it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from pravix.design.model import Step
from pravix.first_normal_form.repair import readable
from pravix.relation.grouping import blank_in, groups_by
from pravix.relation.relation import Relation

_VALUES = 2
_ROWS_EACH = 2


@dataclass(frozen=True)
class Excerpt:
    """Rows of the file, each with its number first, and the rows that the new table holds instead."""

    columns: tuple[str, ...]
    before: tuple[tuple[str, ...], ...]
    after: tuple[tuple[str, ...], ...]


def excerpt(relation: Relation, step: Step) -> Excerpt:
    """Return rows that show what a step does: the values that come most often, two rows of each.

    n log n in the rows.
    """
    columns = (*step.determinant, *step.moved)
    stating = relation.without(blank_in(relation, step.determinant))
    if stating.row_count == 0:
        return Excerpt(columns, (), ())
    groups = groups_by(stating, step.determinant)
    most = np.argsort(-np.bincount(groups), kind="stable")[:_VALUES]
    chosen = np.concatenate([np.flatnonzero(groups == group)[:_ROWS_EACH] for group in most])
    shown = stating.project(columns).take(np.sort(chosen))
    rows = [tuple(map(readable, row)) for row in shown.rows()]
    numbers = map(str, shown.row_numbers.tolist())
    before = tuple((number, *row) for number, row in zip(numbers, rows, strict=True))
    return Excerpt(columns, before, tuple(dict.fromkeys(rows)))
