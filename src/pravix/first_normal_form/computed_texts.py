"""Columns that are a part of another column, or two columns put together."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import numpy as np

from pravix.first_normal_form.agreement import FEWEST_ROWS, Computed, compared, holds_on_sample, sampled
from pravix.first_normal_form.formula import Formula
from pravix.relation.relation import Column, Relation


def computed_texts(relation: Relation) -> list[Computed]:
    """Return columns that are a part of another column, or two columns put together."""
    varied = [column for column in relation.columns if column.distinct > 1]
    texts_in: dict[int, dict[str, str]] = {}
    found = []
    for target in relation.columns:
        values = target.present_values
        if len(values) < 3 or relation.row_count - target.blanks < FEWEST_ROWS:
            continue
        row = int(np.argmax(target.codes > 0))
        if row not in texts_in:
            texts_in[row] = {column.name: column.text(row) for column in varied}
        texts, cell = texts_in[row], target.text(row)
        for name, text in texts.items():
            if len(text) <= len(cell) or cell not in text or name == target.name:
                continue
            if relation.column(name).distinct < len(values):
                continue
            start = text.find(cell)
            formula = Formula(
                column=target.name,
                operation="part",
                columns=(name,),
                start=start,
                end=start + len(cell),
            )
            if holds_on_sample(relation, formula, target) and (part := compared(relation, formula, target)):
                found.append(part)
        found += _joins(relation, target, cell, texts)
    return found


def _joins(relation: Relation, target: Column, cell: str, texts: Mapping[str, str]) -> list[Computed]:
    ends = {name: text for name, text in texts.items() if 0 < len(text) < len(cell) and name != target.name}
    sample = [place for place in sampled(relation) if target.text(place)]
    cells = [target.text(place) for place in sample]

    def agreeing(names: Iterable[str], fits: Callable[[str, str], bool]) -> list[str]:
        """Return the columns whose cells fit those of the target in each row of the sample."""
        return [
            name
            for name in names
            if all(
                fits(whole, relation.column(name).text(place))
                for whole, place in zip(cells, sample, strict=True)
            )
        ]

    first = agreeing((name for name, text in ends.items() if cell.startswith(text)), str.startswith)
    last = agreeing((name for name, text in ends.items() if cell.endswith(text)), str.endswith)
    found = []
    for one in first:
        for other in last:
            between = cell[len(ends[one]) : len(cell) - len(ends[other])]
            if one == other or len(ends[one]) + len(ends[other]) > len(cell) or len(between) > 3:
                continue
            formula = Formula(column=target.name, operation="join", columns=(one, other), between=between)
            if holds_on_sample(relation, formula, target) and (whole := compared(relation, formula, target)):
                found.append(whole)
    return found
