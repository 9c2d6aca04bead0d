"""One design for several sources: each decomposed by itself, and the tables for the same things merged.

A merged table holds the things of all its members. What its members say alike is stored once; where two
differ about a thing, both columns stay, so that every source can be given back. A source whose own rows are
only some of the things (a register) keeps a table of its own that refers to the merged one.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from graphlib import CycleError

import numpy as np

from pravix.design.checks import with_checks
from pravix.design.links import with_agreeing_types
from pravix.design.merging import Differing, Group, MergedRows, groups_of, names_of
from pravix.design.model import Design, ForeignKey, Table, TableColumn
from pravix.design.ordering import creation_order
from pravix.design.rejoin import referred_places
from pravix.design.renaming import with_table_names
from pravix.design.restyle import renamed
from pravix.discovery.exceptions import exceptions
from pravix.judgement.linking import Link, linked
from pravix.ledger.wishes import Wishes
from pravix.relation.grouping import blank_in, is_unique
from pravix.relation.relation import Column, Relation
from pravix.relation.types import column_type
from pravix.theory.dependency import Dependency
from pravix.theory.normal_forms import normal_form
from pravix.theory.projection import projected


@dataclass(frozen=True)
class Merge:
    """A table that stands for tables of several sources.

    ``members`` are the sources, each with the table of its own that it keeps beside it, or "". ``same`` says
    which columns were found to say the same, each by all its names as ``source.column``; ``differing`` which
    seem to be meant for the same but differ.
    """

    table: str
    members: tuple[tuple[str, str], ...]
    same: tuple[tuple[str, ...], ...]
    differing: tuple[Differing, ...]


@dataclass(frozen=True)
class Unkept:
    """A reference of one source's table that rows of another break: the values that find nothing."""

    table: str
    link: ForeignKey
    values: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, eq=False)
class Joint:
    """One design for several sources.

    ``tables`` stand in an order in which they can be created and loaded. ``parts`` hold the design of each
    source in the names of these tables, each table with the source's own columns and rows; ``origins`` the
    columns of the sources that each column holds, by table and column. ``rules`` are those known within each
    merged table. ``links`` were found between tables of different sources and made references; ``broken``
    are those that were not, because some of their values find nothing, and ``unkept`` the references of one
    source that rows of another break. ``doubted`` are such rules, by table.
    """

    tables: tuple[Table, ...]
    parts: Mapping[str, Design]
    merges: tuple[Merge, ...]
    origins: Mapping[str, Mapping[str, tuple[str, ...]]]
    rules: Mapping[str, tuple[Dependency, ...]]
    links: tuple[Link, ...]
    broken: tuple[Link, ...]
    unkept: tuple[Unkept, ...]
    doubted: tuple[tuple[str, Dependency], ...]

    def sources_of(self, table: str) -> tuple[str, ...]:
        """Return the sources that state something in a table."""
        return tuple(
            source for source, part in self.parts.items() if any(one.name == table for one in part.tables)
        )


def joint_design(designs: Mapping[str, Design]) -> Joint:
    """Return one design for the designs of several sources (without surrogates), by the name of the source.

    Tables that would refer to each other in a circle are not merged. Cost: each pair of tables is compared,
    linear in its cells, and the links are searched as ``linked`` does.
    """
    groups = sorted(groups_of(designs), key=lambda group: -group.bits)
    while True:
        try:
            return _joined(designs, groups)
        except CycleError:
            groups.pop()


def _joined(designs: Mapping[str, Design], groups: Sequence[Group]) -> Joint:
    names, called = names_of(groups, designs)
    merged = dict(zip(called, groups, strict=True))
    parts = {}
    for source, design in designs.items():
        wanted = {table.name: names[source, table.name] for table in design.tables}
        again = with_table_names(design, wanted)
        parts[source] = _part(source, design, again, names, merged)
    pieces: dict[str, list[Table]] = {}
    for part in parts.values():
        for table in part.tables:
            pieces.setdefault(table.name, []).append(table)
    tables = {
        name: _merged_table(name, own, merged[name].rows) if name in merged else _for_all(own[0])
        for name, own in pieces.items()
    }
    tables, unkept = _linked(tables, pieces)
    tables, links, broken = _with_found_links(_in_order(tables), parts)
    rules, doubted = _rules(tables, parts, merged)
    formed = [
        replace(table, form=normal_form(table.column_names, rules[table.name]).form)
        if table.name in rules
        else table
        for table in _in_order(tables).values()
    ]
    return Joint(
        tables=with_checks(with_agreeing_types(formed), Wishes()),
        parts=parts,
        merges=tuple(_merge(name, group, names, parts) for name, group in merged.items()),
        origins={
            name: {column: _told(pairs) for column, pairs in _origins(name, parts).items()} for name in tables
        },
        rules=rules,
        links=links,
        broken=broken,
        unkept=unkept,
        doubted=doubted,
    )


