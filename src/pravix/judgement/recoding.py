"""What is only told in another way: ages and age groups, feet and metres, days and months."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from pravix.judgement.use import Use
from pravix.relation.grouping import first_positions, groups_by
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.theory.dependency import Dependency

TIMES = frozenset({Use.MOMENT, Use.PERIOD})
"""What tells when."""

_NUMBERS = (Kind.INTEGER, Kind.DECIMAL)
_SPARE = 1


def recoded(relation: Relation, rule: Dependency, uses: Mapping[str, Use]) -> bool:
    """Whether what a rule decides only tells in another way what its determinant does.

    So it is where both tell when; where one column can be put in order and the dependent then changes only as
    often as it has values (once more for a value that stands for none); and where two measures grow together,
    one to one. Sorts the different values of the determinant.
    """
    if uses[rule.dependent] in TIMES and all(uses[name] in TIMES for name in rule.determinant):
        return True
    if len(rule.determinant) > 1:
        return False
    (name,) = rule.determinant
    place = _places(relation.column(name))
    if place is None:
        return False
    dependent = relation.column(rule.dependent)
    first = first_positions(groups_by(relation, rule.determinant))
    codes, told = relation.column(name).codes[first], dependent.codes[first]
    there = (codes != BLANK) & (told != BLANK)
    told = told[there][np.argsort(place[codes[there]], kind="stable")]
    if len(np.unique(told)) < len(told):
        return bool(np.count_nonzero(told[1:] != told[:-1]) < len(np.unique(told)) + _SPARE)
    others = _places(dependent)
    if others is None or uses[name] in TIMES:
        return False
    steps = np.diff(others[told])
    return bool((steps > 0).all() or (steps < 0).all())


def _places(column: Column) -> NDArray[np.intp] | None:
    """Return the place of each value of a column in their order, by code; None where they have none."""
    kind = column_type(column)
    if kind.kind in _NUMBERS:
        found = np.unique([float(value or 0) for value in column.values], return_inverse=True)
    elif kind.iso:
        found = np.unique(list(column.values), return_inverse=True)
    else:
        return None
    return found[1]
