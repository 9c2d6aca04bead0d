"""Whether a formula gives the cells of a column: tried on a few rows, then on all."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from pravix.first_normal_form.formula import Formula
from pravix.relation.grouping import first_positions, group_numbers
from pravix.relation.relation import Column, Relation

FEWEST_ROWS = 10
"""Rows that must agree."""

AGREEING = 0.97
"""The share of rows that must agree."""


@dataclass(frozen=True)
class Computed:
    """A formula, and the positions of the rows that disagree with it (blank cells left out).

    ``instead`` are formulas by which its columns come from this one: any of them may be what was measured.
    """

    formula: Formula
    disagreeing: tuple[int, ...]
    sure: float
    instead: tuple[Formula, ...] = ()


def compared(relation: Relation, formula: Formula, target: Column) -> Computed | None:
    """Return a formula with the rows that disagree; None where too many do, or too few rows have both.

    Linear in the rows; the formula is worked out once for each different combination of cells.
    """
    columns = [relation.column(name) for name in formula.columns]
    groups = group_numbers([target.codes, *(column.codes for column in columns)], relation.row_count)
    sizes = np.bincount(groups)
    wrong = np.zeros(len(sizes), dtype=np.bool_)
    given = 0
    known: dict[tuple[str, ...], str] = {}
    for group, place in enumerate(first_positions(groups).tolist()):
        text = target.text(place)
        cells = tuple(column.text(place) for column in columns)
        if cells not in known:
            known[cells] = formula.cell(cells)
        given += int(sizes[group]) if known[cells] and text else 0
        wrong[group] = known[cells] != text
    disagreeing = np.flatnonzero(wrong[groups])
    if given < FEWEST_ROWS or len(disagreeing) > (1 - AGREEING) * given:
        return None
    return Computed(formula, tuple(disagreeing.tolist()), 1 - len(disagreeing) / given)


def sampled(relation: Relation) -> range:
    """Return the positions of some rows, spread over all."""
    return range(0, relation.row_count, max(1, relation.row_count // 50))


def holds_on_sample(relation: Relation, formula: Formula, target: Column) -> bool:
    """Return whether a formula agrees with a column in some rows, where both are filled."""
    for place in sampled(relation):
        cells = [relation.column(name).text(place) for name in formula.columns]
        if target.text(place) and all(cells) and formula.cell(cells) != target.text(place):
            return False
    return True