def _part(
    source: str,
    found: Design,
    design: Design,
    names: Mapping[tuple[str, str], str],
    merged: Mapping[str, Group],
) -> Design:
    """Return the design of a source in the names of the joint one; ``found`` is it as it was compared."""
    inside = {
        member.table.name: (name, group.key_of(member), group.rows.called[member])
        for name, group in merged.items()
        for member in group.members
        if member.source == source
    }
    tables: list[Table] = []
    columns: dict[str, dict[str, str]] = {}
    final: dict[str, str] = {}
    for old, table in zip(found.tables, design.tables, strict=True):
        name, key, own = inside.get(old.name, ("", (), {}))
        kept = table
        if name and names[source, old.name] != name:
            shared, kept = _split(table, tuple(own), key, name)
            tables.append(shared)
            columns[name] = own
            final[name] = name
            own = {}
        tables.append(kept)
        columns[kept.name] = {column: own.get(column, column) for column in kept.column_names}
        final[kept.name] = names[source, old.name]
    bare = [replace(table, checks=()) for table in tables]
    whole = replace(design.whole, main=final[design.main])
    return replace(design, tables=renamed(bare, final, columns), whole=whole)


def _split(table: Table, moved: tuple[str, ...], key: tuple[str, ...], name: str) -> tuple[Table, Table]:
    """Return a table ``name`` for the things that a table is about, and the table without what went there.

    ``moved`` are the columns that go, of which the ``key`` stays as well and refers to it.
    """
    gone = set(moved) - set(key)
    shared = replace(
        table,
        name=name,
        columns=tuple(column for column in table.columns if column.name in moved),
        keys=(key,),
        foreign_keys=tuple(link for link in table.foreign_keys if set(link.columns) <= gone),
        rows=table.rows.project([column for column in table.column_names if column in moved]),
    )
    kept = [column for column in table.column_names if column not in gone]
    back = ForeignKey(key, name, key, optional=False, single=True)
    links = [link for link in table.foreign_keys if not set(link.columns) & gone]
    own = replace(
        table,
        columns=tuple(column for column in table.columns if column.name in kept),
        keys=tuple(other for other in table.keys if not set(other) & gone),
        foreign_keys=(*links, back),
        rows=table.rows.project(kept),
    )
    return shared, own


def _merged_table(name: str, pieces: Sequence[Table], rows: MergedRows) -> Table:
    """Return a merged table, still without references."""
    cells = {column: [cell or "" for cell in texts] for column, texts in rows.cells.items()}
    columns = tuple(Column.from_texts(column, texts) for column, texts in cells.items())
    relation = Relation(columns, np.arange(1, len(columns[0].codes) + 1, dtype=np.int64))
    others = [key for piece in pieces for key in piece.keys if set(key) != set(rows.key)]
    unique = [key for key in dict.fromkeys(others) if is_unique(relation, key)]
    return replace(
        pieces[0],
        name=name,
        columns=tuple(
            TableColumn(column.name, None, column_type(column), column.blanks > 0) for column in columns
        ),
        keys=(rows.key, *unique),
        foreign_keys=(),
        rows=relation,
        roles=(),
    )


def _for_all(table: Table) -> Table:
    """Return a table of one source as one of the joint design: its columns stand for no flat column there.

    Its roles stay: nothing but its source refers to it in several.
    """
    columns = tuple(replace(column, source=None, stands_for=None) for column in table.columns)
    return replace(table, columns=columns)


def _linked(
    tables: Mapping[str, Table], pieces: Mapping[str, Sequence[Table]]
) -> tuple[dict[str, Table], tuple[Unkept, ...]]:
    """Return the tables with the references of all their pieces, and those that other rows break."""
    found, unkept = {}, []
    for name, table in tables.items():
        links = {}
        for link in (link for piece in pieces[name] for link in piece.foreign_keys):
            other = tables[link.table]
            if other is table or not _refers_to_key(other, link.references):
                continue
            places = referred_places(table, link, other)
            blank = blank_in(table.rows, link.columns)
            lost = table.rows.take(np.flatnonzero((places < 0) & ~blank)).project(link.columns)
            if lost.row_count:
                unkept.append(Unkept(name, link, tuple(dict.fromkeys(lost.rows()))))
                continue
            single = _single(table, link.columns)
            links[frozenset(link.columns), link.table] = replace(
                link, optional=bool(blank.any()), single=single
            )
        found[name] = replace(table, foreign_keys=tuple(links.values()))
    return found, tuple(unkept)


