"""Whether a formula gives the cells of a column: tried on a few rows, then on all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pravix.first_normal_form.formula import Formula
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


def compared(relation: Relation, formula: Formula, texts: Sequence[str]) -> Computed | None:
    """Return a formula with the rows that disagree; None where too many do, or too few rows have both."""
    cells = formula.texts(relation)
    given = sum(1 for cell, text in zip(cells, texts, strict=True) if cell and text)
    disagreeing = [place for place, (cell, text) in enumerate(zip(cells, texts, strict=True)) if cell != text]
    if given < FEWEST_ROWS or len(disagreeing) > (1 - AGREEING) * given:
        return None
    return Computed(formula, tuple(disagreeing), 1 - len(disagreeing) / given)


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
