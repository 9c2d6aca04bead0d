"""How the repaired columns of the file are built again from the tables, as data for any database."""

from __future__ import annotations

from typing import cast

from pravix.design.model import Design, Table
from pravix.first_normal_form.findings import AnyRebuilt
from pravix.first_normal_form.rebuilt import Rebuilt
from pravix.first_normal_form.repair import ChildPlace


def rebuild_document(design: Design) -> tuple[AnyRebuilt, ...]:
    """Return an entry for each column of the file that no table holds as it is, in an order that works."""
    found: list[Rebuilt] = []
    for table in design.tables:
        if table.made_from is not None:
            found += table.made_from.from_child(_place(table))
    for repair in design.repaired.in_place:
        found += repair.rebuilt()
    return cast(tuple[AnyRebuilt, ...], tuple(found))  # Repairs know only what all of these have.


def _place(child: Table) -> ChildPlace:
    """Return where a child table holds the parts: behind the columns of its parent's key."""
    key = len(child.foreign_keys[0].columns) if child.foreign_keys else 0
    position, *facts = [name for name in child.column_names if name != child.surrogate][key:]
    return ChildPlace(child.name, tuple(facts), position)