def _single(table: Table, columns: Sequence[str]) -> bool:
    return any(set(key) <= set(columns) for key in table.keys)


def _refers_to_key(table: Table, columns: Sequence[str]) -> bool:
    return any(set(key) == set(columns) for key in table.keys)


def _in_order(tables: Mapping[str, Table]) -> dict[str, Table]:
    """Return the tables, each after those that it refers to. Raises CycleError where that is impossible."""
    order = creation_order(tables.values())
    if order is None:
        raise CycleError
    return {name: tables[name] for name in order}


def _with_found_links(
    tables: dict[str, Table], parts: Mapping[str, Design]
) -> tuple[dict[str, Table], tuple[Link, ...], tuple[Link, ...]]:
    """Return the tables with references between those of different sources, these, and those that are broken.

    A reference that would close a circle is left out.
    """
    inside = [{table.name for table in part.tables} for part in parts.values()]
    made, broken = [], []
    for link in linked({name: table.rows for name, table in tables.items()}).links:
        here, there = link.inclusion.here, link.inclusion.there
        if any({here.table, there.table} <= names for names in inside):
            continue
        if not link.inclusion.exact:
            broken.append(link)
            continue
        table = tables[here.table]
        known = any(set(one.columns) == set(here.names) for one in table.foreign_keys)
        if known or not _refers_to_key(tables[there.table], there.names):
            continue
        optional = bool(blank_in(table.rows, here.names).any())
        single = _single(table, here.names)
        new = ForeignKey(here.names, there.table, there.names, optional, single)
        tried = tables | {table.name: replace(table, foreign_keys=(*table.foreign_keys, new))}
        try:
            tables = _in_order(tried)
        except CycleError:
            continue
        made.append(link)
    return tables, tuple(made), tuple(broken)


def _rules(
    tables: Mapping[str, Table], parts: Mapping[str, Design], merged: Mapping[str, Group]
) -> tuple[dict[str, tuple[Dependency, ...]], tuple[tuple[str, Dependency], ...]]:
    """Return the rules within each merged table, and those of a source that rows of another break."""
    rules, doubted = {}, []
    for name in merged:
        table = tables[name]
        known = [Dependency(frozenset(table.primary_key), column) for column in table.described]
        for part in parts.values():
            for piece in part.tables:
                if piece.name != name:
                    continue
                own = dict(reversed(piece.flat_names.items()))
                flat = {column: one for one, column in own.items()}
                for rule in projected(part.scope_of_table(piece).cover, set(flat.values())):
                    here = Dependency(frozenset(own[one] for one in rule.determinant), own[rule.dependent])
                    if len(exceptions(table.rows, here)):
                        doubted.append((name, here))
                    else:
                        known.append(here)
        rules[name] = tuple(dict.fromkeys(known))
    return rules, tuple(dict.fromkeys(doubted))


def _origins(name: str, parts: Mapping[str, Design]) -> dict[str, list[tuple[str, str]]]:
    """Return the sources and their columns that each column of a table holds."""
    found: dict[str, list[tuple[str, str]]] = {}
    for source, part in parts.items():
        for table in part.tables:
            if table.name == name:
                for flat, own in table.flat_names.items():
                    found.setdefault(own, []).append((source, flat))
    return found


def _told(origins: Sequence[tuple[str, str]]) -> tuple[str, ...]:
    return tuple(f"{source}.{flat}" for source, flat in origins)


def _merge(
    name: str,
    group: Group,
    names: Mapping[tuple[str, str], str],
    parts: Mapping[str, Design],
) -> Merge:
    members = []
    for member in group.members:
        own = names[member.source, member.table.name]
        members.append((member.source, "" if own == name else own))
    origins = _origins(name, parts)
    stated = [origins[column] for column in group.rows.cells]
    same = tuple(_told(pairs) for pairs in stated if len({source for source, _ in pairs}) > 1)
    return Merge(name, tuple(members), same, tuple(group.rows.differing))
