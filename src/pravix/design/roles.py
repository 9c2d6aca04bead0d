"""Things in several roles: tables that hold the same kind of thing become one, referred to by each role.

A delivery goes from one depot to another; the sheet tells both towns. Which tables are roles of one thing is
said in ``role_pairs``, by names and by values. Their keys must share values or the shape of their values, and
the rows must not contradict each other.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from itertools import combinations

import numpy as np

from pravix.design.model import Doubt, ForeignKey, Role, RoleConflict, Table, TableColumn
from pravix.design.naming import free_name
from pravix.design.ordering import creation_order
from pravix.design.role_pairs import (
    KeyedTables,
    Pair,
    alike_by_values,
    could_be_roles,
    is_nameless,
    named_alike,
    place_of,
)
from pravix.errors import InputError
from pravix.ledger.wishes import Wishes
from pravix.relation.relation import Relation
from pravix.relation.types import column_type, shape
from pravix.relation.words import cut_words, words
from pravix.sources.coding import Numbering
from pravix.wording import counted, joined, shortened

_SHARED_VALUES = 0.3
_BITS_OF_A_DOUBT = 10.0

Renaming = Mapping[str, str]
"""For each column of a table in one role, its name in the merged table."""


def with_roles(
    tables: Sequence[Table], main: str, wishes: Wishes, numbering: Numbering
) -> tuple[tuple[Table, ...], tuple[RoleConflict, ...], tuple[Doubt, ...]]:
    """Return the tables with those merged that are roles of one thing, what kept others apart, and doubts.

    Tables whose rows contradict each other (one depot, two towns), or that share neither key values nor their
    shape, are not merged; what stands against it is returned. The table with the identity ``main`` has the
    rows of the file and is merged with none. Raises InputError, with its place, where two tables cannot be
    one kind of thing as is wished. ``numbering`` is of the values of all tables. Linear in the rows for each
    pair of tables.
    """
    merged = list(tables)
    conflicts: list[RoleConflict] = []
    written_alike: list[Doubt] = []
    place = 0
    while place < len(merged):
        group = _group(merged, place, conflicts, written_alike, wishes)
        if len(group) > 1:
            merged, place = _replaced(merged, group), -1
        place += 1
    merged, doubts = _by_values(merged, main, wishes, numbering)
    doubts += dict.fromkeys(written_alike)
    return tuple(merged), tuple(dict.fromkeys(conflicts)), tuple(doubts)


def _by_values(
    tables: list[Table], main: str, wishes: Wishes, numbering: Numbering
) -> tuple[list[Table], list[Doubt]]:
    """Merge tables whose values show that they are roles of one thing, and say which may be."""
    doubts: list[Doubt] = []
    merged, again = tables, True
    keyed = KeyedTables(merged, numbering)
    while again:
        again, doubts = False, []
        for one, other in combinations(merged, 2):
            if main in (*one.identities, *other.identities) or not (
                could_be_roles(one) and could_be_roles(other)
            ):
                continue
            wished = _wished("same", one, other, wishes)
            pair = None
            if not _wished("different", one, other, wishes):
                pair = alike_by_values(one, other, wished, keyed)
            wrong = None if pair is None else _conflict(one, pair.one, other, pair.other, wished)
            if wished and (pair is None or wrong is not None):
                raise InputError(
                    _cannot(one, other, wishes, wrong), "Correct the rows, or take the wish back."
                )
            if pair is None or wrong is not None:
                continue
            tried = _replaced(merged, [(one, pair.one), (other, pair.other)]) if pair.sure else merged
            if pair.sure and creation_order(tried) is not None:
                merged, again = tried, True
                break
            doubts.append(_doubt(one, other, pair, keyed.common(one, other)))
    return merged, doubts


def _wished(do: str, one: Table, other: Table, wishes: Wishes) -> bool:
    """Whether the analyst said that the keys of two tables are one kind of thing, or are not."""
    return any(
        set(wish.columns) == {here, there}
        for wish in wishes.of(do)
        for here in _key_names(one)
        for there in _key_names(other)
    )


def _key_names(table: Table) -> list[str]:
    """Return the flat columns of the key of a table that has one column of it."""
    return [flat for flat, own in table.flat_names.items() if (own,) == table.primary_key]


def _cannot(one: Table, other: Table, wishes: Wishes, wrong: RoleConflict | None) -> str:
    wish = next(
        wish for wish in wishes.of("same") if _wished("same", one, other, Wishes(arrangements=(wish,)))
    )
    told = f"{wish.place or 'same'}: {joined(wish.columns)} cannot be one kind of thing"
    if wrong is None or not wrong.rows:
        return f"{told}: what {one.name} and {other.name} say of the same ones differs"
    rows = f"row {wrong.rows[0]} and row {wrong.rows[1]}"
    return f"{told}: {rows} say different things of {shortened(wrong.key)}"


def _doubt(one: Table, other: Table, pair: Pair, common: int) -> Doubt:
    here, there = one.primary_key[0], other.primary_key[0]
    facts = [name for name, flat in pair.one.columns if name in dict(pair.other.columns) and flat != here]
    told = (
        f"{counted(common, 'value')} of {here} and {there} are the same, and {joined(facts)} "
        f"{'agrees' if len(facts) == 1 else 'agree'} for all of them"
    )
    return Doubt((here,), (there,), False, told, _BITS_OF_A_DOUBT)


def _group(
    tables: Sequence[Table],
    place: int,
    conflicts: list[RoleConflict],
    doubts: list[Doubt],
    wishes: Wishes,
) -> list[tuple[Table, Role]]:
    """Return a table with all later ones that are called like other roles of its thing.

    What kept others out is added to the conflicts, and to the doubts where it may be otherwise. Where all
    that the names of two keys have in common is a word like *no*, the names say nothing of the thing: only
    values do that are in both.
    """
    one = tables[place]
    group: list[tuple[Table, Role]] = []
    for other in tables[place + 1 :] if could_be_roles(one) else ():
        pair = named_alike(one, other) if could_be_roles(other) else None
        if pair is None or (group and group[0][1] != pair.one) or _wished("different", one, other, wishes):
            continue
        wished = _wished("same", one, other, wishes)
        nameless = is_nameless(pair, one) and not wished
        if nameless and not _share_values(_keys(one), _keys(other)):
            if _of_one_code(_keys(one), _keys(other)):
                doubts.append(_written_alike(one, other))
            continue
        roles = (pair.one, pair.other)
        conflict = next(
            (
                found
                for table, role in group or [(one, roles[0])]
                if (found := _conflict(table, role, other, roles[1], wished))
            ),
            None,
        )
        if conflict is not None:
            conflicts += [] if nameless and not _mostly_agree(one, pair, other) else [conflict]
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


def _conflict(
    one: Table, first: Role, other: Table, second: Role, any_form: bool = False
) -> RoleConflict | None:
    """Return what keeps two tables from being one: a key with other facts, or keys that are not alike.

    Only what both roles say is compared. ``any_form`` says that keys need not be alike.
    """
    mine, theirs = _what_both_say(one, first, other, second)
    numbers = mine.row_numbers.tolist()
    stored = {row[0]: (row, number) for row, number in zip(mine.rows(), numbers, strict=True)}
    for row, number in zip(theirs.rows(), theirs.row_numbers.tolist(), strict=True):
        known, before = stored.get(row[0], (row, number))
        if known != row:
            return RoleConflict(one.name, other.name, row[0], known, row, (before, number))
    if not any_form and not _same_kind(set(stored), {row[0] for row in theirs.rows()}):
        return RoleConflict(one.name, other.name, "", (), (), ())
    return None


def _what_both_say(one: Table, first: Role, other: Table, second: Role) -> tuple[Relation, Relation]:
    """Return the columns that two roles share, the key first, as each of the tables has them."""
    here, there = dict(first.columns), dict(second.columns)
    key = next(name for name, flat in here.items() if flat == one.primary_key[0])
    shared = [key, *(name for name in here if name in there and name != key)]
    mine = one.rows.project([here[name] for name in shared])
    return mine, other.rows.project([there[name] for name in shared])


def _mostly_agree(one: Table, pair: Pair, other: Table) -> bool:
    """Return whether two roles say the same of most of the keys that both have."""
    both = _what_both_say(one, pair.one, other, pair.other)
    mine, theirs = ({row[0]: row for row in side.rows()} for side in both)
    common = mine.keys() & theirs.keys()
    return 2 * sum(mine[key] == theirs[key] for key in common) >= len(common)


def _together(group: Sequence[tuple[Table, Role]]) -> Table:
    """Return the one table of several roles; what only some of them tell is blank for the others' things."""
    one, first = group[0]
    names = list(dict.fromkeys(name for _, role in group for name, _ in role.columns))
    key = next(name for name, flat in first.columns if flat == one.primary_key[0])
    stored: dict[str, dict[str, str]] = {}
    numbers: dict[str, int] = {}
    for table, role in group:
        rows = table.rows.project([flat for _, flat in role.columns])
        for row, number in zip(rows.rows(), rows.row_numbers.tolist(), strict=True):
            cells = dict(zip((name for name, _ in role.columns), row, strict=True))
            stored.setdefault(cells[key], {}).update(cells)
            numbers.setdefault(cells[key], number)
    lines = [[cells.get(name, "") for name in names] for cells in stored.values()]
    rows = Relation(
        Relation.from_rows(names, lines).columns, np.array(list(numbers.values()), dtype=np.int64)
    )
    sources = {name: flat for _, role in reversed(group) for name, flat in role.columns}
    keys = [_in_role(table_key, role) for table, role in group for table_key in table.keys]
    links = [link for table, role in group for link in _links(table, role)]
    return Table(
        name=_called(group),
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
        keys=tuple(
            one
            for one in dict.fromkeys(keys)
            if one == (key,) or all(set(one) <= {*dict(role.columns)} for _, role in group)
            if len(set(rows.project(one).rows())) == rows.row_count
        ),
        foreign_keys=tuple({(link.columns, link.table): link for link in reversed(links)}.values()),
        form=one.form,
        rows=rows,
        roles=tuple(role for _, role in group),
        apart_from=one.apart_from,
        identities=tuple(identity for table, _ in group for identity in table.identities),
    )


