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
    conflicts: list[RoleConflict] = []
    place = 0
    while place < len(merged):
        group = _group(merged, place, conflicts)
        if len(group) > 1:
            merged, place = _replaced(merged, group), -1
        place += 1
    return tuple(merged), tuple(dict.fromkeys(conflicts))


def _group(tables: Sequence[Table], place: int, conflicts: list[RoleConflict]) -> list[tuple[Table, Role]]:
    """Return a table with all later ones that are other roles of its thing; add what kept others out."""
    one = tables[place]
    group: list[tuple[Table, Role]] = []
    for other in tables[place + 1 :]:
        roles = _roles(one, other)
        if roles is None or (group and group[0][1] != roles[0]):
            continue
        conflict = next(
            (
                found
                for table, role in group or [(one, roles[0])]
                if (found := _conflict(table, role, other, roles[1]))
            ),
            None,
        )
        if conflict is not None:
            conflicts.append(conflict)
        else:
            group = [*(group or [(one, roles[0])]), (other, roles[1])]
    return group


def broken_roles(tables: Sequence[Table], merged: Sequence[Table]) -> tuple[tuple[str, int], ...]:
    """Return table and row number of each row that a merged table does not give back in its role."""
    became = {identity: table for table in merged for identity in table.identities}
    broken = []
    for table in tables:
        together = became[table.identities[0]]
        if together.roles:
            columns = [together.flat_names[name] for name in table.column_names]
            stored = set(together.rows.project(columns).rows())
            numbers = table.rows.row_numbers.tolist()
            rows = zip(table.rows.rows(), numbers, strict=True)
            broken += [(table.identities[0], number) for row, number in rows if row not in stored]
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


def _in_role(table: Table, role: Role) -> Relation:
    """Return the rows of a table with the columns in the order of its role, the key first."""
    (key,) = table.primary_key
    return table.rows.project([key, *(name for _, name in role.columns if name != key)])


def _conflict(one: Table, first: Role, other: Table, second: Role) -> RoleConflict | None:
    """Return what keeps two tables from being one: a key with other facts, or keys that are not alike."""
    here, there = _in_role(one, first), _in_role(other, second)
    numbers = here.row_numbers.tolist()
    stored = {row[0]: (row, number) for row, number in zip(here.rows(), numbers, strict=True)}
    for row, number in zip(there.rows(), there.row_numbers.tolist(), strict=True):
        known, before = stored.get(row[0], (row, number))
        if known != row:
            return RoleConflict(one.name, other.name, row[0], known, row, (before, number))
    if not _same_kind(set(stored), {row[0] for row in there.rows()}):
        return RoleConflict(one.name, other.name, "", (), (), ())
    return None


def _together(group: Sequence[tuple[Table, Role]]) -> Table:
    """Return the one table of several roles; its columns are called as the first role calls the rest."""
    one, first = group[0]
    names = [rest for rest, _ in first.columns]
    stored: dict[tuple[str, ...], int] = {}
    for table, role in group:
        rows = table.rows.project([name for _, name in role.columns])
        for row, number in zip(rows.rows(), rows.row_numbers.tolist(), strict=True):
            stored.setdefault(row, number)
    rows = Relation(
        Relation.from_rows(names, list(stored)).columns, np.array(list(stored.values()), dtype=np.int64)
    )
    rest = {name: rest for rest, name in first.columns}
    keys = [tuple(rest[name] for name in key) for key in one.keys]
    sources = dict(first.columns)
    return Table(
        name=cut_words(one.name, _place_of(first.words, words(one.name)) or 0, len(first.words)) or one.name,
        columns=tuple(
            TableColumn(
                column.name,
                sources[column.name],
                column_type(column),
                column.blanks > 0,
                sources[column.name],
            )
            for column in rows.columns
        ),
        keys=tuple(key for key in keys if len(set(rows.project(key).rows())) == rows.row_count),
        foreign_keys=_links(one, first),
        form=one.form,
        rows=rows,
        roles=tuple(role for _, role in group),
        apart_from=one.apart_from,
        identities=tuple(identity for table, _ in group for identity in table.identities),
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


def _replaced(tables: Sequence[Table], group: Sequence[tuple[Table, Role]]) -> list[Table]:
    """Return the tables with a group replaced by one, and the references to them put right."""
    together, first = _together(group), group[0][0]
    left = {table.name for table, _ in group[1:]}
    kept = [table for table in tables if table.name not in left]
    name = free_name(together.name, [table.name for table in kept if table is not first])
    renamed = {table.name: (role, name) for table, role in group}
    found = []
    for table in kept:
        renewed = replace(together, name=name) if table is first else table
        if renewed.apart_from in renamed:
            renewed = replace(renewed, apart_from=name)
        links = tuple(_redirected(link, renamed) for link in renewed.foreign_keys)
        found.append(replace(renewed, foreign_keys=links))
    return found


def _redirected(link: ForeignKey, renamed: Mapping[str, tuple[Role, str]]) -> ForeignKey:
    if link.table not in renamed:
        return link
    role, name = renamed[link.table]
    rest = {flat: rest for rest, flat in role.columns}
    return replace(
        link, table=name, references=tuple(rest[column] for column in link.references), role=role.name
    )
