"""From a judgement to a design: synthesis, keys, links, names, rows, steps and proof."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from graphlib import TopologicalSorter

import numpy as np

from pravix.atomic.repair import Repaired
from pravix.design.children import broken_children, with_children
from pravix.design.model import Design, ForeignKey, Table, TableColumn
from pravix.design.naming import free_name, table_names
from pravix.design.proof import prove
from pravix.design.roles import broken_roles, new_names, with_roles
from pravix.design.steps import steps_to
from pravix.discovery.exceptions import exceptions
from pravix.judgement.judge import Judgement, by_key
from pravix.relation.grouping import blank_in, distinct_rows
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import column_type
from pravix.theory.closure import closure
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import normal_form
from pravix.theory.synthesis import Scheme, synthesise, table_keys

ROW_NUMBER = "row_no"


@dataclass(frozen=True, eq=False)
class _Draft:
    """A table before it has a name and links: its keys, the primary one first, and its rows."""

    keys: tuple[tuple[str, ...], ...]
    rows: Relation

    def is_unique(self, columns: Sequence[str]) -> bool:
        """Whether the columns hold a key, so that no two rows agree on them."""
        return any(set(key) <= set(columns) for key in self.keys)


def designed(repaired: Repaired, judgement: Judgement) -> Design:
    """Return the design in third normal form that rests on a judgement of a repaired relation.

    Where no combination of columns identifies a row (there are equal rows, or every unique combination
    has a blank), the row number becomes an added column and the key. Rows that break an accepted rule
    are left out of the tables, so that the proof names them. Cost: the theory's, and n log n in the
    rows for each table.
    """
    relation = repaired.relation
    rows = relation if judgement.row_key is not None else _numbered(relation)
    row_key = judgement.row_key or frozenset({rows.names[-1]})
    foundation = (*judgement.trusted, *by_key(row_key, rows.names))

    cover = canonical_cover(foundation, judgement.rank)
    obeying = _obeying(rows, judgement.trusted)
    drafts = [
        _drafted(scheme, obeying, cover, row_key)
        for scheme in synthesise(rows.names, foundation, row_key, judgement.rank)
    ]
    tables = _tables(drafts, repaired.original.names, cover)
    main = next(table for table in tables if set(rows.names) <= closure(table.primary_key, cover))
    merged, conflicts = with_roles(tables)
    names = new_names(tables, merged)
    steps = steps_to(rows, tables, main, candidate_keys(rows.names, cover), cover)
    final = with_children(merged, repaired.bundles)
    unrepaired = {
        *repaired.differing_rows(),
        *(row for _, row in broken_children(merged, final, repaired.bundles)),
    }
    proof = prove(relation, tables, main, cover)
    return Design(
        repaired=repaired,
        tables=final,
        main=main.name,
        row_key=tuple(in_order(row_key, rows.names)),
        cover=cover,
        steps=tuple(
            replace(step, from_table=names[step.from_table], to_table=names[step.to_table]) for step in steps
        ),
        proof=replace(
            proof,
            unrepaired_rows=tuple(sorted(unrepaired)),
            broken_roles=broken_roles(tables, merged),
        ),
        searched_to=judgement.searched_to,
        conflicts=conflicts,
    )


def _numbered(relation: Relation) -> Relation:
    """Return the relation with the row number as one more column."""
    name = free_name(ROW_NUMBER, relation.names)
    numbers = Column.from_texts(name, map(str, relation.row_numbers.tolist()))
    return Relation((*relation.columns, numbers), relation.row_numbers)


def _obeying(relation: Relation, trusted: Collection[Dependency]) -> Relation:
    """Return the rows without those that break a trusted rule, or that no table for it could hold."""
    for rule in trusted:
        relation = relation.take(np.setdiff1d(np.arange(relation.row_count), exceptions(relation, rule)))
        keyless = blank_in(relation, rule.determinant) & (relation.column(rule.dependent).codes != BLANK)
        relation = relation.take(np.flatnonzero(~keyless))
    return relation


def _drafted(
    scheme: Scheme, relation: Relation, cover: Collection[Dependency], row_key: frozenset[str]
) -> _Draft:
    """Return the keys and rows of a table. The primary key has no blanks; the row key goes first."""
    keys = list(table_keys(scheme, cover))
    complete = [key for key in keys if not blank_in(relation.project(key), key).any()]
    leading = row_key if row_key in keys else (complete or keys)[0]
    keys = [leading, *(key for key in keys if key != leading)]
    rows = distinct_rows(relation, in_order(scheme.columns, relation.names))
    rows = rows.take(np.flatnonzero(~blank_in(rows, leading)))
    return _Draft(tuple(tuple(in_order(key, relation.names)) for key in keys), rows)


def _tables(
    drafts: Sequence[_Draft], header: Sequence[str], cover: Collection[Dependency]
) -> tuple[Table, ...]:
    """Return the tables, named and linked, each after the tables that it refers to."""
    names = table_names([draft.keys[0] for draft in drafts], header)
    by_name = dict(zip(names, drafts, strict=True))
    links = {name: _links(draft, by_name) for name, draft in by_name.items()}
    order = TopologicalSorter({name: [link.table for link in links[name]] for name in names}).static_order()
    return tuple(
        Table(
            name=name,
            columns=tuple(
                TableColumn(
                    name=column.name,
                    source=column.name if column.name in header else None,
                    type=column_type(column),
                    nullable=column.blanks > 0,
                )
                for column in by_name[name].rows.columns
            ),
            keys=by_name[name].keys,
            foreign_keys=links[name],
            form=normal_form(by_name[name].rows.names, cover).form,
            rows=by_name[name].rows,
        )
        for name in order
    )


def _links(draft: _Draft, others: Mapping[str, _Draft]) -> tuple[ForeignKey, ...]:
    """Return the references of a table to keys of the others, to the primary key where it is there.

    A reference that another one makes needless is left out: where (place, day) refers to a table that
    itself refers by place, place alone need not.
    """
    inside = set(draft.rows.names)
    referred = {
        name: key
        for name, other in others.items()
        for key in [next((key for key in other.keys if set(key) <= inside), ())]
        if other is not draft and key
    }
    blank = {column.name for column in draft.rows.columns if column.blanks}
    links = []
    for name, key in referred.items():
        wider = [wide for wide in referred.values() if set(key) < set(wide) and not blank & set(wide)]
        if not wider:
            links.append(
                ForeignKey(
                    columns=key,
                    table=name,
                    references=key,
                    optional=bool(blank & set(key)),
                    single=draft.is_unique(key),
                )
            )
    return tuple(links)