def _called(group: Sequence[tuple[Table, Role]]) -> str:
    """Return the name of the one table: without the words of the role, or the shortest of their names."""
    one, first = group[0]
    place = place_of(first.words, words(one.name))
    cut = cut_words(one.name, place, len(first.words)) if place is not None else ""
    return cut or min((table.name for table, _ in group), key=lambda name: len(words(name)))


def _in_role(columns: Sequence[str], role: Role) -> tuple[str, ...]:
    rest = {flat: name for name, flat in role.columns}
    return tuple(rest[name] for name in columns)


def _links(table: Table, role: Role) -> tuple[ForeignKey, ...]:
    """Return the references of a table in a role with the names of the merged table."""
    return tuple(replace(link, columns=_in_role(link.columns, role)) for link in table.foreign_keys)


def _same_kind(here: set[str], there: set[str]) -> bool:
    """Return whether two sets of keys share values, or all have the same few shapes."""
    if _share_values(here, there):
        return True
    shapes = {shape(value) for value in here | there}
    return len(shapes) == 1 and any(mark.isdigit() for mark in next(iter(shapes)))


def _share_values(here: Collection[str], there: Collection[str]) -> bool:
    return len(set(here) & set(there)) >= _SHARED_VALUES * min(len(here), len(there))


def _of_one_code(here: Collection[str], there: Collection[str]) -> bool:
    """Return whether all keys have the same shape, and the same letters in it: K-001 and K-207."""
    forms = {"".join("9" if mark.isdecimal() else mark for mark in value) for value in (*here, *there)}
    return len(forms) == 1 and any(mark.isalpha() for mark in next(iter(forms)))


def _keys(table: Table) -> Collection[str]:
    return table.rows.column(table.primary_key[0]).value_set


def _written_alike(one: Table, other: Table) -> Doubt:
    here, there = one.primary_key[0], other.primary_key[0]
    told = (
        f"{here} and {there} are written alike ({min(_keys(one))} and {min(_keys(other))}) and described by "
        "the same words, but have next to no value in common"
    )
    return Doubt((here,), (there,), False, told, _BITS_OF_A_DOUBT)


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
