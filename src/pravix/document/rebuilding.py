"""How the repaired columns of the file are built again from the tables, as data for any database."""

from __future__ import annotations

from collections.abc import Iterator
from typing import cast

from pravix.design.model import Design, Table
from pravix.first_normal_form.findings import AnyRebuilt
from pravix.first_normal_form.parts import PartNames, part_names
from pravix.first_normal_form.rebuilt import Rebuilt
from pravix.first_normal_form.repair import ChildPlace


def rebuild_document(design: Design) -> tuple[AnyRebuilt, ...]:
    """Return an entry for each column of the file that no table holds as it is, in an order that works."""
    found: list[Rebuilt] = []
    for part, table in _children(design):
        found += part.bundle.from_child(ChildPlace(table.name, part.facts, _own(table, part.position)))
    for repair in design.repaired.in_place:
        found += repair.rebuilt()
    return cast(tuple[AnyRebuilt, ...], tuple(found))  # Repairs know only what all of these have.


def _children(design: Design) -> Iterator[tuple[PartNames, Table]]:
    """Yield the names of the parts of each bundle with its child table, in the order of the tables."""
    named = {part.bundle.column: part for part in part_names(design.repaired)}
    for table in design.tables:
        if table.made_from is not None:
            yield named[table.part_of], table


def _own(table: Table, flat: str) -> str:
    """Return the column of a table that stands for a flat one."""
    return next(column.name for column in table.columns if column.stands_for == flat)
