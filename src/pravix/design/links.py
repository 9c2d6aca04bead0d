"""How many rows each link joins, as found in the rows, and the sentence that says so in both directions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pravix.design.model import ForeignKey, Table
from pravix.design.rejoin import found_rows
from pravix.relation.relation import Relation
from pravix.wording import counted


@dataclass(frozen=True)
class Found:
    """How many rows refer to one referred row (``least``, ``most``, ``mean``), and how many refer to none."""

    least: int
    most: int
    mean: float
    blank: int


def found_cardinality(table: Table, link: ForeignKey, other: Table) -> Found:
    """Return the cardinality of a link in the rows. n log n in the rows of both tables."""
    together = Relation.from_rows(
        link.references,
        [*other.rows.project(link.references).rows(), *table.rows.project(link.columns).rows()],
    )
    size = other.rows.row_count
    codes = [column.codes for column in together.columns]
    places = found_rows([one[size:] for one in codes], [one[:size] for one in codes])
    counts = np.bincount(places[places >= 0], minlength=size)
    if size == 0:
        return Found(0, 0, 0.0, int((places < 0).sum()))
    return Found(int(counts.min()), int(counts.max()), float(counts.mean()), int((places < 0).sum()))


def link_told(table: Table, link: ForeignKey, tables: Sequence[Table]) -> str:
    """Return a link in words, in both directions, with the counts found in the rows."""
    other = next(one for one in tables if one.name == link.table)
    found = found_cardinality(table, link, other)
    role = f" as {link.role}" if link.role else ""
    exactly = "no or one row" if link.optional else "exactly one row"
    blank = f" ({counted(found.blank, 'row')} to none)" if found.blank else ""
    if found.least == found.most:
        rows = counted(found.most, "row")
    else:
        rows = f"{found.least:,} to {found.most:,} rows"
    mean = f" ({found.mean:.1f} on average)" if found.least < found.most else ""
    forth = f"a row of {table.name} refers to {exactly} of {other.name}{role}{blank}"
    return f"{forth}; a row of {other.name} is referred to by {rows} of {table.name}{mean}"
