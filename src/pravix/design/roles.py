"""Things in several roles: tables that hold the same kind of thing become one, referred to by each role.

A delivery goes from one depot to another; the sheet tells both towns. Two tables are roles of one thing
where their columns carry the same names but for the word of the role (``from_depot``, ``from_town`` and
``to_depot``, ``to_town``), and their keys share values or the shape of their values.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from pravix.design.model import ForeignKey, Role, RoleConflict, Table, TableColumn
from pravix.design.naming import free_name
from pravix.relation.relation import Relation
from pravix.relation.types import column_type, shape
from pravix.relation.words import cut_words, words

_SHARED_VALUES = 0.3
_MOST_WORDS = 2

Renaming = Mapping[str, str]
"""For each column of a table in one role, its name in the merged table."""


def with_roles(tables: Sequence[Table]) -> tuple[tuple[Table, ...], tuple[RoleConflict, ...]]:
    """Return the tables with those merged that are roles of one thing, and what kept others apart.

    Tables whose rows contradict each other (one depot, two towns), or that share neither key values nor
    their shape, are not merged; what stands against it is returned. Linear in the rows for each pair of
    tables with alike names.
    """
    merged = list(tables)
    conflicts: dict[frozenset[str], RoleConflict] = {}
    place = 0
    while place < len(merged):
        alike = [(other, role) for other in merged[place + 1 :] if (role := _roles(merged[place], other))]
        for other, roles in alike:
            together = _together(merged[place], other, roles)
            if isinstance(together, RoleConflict):
                conflicts[frozenset({merged[place].name, other.name})] = together
            else:
                merged = _replaced(merged, merged[place], other, together)
                place = -1
                break
        place += 1
    return tuple(merged), tuple(conflicts.values())


def new_names(tables: Sequence[Table], merged: Sequence[Table]) -> dict[str, str]:
    """Return for each table, by name, the name of the table that it became."""
    return {
        table.name: next(
            other.name
            for other in merged
            if [other.flat_names.get(name) for name in table.primary_key] == list(other.primary_key)
            and set(table.column_names) <= set(other.flat_names)
        )
        for table in tables
    }


def broken_roles(tables: Sequence[Table], merged: Sequence[Table]) -> tuple[tuple[str, int], ...]:
    """Return table and row number of each row that a merged table does not give back in its role."""
    names = new_names(tables, merged)
    by_name = {table.name: table for table in merged}
    broken = []
    for table in tables:
        together = by_name[names[table.name]]
        if together.roles:
            columns = [together.flat_names[name] for name in table.column_names]
            stored = set(together.rows.project(columns).rows())
            numbers = table.rows.row_numbers.tolist()
            rows = zip(table.rows.rows(), numbers, strict=True)
            broken += [(together.name, number) for row, number in rows if row not in stored]
    return tuple(broken)


def _roles(one: Table, other: Table) -> tuple[Role, Role] | None:
    """Return the roles of two tables whose columns are called alike but for the word of the role."""
    if len(one.columns) != len(other.columns) or len(one.primary_key) != 1 or len(other.primary_key) != 1:
        return None
    if one.made_from or other.made_from or one.roles or other.roles:
        return None
    differing = _difference(words(one.primary_key[0]), words(other.primary_key[0]))
    if differing is None:
        return None
    here, there = differing
    by_words = {tuple(words(name)): name for name in other.column_names}
    first, second = {}, {}
    for name in one.column_names:
        found = words(name)
        place = _place_of(here, found)
        if place is None:
            return None
        partner = by_words.get((*found[:place], *there, *found[place + len(here) :]))
        rest = cut_words(name, place, len(here))
        if partner is None or not rest:
            return None
        first[rest], second[rest] = name, partner
    if len(first) < len(one.columns) or len(set(second.values())) < len(one.columns):
        return None
    return Role(" ".join(here), tuple(first.items())), Role(" ".join(there), tuple(second.items()))


def _difference(one: Sequence[str], other: Sequence[str]) -> tuple[list[str], list[str]] | None:
    """Return the one run of words in which two names differ; None where that leaves nothing in common."""
    start = 0
    while start < min(len(one), len(other)) and one[start] == other[start]:
        start += 1
    end = 0
    while end < min(len(one), len(other)) - start and one[-1 - end] == other[-1 - end]:
        end += 1
    here, there = list(one[start : len(one) - end]), list(other[start : len(other) - end])
    short = 0 < len(here) <= _MOST_WORDS and 0 < len(there) <= _MOST_WORDS
    return (here, there) if short and start + end > 0 else None


def _place_of(part: Sequence[str], whole: Sequence[str]) -> int | None:
    for place in range(len(whole) - len(part) + 1):
        if list(whole[place : place + len(part)]) == list(part):
            return place
    return None


def _together(one: Table, other: Table, roles: tuple[Role, Role]) -> Table | RoleConflict:
    """Return the one table of two roles, or what stands against it."""
    first, second = roles
    names = [rest for rest, _ in first.columns]
    key = names[[name for _, name in first.columns].index(one.primary_key[0])]
    here = one.rows.project([name for _, name in first.columns])
    there = other.rows.project([name for _, name in second.columns])
    place = names.index(key)
    stored: dict[str, tuple[tuple[str, ...], int]] = {}
    for rows in (here, there):
        for row, number in zip(rows.rows(), rows.row_numbers.tolist(), strict=True):
            known = stored.setdefault(row[place], (row, number))
            if known[0] != row:
                return RoleConflict(one.name, other.name, row[place], known[0], row, (known[1], number))
    keys_here, keys_there = set(here.column(one.primary_key[0]).texts()), {row[place] for row in there.rows()}
    if not _same_kind(keys_here, keys_there):
        return RoleConflict(one.name, other.name, "", (), (), ())
    rows = Relation(
        Relation.from_rows(names, [row for row, _ in stored.values()]).columns,
        np.array([number for _, number in stored.values()], dtype=np.int64),
    )
    by_name = {name: rest for rest, name in first.columns}
    keys = [tuple(by_name[name] for name in key) for key in one.keys]
    unique = [key for key in keys if len(set(rows.project(key).rows())) == rows.row_count]
    sources = dict(first.columns)
    return Table(
        name=cut_words(one.name, _place_of(first.words, words(one.name)) or 0, len(first.words)) or one.name,
        columns=tuple(
            TableColumn(column.name, sources[column.name], column_type(column), column.blanks > 0)
            for column in rows.columns
        ),
        keys=tuple(unique),
        foreign_keys=_links(one, first),
        form=one.form,
        rows=rows,
        roles=roles,
    )


def _links(table: Table, role: Role) -> tuple[ForeignKey, ...]:
    """Return the references of a table in a role with the names of the merged table."""
    rest = {name: rest for rest, name in role.columns}
    return tuple(
        replace(link, columns=tuple(rest[name] for name in link.columns), role="")
        for link in table.foreign_keys
    )


def _same_kind(here: set[str], there: set[str]) -> bool:
    """Return whether two sets of keys share values, or all have the same few shapes."""
    if len(here & there) >= _SHARED_VALUES * min(len(here), len(there)):
        return True
    shapes = {shape(value) for value in here | there}
    return len(shapes) == 1 and any(mark.isdigit() for mark in next(iter(shapes)))


def _replaced(tables: Sequence[Table], one: Table, other: Table, together: Table) -> list[Table]:
    """Return the tables with two of them replaced by one, and the references to them put right."""
    kept = [table for table in tables if table is not other]
    name = free_name(together.name, [table.name for table in kept if table is not one])
    renamed = {one.name: (together.roles[0], name), other.name: (together.roles[1], name)}
    found = []
    for table in kept:
        table = replace(together, name=name) if table is one else table
        found.append(
            replace(table, foreign_keys=tuple(_redirected(link, renamed) for link in table.foreign_keys))
        )
    return found


def _redirected(link: ForeignKey, renamed: Mapping[str, tuple[Role, str]]) -> ForeignKey:
    if link.table not in renamed:
        return link
    role, name = renamed[link.table]
    rest = {flat: rest for rest, flat in role.columns}
    return replace(
        link, table=name, references=tuple(rest[column] for column in link.references), role=role.name
    )
