"""References that the rows of one design show: columns whose values are keys of one of its own tables.

They come on top of those by which the flat rows are put together again: a pole is fed from another pole, the
street of a cabinet is one of the streets. What the values leave open is asked.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from pravix.design.model import Doubt, ForeignKey, Table
from pravix.design.ordering import creation_order, with_leaders_first
from pravix.design.rejoin import referred_places
from pravix.discovery.inclusions import Columns, Inclusion
from pravix.errors import InputError
from pravix.judgement.linking import Link, linked
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.grouping import blank_in
from pravix.sources.coding import Numbering
from pravix.wording import counted, joined, shortened

_SURELY = 12.0
"""Bits from which a reference is made without asking."""

_ORPHANS_NAMED = 3


def with_links_inside(
    tables: Sequence[Table], wishes: Wishes, numbering: Numbering | None = None
) -> tuple[tuple[Table, ...], tuple[Doubt, ...]]:
    """Return the tables with the references that their values show, and what is to be asked about them.

    A reference that would close a circle of tables is not made. Raises InputError, with its place,
    where two columns are wished to be one kind of thing and cannot be. Cost: that of ``inclusions``.
    """
    found = {table.name: with_leaders_first(table) for table in tables}
    keys = {table.name: _referable(table) for table in tables}
    told = linked({table.name: table.rows for table in tables}, keys, numbering)
    doubts = []
    for wish in wishes.of("same"):
        found = _as_wished(found, wish)
    for link in [*told.links, *told.doubtful]:
        here, there = (
            _flat(found[end.table], end.names) for end in (link.inclusion.here, link.inclusion.there)
        )
        if _settled(found, link) or _said(wishes, here, there):
            continue
        tried = _linked(found, link) if link.believed and link.inclusion.exact else None
        found = tried or found
        if tried is None or link.total < _SURELY:
            doubts.append(Doubt(here, there, tried is not None, _shown(link), link.total))
    return _in_order(found), tuple(doubts)


def _referable(table: Table) -> tuple[tuple[str, ...], ...]:
    """Return the keys by which rows may be referred to; columns set apart have that of their thing."""
    if table.apart_from:
        return ()
    return tuple(key for key in table.keys if key and not blank_in(table.rows, key).any())


def _flat(table: Table, names: Sequence[str]) -> tuple[str, ...]:
    """Return columns as the file calls them, in the first role that has them."""
    flat: dict[str, str] = {}
    for column, own in table.flat_names.items():
        flat.setdefault(own, column)
    return tuple(flat.get(name, name) for name in names)


def _said(wishes: Wishes, here: Sequence[str], there: Sequence[str]) -> bool:
    """Whether the analyst said of two groups that they are one kind of thing, or are not."""
    asked = {*here, *there}
    return any(set(wish.columns) == asked for do in ("same", "different") for wish in wishes.of(do))


def _settled(tables: Mapping[str, Table], link: Link) -> bool:
    """Whether columns refer already, or are themselves what identifies a row of their table."""
    here, there = link.inclusion.here, link.inclusion.there
    table = tables[here.table]
    columns = set(here.names)
    refers = any(set(one.columns) & columns for one in table.foreign_keys)
    return refers or any(set(key) <= columns for key in table.keys) or table.apart_from == there.table


def _linked(tables: dict[str, Table], link: Link) -> dict[str, Table] | None:
    """Return the tables with one more reference; None where that would close a circle."""
    here, there = link.inclusion.here, link.inclusion.there
    table = tables[here.table]
    new = ForeignKey(
        here.names,
        there.table,
        there.names,
        optional=bool(blank_in(table.rows, here.names).any()),
        single=any(set(key) <= set(here.names) for key in table.keys),
        by_values=True,
    )
    made = replace(table, foreign_keys=(*table.foreign_keys, new))
    tried = tables | {table.name: with_leaders_first(made)}
    return tried if creation_order(tried.values()) is not None else None


def _in_order(tables: Mapping[str, Table]) -> tuple[Table, ...]:
    return tuple(tables[name] for name in creation_order(tables.values()) or tables)


def _as_wished(tables: dict[str, Table], wish: Arrangement) -> dict[str, Table]:
    """Return the tables where one of two columns refers to the other, as is wished.

    Nothing is to be done where both are one column of a table with several roles.
    """
    place = wish.place or "same"
    homes = {name: _home(tables, name) for name in wish.columns}
    ends = [(table.name, own) for table, own in homes.values()]
    if len(set(ends)) == 1:
        return tables
    keyed = [name for name, (table, own) in homes.items() if (own,) in _referable(table)]
    if not keyed:
        told = joined(wish.columns, "nor")
        raise InputError(
            f"{place}: neither {told} identifies the rows of a table",
            "Give them a table as well: "
            + " ".join(["pravix arrange SOURCE", *(f'--table-of "{name}"' for name in wish.columns)]),
        )
    key = keyed[-1]
    here = next(name for name in wish.columns if name != key)
    (table, own), (other, column) = homes[here], homes[key]
    link = ForeignKey((own,), other.name, (column,), optional=False, single=False)
    lost = referred_places(table, link, other) < 0
    lost &= ~blank_in(table.rows, [own])
    if lost.any():
        first = int(np.argmax(lost))
        row, value = int(table.rows.row_numbers[first]), table.rows.column(own).text(first)
        raise InputError(
            f"{place}: {here} is {shortened(value)} in row {row}, which is no {key} of {other.name}",
            "Correct the row, or take the wish back.",
        )
    one = Inclusion(Columns(table.name, (own,)), Columns(other.name, (column,)), 1, 1, 1)
    found = _linked(tables, Link(one, 0.0, 0.0, 0.0, 0.0))
    if found is None:
        raise InputError(
            f"{place}: {here} and {key} would refer in a circle", "Which row can be entered first?"
        )
    return found


def _home(tables: Mapping[str, Table], name: str) -> tuple[Table, str]:
    """Return the table that a flat column is a key of, or else lives in, with its own column there."""
    holding = [table for table in tables.values() if name in table.flat_names]
    keyed = [table for table in holding if (table.flat_names[name],) in table.keys]
    described = [table for table in holding if table.flat_names[name] not in table.primary_key]
    table = (keyed or described or holding)[0]
    return table, table.flat_names[name]


def _shown(link: Link) -> str:
    """Return what the rows show of two columns, with the values that find nothing."""
    one = link.inclusion
    values = counted(one.values, "value")
    if one.exact:
        return f"all {values} of {', '.join(one.here.names)} are among those of {', '.join(one.there.names)}"
    return (
        f"{one.found:,} of {values} of {', '.join(one.here.names)} are among those of "
        f"{', '.join(one.there.names)}; not there: {one.orphans_told(_ORPHANS_NAMED)}"
    )
