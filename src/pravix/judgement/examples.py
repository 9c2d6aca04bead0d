"""Two rows that break one rule and no other: what the data would have to hold if the rule were luck.

Two rows break a rule exactly when they agree on its determinant and differ on its dependent; where what
they agree on is closed under all other rules, they break no other. (Such example tables are called
informative Armstrong relations: F. De Marchi and J.-M. Petit, "Semantic sampling of existing databases
through informative Armstrong databases", Information Systems 32(3), 2007.)
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from pravix.relation.relation import BLANK, Relation
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency, in_order


@dataclass(frozen=True)
class Example:
    """Two possible rows, with values of the file: they agree on ``agreeing`` and differ elsewhere.

    The first is the row of the file with the number ``row``.
    """

    row: int
    first: dict[str, str]
    second: dict[str, str]
    agreeing: tuple[str, ...]


def breaking_rows(relation: Relation, rule: Dependency, others: Collection[Dependency]) -> Example | None:
    """Return two rows that break ``rule`` and none of ``others``; None where that cannot be.

    ``others`` must not imply the rule. Every value stands in the file, in its own column. Linear in the
    rows for each column.
    """
    closed = closure(rule.determinant, others)
    if rule.dependent in closed or relation.row_count == 0:
        return None
    full = np.ones(relation.row_count, dtype=np.bool_)
    for name in rule.columns:
        full &= relation.column(name).codes != BLANK
    if not full.any():
        return None
    position = int(np.argmax(full))
    first = {name: relation.column(name).text(position) for name in relation.names}
    second = {
        name: first[name] if name in closed else _another(relation, name, position) for name in relation.names
    }
    agreeing = frozenset(name for name in relation.names if first[name] == second[name])
    if rule.dependent in closure(agreeing, others) or closure(agreeing, others) != agreeing:
        return None
    return Example(
        int(relation.row_numbers[position]), first, second, tuple(in_order(agreeing, relation.names))
    )


def _another(relation: Relation, name: str, position: int) -> str:
    """Return the next other value of a column below a row, or above it; the same where there is no other."""
    column = relation.column(name)
    for start in (position, 0):
        codes = column.codes[start:]
        differing = (codes != column.codes[position]) & (codes != BLANK)
        if differing.any():
            return column.text(start + int(np.argmax(differing)))
    return column.text(position)
