"""Columns that say nothing: blank, the same in every row, or only counting the rows."""

from __future__ import annotations

from pravix.first_normal_form.finding import Finding, Topic
from pravix.relation.relation import Column, Relation
from pravix.wording import shortened

SAYS_NOTHING = Topic("says nothing", "Columns that say nothing", "columns that say nothing")


def find_saying_nothing(relation: Relation) -> list[Finding]:
    """Return a finding for each column that says nothing. Linear in the cells."""
    return [found for column in relation.columns if (found := _says_nothing(column, relation)) is not None]


def _says_nothing(column: Column, relation: Relation) -> Finding | None:
    values = column.present_values
    if relation.row_count < 2:
        return None
    if not values:
        told = f"{column.name} is blank in every row"
    elif len(values) == 1 and not column.blanks:
        told = f"{column.name} is {shortened(values[0])} in every row"
    elif _runs_on(column):
        told = f"{column.name} only counts the rows: {column.text(0)}, {column.text(1)}, ..."
    else:
        return None
    return Finding(SAYS_NOTHING, (column.name,), told, 1.0 if not values else 0.9)


def _runs_on(column: Column) -> bool:
    """Whether a column holds 1, 2, 3, ... or a like run in the order of the rows."""
    first = column.text(0)
    if not first.isdecimal() or len(first) > 9 or first not in ("0", "1"):
        return False
    start = int(first)
    return all(text == str(start + place) for place, text in enumerate(column.texts()))
