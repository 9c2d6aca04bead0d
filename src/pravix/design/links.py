"""How many rows each link joins, as found in the rows, and the sentence that says so in both directions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pravix.design.model import ForeignKey, Table
from pravix.design.rejoin import referred_places
from pravix.errors import InputError
from pravix.ledger.wishes import Wishes
from pravix.relation.types import ColumnType
from pravix.wording import counted, joined


@dataclass(frozen=True)
class Found:
    """How many rows refer to one referred row (``least``, ``most``, ``mean``), and how many refer to none."""

    least: int
    most: int
    mean: float
    blank: int


def with_wished_rules(tables: Sequence[Table], wishes: Wishes) -> tuple[Table, ...]:
    """Return the tables with the rules on delete and update that the ledger wishes for.

    Raises InputError where a wish names no reference, or would blank a column that must be filled.
    """
    links = {frozenset(link.columns): link for table in tables for link in table.foreign_keys}
    for wish in wishes.of("link"):
        link = links.get(frozenset(wish.columns))
        place = wish.place or "link"
        if link is None:
            raise InputError(f"{place}: no table refers to another by {joined(wish.columns)}")
        if "set null" in (wish.on_delete, wish.on_update) and not link.optional:
            raise InputError(f"{place}: {joined(wish.columns)} is always filled, so it cannot be set to null")
    return tuple(
        replace(table, foreign_keys=tuple(_as_wished(link, wishes) for link in table.foreign_keys))
        for table in tables
    )


def with_agreeing_types(tables: Sequence[Table]) -> tuple[Table, ...]:
    """Return the tables with every referring column of the type of the column that it refers to.

    The tables must stand after those that they refer to.
    """
    types: dict[tuple[str, str], ColumnType] = {}
    found = []
    for table in tables:
        referred = {
            here: types[link.table, there]
            for link in table.foreign_keys
            if link.table != table.name
            for here, there in zip(link.columns, link.references, strict=True)
        }
        columns = tuple(replace(one, type=referred.get(one.name, one.type)) for one in table.columns)
        own = {one.name: one.type for one in columns}
        itself = {
            here: own[there]
            for link in table.foreign_keys
            if link.table == table.name
            for here, there in zip(link.columns, link.references, strict=True)
        }
        columns = tuple(replace(one, type=itself.get(one.name, one.type)) for one in columns)
        types |= {(table.name, one.name): one.type for one in columns}
        found.append(replace(table, columns=columns))
    return tuple(found)


def _as_wished(link: ForeignKey, wishes: Wishes) -> ForeignKey:
    wish = wishes.about("link", frozenset(link.columns))
    if wish is None:
        return link
    return replace(
        link,
        on_delete=wish.on_delete or link.on_delete,
        on_update=wish.on_update or link.on_update,
    )


def found_cardinality(table: Table, link: ForeignKey, other: Table) -> Found:
    """Return the cardinality of a link in the rows. n log n in the rows of both tables."""
    size = other.rows.row_count
    places = referred_places(table, link, other)
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
