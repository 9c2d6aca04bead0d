"""What is only told in another way: ages and age groups, feet and metres, incomes and their logarithms."""

from __future__ import annotations

from collections.abc import Mapping
from math import lgamma, log
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from pravix.judgement.use import Use
from pravix.judgement.weights import SELDOM_SO_ORDERED
from pravix.relation.grouping import first_positions, groupings_of, groups_by
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import column_type
from pravix.theory.dependency import Dependency

TIMES = frozenset({Use.MOMENT, Use.PERIOD})
"""What tells when."""

_SPARE = 1

_PLACES: WeakKeyDictionary[Column, NDArray[np.intp] | None] = WeakKeyDictionary()


def recoded(relation: Relation, rule: Dependency, uses: Mapping[str, Use]) -> bool:
    """Whether what a rule decides only tells in another way what its determinant does.

    So it is where both tell when; where one number grows or falls with the other, for identifiers one to one;
    and where the dependent of what is no identifier changes, in the order of that, only as often as it has
    values (once more for a value that stands for none). In the latter two luck would seldom order them so.
    Sorts the different values of the determinant.
    """
    if uses[rule.dependent] in TIMES and all(uses[name] in TIMES for name in rule.determinant):
        return True
    if len(rule.determinant) > 1:
        return False
    (name,), size = rule.determinant, groupings_of(relation).size
    if uses[name] is Use.IDENTIFIER and size(rule.determinant) != size({rule.dependent}):
        return False
    place, other = _places(relation.column(name)), _places(relation.column(rule.dependent))
    if place is None:
        return False
    first = first_positions(groups_by(relation, rule.determinant))
    codes, told = (relation.column(one).codes[first] for one in (name, rule.dependent))
    there = (codes != BLANK) & (told != BLANK)
    told = told[there][np.argsort(place[codes[there]], kind="stable")]
    sizes = np.unique(told, return_counts=True)[1]
    if _orders(sizes) < SELDOM_SO_ORDERED:
        return False
    if other is not None and not {uses[name], uses[rule.dependent]} & TIMES:
        steps = np.diff(other[told])
        if (steps >= 0).all() or (steps <= 0).all():
            return True
    changes = np.count_nonzero(told[1:] != told[:-1])
    return 2 * len(sizes) <= len(told) and bool(changes < len(sizes) + _SPARE)


def _orders(sizes: NDArray[np.intp]) -> float:
    """Return in bits in how many orders groups of some sizes can stand, to one that has each in one piece."""
    ways = lgamma(1 + int(sizes.sum())) - sum(lgamma(1 + size) for size in sizes.tolist())
    return (ways - lgamma(1 + len(sizes))) / log(2) if len(sizes) < sizes.sum() else ways / log(2) - 1.0


def _places(column: Column) -> NDArray[np.intp] | None:
    """Return the place of each value of a column in their order, by code; None where they have none."""
    column = column.same_values
    if column not in _PLACES:
        found = column_type(column)
        if found.meant.numeric:
            keys = np.array([float(value or 0) for value in column.values])
        elif found.iso:
            keys = np.array(list(column.values))
        else:
            keys = None
        _PLACES[column] = None if keys is None else np.unique(keys, return_inverse=True)[1]
    return _PLACES[column]
