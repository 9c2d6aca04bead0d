"""In which order tables can be created, and the rows of one that refers to itself be entered."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from graphlib import CycleError, TopologicalSorter

import numpy as np

from pravix.design.model import Table
from pravix.design.rejoin import referred_places
from pravix.relation.relation import Positions


def with_leaders_first(table: Table) -> Table:
    """Return a table with each row after those that it refers to; where they go in a circle that is told.

    n log n in the rows of a table that refers to itself.
    """
    if all(link.table != table.name or link.circular for link in table.foreign_keys):
        return table
    order = _leaders_first(table)
    if order is not None:
        return replace(table, rows=table.rows.take(order))
    links = (replace(link, circular=link.table == table.name) for link in table.foreign_keys)
    return replace(table, foreign_keys=tuple(links))


def _leaders_first(table: Table) -> Positions | None:
    """Return the positions of rows so that each comes after those that it refers to; None for a circle.

    A row that refers to itself is one. Rows stay in their order as far as that allows. Linear in the rows and
    references.
    """
    after: dict[int, set[int]] = {place: set() for place in range(table.rows.row_count)}
    for link in table.foreign_keys:
        if link.table == table.name and not link.circular:
            places = referred_places(table, link, table)
            for place in np.flatnonzero(places >= 0).tolist():
                after[place].add(int(places[place]))
    try:
        return np.array(list(TopologicalSorter(after).static_order()), dtype=np.intp)
    except CycleError:
        return None


def creation_order(tables: Collection[Table]) -> list[str] | None:
    """Return the names of tables, each after those that it refers to; None where they go in a circle."""
    known: set[str] = set()
    for table in tables:
        if not {link.table for link in table.foreign_keys} <= {*known, table.name}:
            break
        known.add(table.name)
    else:
        return [table.name for table in tables]
    graph = {table.name: {link.table for link in table.foreign_keys} - {table.name} for table in tables}
    try:
        return list(TopologicalSorter(graph).static_order())
    except CycleError:
        return None
