"""Surrogate keys by policy: an added number identifies a row, the natural key stays unique.

References follow: the columns that referred by the natural key give way to one number, unless another
key or reference needs a part of them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pravix.design.model import ForeignKey, Table, TableColumn
from pravix.design.naming import free_name
from pravix.design.rejoin import referred_places
from pravix.relation.grouping import blank_in
from pravix.relation.relation import Column, Relation
from pravix.relation.types import column_type

_ENDING = "id"


@dataclass(frozen=True)
class _Replaced:
    """Where a column that gave way to a number is found: by ``number`` in ``column`` of ``table``."""

    number: str
    table: str
    column: str


def with_surrogates(
    tables: Sequence[Table], policy: str, shared: bool
) -> tuple[tuple[Table, ...], tuple[tuple[str, int], ...]]:
    """Return the tables with surrogate keys, and table and row number of each row that they lead astray.

    Tables of independent lists keep their own keys, by which they belong together, and a table in several
    roles refers by what is told in each. ``policy`` is ``never``,
    ``referred`` (composite keys that others refer to) or ``always``; with ``shared`` the numbers go on from
    table to table. That every old column is found again through the numbers is checked on the rows. Cost: n
    log n in the rows of each reference.
    """
    lists = {name for one in tables if one.independent_of for name in (one.name, one.independent_of)}
    wanted = _wanted(tables, policy) - lists
    if not wanted:
        return tuple(tables), ()
    done: dict[str, Table] = {}
    replaced: dict[tuple[str, str], _Replaced] = {}
    numbers: dict[str, NDArray[np.int64]] = {}
    start = 1
    for table in tables:
        referring = [
            link
            for link in table.foreign_keys
            if link.table in numbers
            and not (link.by_values or table.name in lists or _told_in_roles(table, link))
        ]
        made = table
        for link in referring:
            made = _referring_by_number(
                made, table, link, done[link.table], _original(tables, link.table), numbers, replaced
            )
        if table.name in wanted:
            count = table.rows.row_count
            numbers[table.name] = np.arange(start, start + count)
            start += count if shared else 0
            made = _numbered(made, numbers[table.name])
        done[table.name] = made
    return tuple(done.values()), _astray(tables, done, replaced, numbers)


def _told_in_roles(table: Table, link: ForeignKey) -> bool:
    """Return whether the columns of a link are told in several roles: each needs them, and they stay."""
    return any(name in link.columns for role in table.roles for name, _ in role.columns)


def _wanted(tables: Sequence[Table], policy: str) -> set[str]:
    if policy == "never":
        return set()
    referred = {link.table for table in tables for link in table.foreign_keys}
    return {
        table.name
        for table in tables
        if table.primary_key
        and not table.apart_from
        and (policy == "always" or (table.name in referred and len(table.primary_key) > 1))
    }


def _original(tables: Sequence[Table], name: str) -> Table:
    return next(table for table in tables if table.name == name)


def _numbered(table: Table, numbers: NDArray[np.int64]) -> Table:
    """Return a table with its numbers as the first column and the primary key."""
    name = free_name(f"{table.name}_{_ENDING}", table.column_names)
    column = Column.from_texts(name, map(str, numbers.tolist()))
    return replace(
        table,
        columns=(TableColumn(name, None, column_type(column), nullable=False), *table.columns),
        keys=((name,), *table.keys),
        rows=Relation((column, *table.rows.columns), table.rows.row_numbers),
        surrogate=name,
    )


def _referring_by_number(
    made: Table,
    table: Table,
    link: ForeignKey,
    other: Table,
    original: Table,
    numbers: Mapping[str, NDArray[np.int64]],
    replaced: dict[tuple[str, str], _Replaced],
) -> Table:
    """Return a table that refers by a number where it referred by a natural key."""
    places = referred_places(table, link, original)
    name = "_".join([*link.role.split(), other.surrogate])
    name = free_name(name, made.column_names)
    texts = [str(numbers[original.name][place]) if place >= 0 else "" for place in places.tolist()]
    column = Column.from_texts(name, texts)
    columns = list(made.columns)
    by_name = {entry.name: entry for entry in columns}
    going = [one for one in link.columns if one in by_name] if _dispensable(table, link, numbers) else []
    for here, there in zip(link.columns, link.references, strict=True):
        if here in going:
            replaced[table.name, here] = _Replaced(name, original.name, there)
    at = min((made.column_names.index(one) for one in going), default=len(columns))
    columns.insert(at, TableColumn(name, None, column_type(column), nullable=link.optional))
    kept = [entry for entry in columns if entry.name not in going]
    known = {one.name: one for one in (*made.rows.columns, column)}
    instead = replace(link, columns=(name,), references=(other.surrogate,))
    return replace(
        made,
        columns=tuple(kept),
        keys=tuple(_renewed(key, link.columns, name, going) for key in made.keys),
        foreign_keys=tuple(instead if old is link else old for old in made.foreign_keys),
        rows=Relation(tuple(known[entry.name] for entry in kept), made.rows.row_numbers),
    )


def _dispensable(table: Table, link: ForeignKey, numbers: Mapping[str, NDArray[np.int64]]) -> bool:
    """Return whether the columns of a link can all give way to the number.

    They cannot where a key or a reference of another kind holds only a part of them, or where a row
    fills only a part of them.
    """
    columns = set(link.columns)
    partly = [key for key in table.keys if columns & set(key) and not columns <= set(key)]
    others = [
        one
        for one in table.foreign_keys
        if one is not link
        and columns & set(one.columns)
        and not (one.table in numbers and columns == set(one.columns))
    ]
    blank = [blank_in(table.rows, [name]) for name in link.columns]
    return not partly and not others and all(np.array_equal(blank[0], other) for other in blank[1:])


def _renewed(
    key: tuple[str, ...], columns: Sequence[str], name: str, going: Sequence[str]
) -> tuple[str, ...]:
    if not going or not set(columns) <= set(key):
        return key
    place = key.index(columns[0])
    rest = [(name,) if number == place else (one,) for number, one in enumerate(key)]
    return tuple(one for (one,) in rest if one == name or one not in going)


def _astray(
    tables: Sequence[Table],
    done: Mapping[str, Table],
    replaced: Mapping[tuple[str, str], _Replaced],
    numbers: Mapping[str, NDArray[np.int64]],
) -> tuple[tuple[str, int], ...]:
    """Return table and row number of each row that does not give its old cells back through the numbers."""

    def cells(table: str, column: str) -> list[str]:
        found = replaced.get((table, column))
        if found is None:
            return done[table].rows.column(column).texts()
        there = dict(
            zip(map(str, numbers[found.table].tolist()), cells(found.table, found.column), strict=True)
        )
        return [there.get(number, "") for number in done[table].rows.column(found.number).texts()]

    astray = set()
    for table in tables:
        for column in table.column_names:
            before, after = table.rows.column(column).texts(), cells(table.name, column)
            rows = zip(before, after, table.rows.row_numbers.tolist(), strict=True)
            astray |= {(table.name, number) for old, new, number in rows if old != new}
    return tuple(sorted(astray))
