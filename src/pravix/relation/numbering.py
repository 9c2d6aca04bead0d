"""Rows known by their number, where nothing else identifies them."""

from __future__ import annotations

from pravix.relation.relation import Column, Relation
from pravix.wording import unused

ROW_NUMBER = "row_no"


def numbered(relation: Relation) -> Relation:
    """Return the relation with the row number as one more column."""
    taken = {name.lower() for name in relation.names}
    name = unused(ROW_NUMBER, lambda one: one.lower() in taken)
    numbers = Column.from_texts(name, map(str, relation.row_numbers.tolist()))
    return Relation((*relation.columns, numbers), relation.row_numbers)
