"""The parts of lists and families as rows: a relation like any other, for each bundle of a repaired file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pravix.first_normal_form.repair import Bundle, Repaired
from pravix.relation.grouping import first_positions, groups_by
from pravix.relation.relation import Relation
from pravix.wording import unused

POSITION = "position"


@dataclass(frozen=True)
class PartNames:
    """What the columns of a bundle's parts are called: no two of a file have one name."""

    bundle: Bundle
    position: str
    facts: tuple[str, ...]

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns of a part, without those of what it is a part of."""
        return (self.position, *self.facts)


def part_names(repaired: Repaired) -> tuple[PartNames, ...]:
    """Return the names of the parts of every bundle.

    A fact that is the only one of its bundle is called like that; another gets a number where a column of the
    file has its name, and a position the name of its bundle.
    """
    taken = {name.lower() for name in (*repaired.relation.names, *repaired.original.names)}
    found = []
    for bundle in repaired.bundles:
        position = _free(POSITION, taken, f"{bundle.column}_{POSITION}")
        only = len(bundle.facts) == 1 and bundle.facts[0].lower() in (
            bundle.column.lower(),
            *(name.lower() for name in bundle.sources),
        )
        facts = bundle.facts if only else tuple(_free(fact, taken) for fact in bundle.facts)
        found.append(PartNames(bundle, position, facts))
    return tuple(found)


def _free(wanted: str, taken: set[str], instead: str | None = None) -> str:
    name = instead if instead is not None and wanted in taken else wanted
    name = unused(name, lambda one: one.lower() in taken)
    taken.add(name.lower())
    return name


@dataclass(frozen=True, eq=False)
class PartRows:
    """The parts of a bundle: one row for each, behind the ``owner`` columns that say what it is a part of.

    Each row has the number of the first row of the file that states it.
    """

    names: PartNames
    owner: tuple[str, ...]
    relation: Relation

    @property
    def key(self) -> tuple[str, ...]:
        """What identifies a part: its owner and its position there."""
        return (*self.owner, self.names.position)


def part_rows(relation: Relation, names: PartNames, owner: Sequence[str]) -> PartRows:
    """Return the parts of a bundle, once for each value of the ``owner`` columns. Linear in the cells.

    The owner must determine the column of the bundle.
    """
    bundle = names.bundle
    rows = relation.project([*owner, bundle.column])
    if owner:
        rows = rows.take(np.sort(first_positions(groups_by(rows, owner))))
    parents = rows.project(owner).rows() if owner else [()] * rows.row_count
    lines: list[tuple[str, ...]] = []
    numbers: list[int] = []
    cells = zip(parents, rows.column(bundle.column).texts(), rows.row_numbers.tolist(), strict=True)
    for parent, cell, number in cells:
        for place, values in bundle.parts(cell):
            lines.append((*parent, str(place), *values))
            numbers.append(number)
    made = Relation.from_rows([*owner, *names.columns], lines)
    return PartRows(names, tuple(owner), Relation(made.columns, np.array(numbers, dtype=np.int64)))


def names_of_parts(repaired: Repaired) -> tuple[str, ...]:
    """Return the columns of all parts."""
    return tuple(name for names in part_names(repaired) for name in names.columns)
