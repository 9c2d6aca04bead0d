"""Tables before they are told: their columns, keys and rows, then their names and links."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from graphlib import TopologicalSorter

import numpy as np

from pravix.design.model import ForeignKey, Table, TableColumn
from pravix.design.naming import table_names
from pravix.discovery.exceptions import exceptions
from pravix.relation.grouping import blank_in, distinct_rows
from pravix.relation.relation import BLANK, Relation
from pravix.relation.types import column_type
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import Scheme


@dataclass(frozen=True, eq=False)
class Draft:
    """A table before it has a name and links: its keys, the primary one first, and its rows."""

    keys: tuple[tuple[str, ...], ...]
    rows: Relation

    def is_unique(self, columns: Sequence[str]) -> bool:
        """Whether the columns hold a key, so that no two rows agree on them."""
        return any(set(key) <= set(columns) for key in self.keys)


def obeying(relation: Relation, trusted: Collection[Dependency]) -> Relation:
    """Return the rows without those that break a trusted rule, or that no table for it could hold."""
    for rule in trusted:
        left_out = exceptions(relation, rule)
        keyless = blank_in(relation, rule.determinant) & (relation.column(rule.dependent).codes != BLANK)
        left_out = np.union1d(left_out, np.flatnonzero(keyless))
        if len(left_out):
            relation = relation.take(np.setdiff1d(np.arange(relation.row_count), left_out))
    return relation


def drafted(scheme: Scheme, relation: Relation, rules: RuleSet, row_key: frozenset[str]) -> Draft:
    """Return the keys and rows of a table. The primary key has no blanks; the row key goes first."""
    keys = list(rules.keys_of(scheme))
    complete = [key for key in keys if not blank_in(relation.project(key), key).any()]
    leading = row_key if row_key in keys else (complete or keys)[0]
    keys = [leading, *(key for key in keys if key != leading)]
    return _filled([tuple(in_order(key, relation.names)) for key in keys], scheme.columns, relation)


def widened(draft: Draft, columns: Collection[str], relation: Relation) -> Draft:
    """Return a draft that also holds the columns named, which its keys determine."""
    return _filled(draft.keys, {*draft.rows.names, *columns}, relation)


def _filled(keys: Sequence[tuple[str, ...]], columns: Collection[str], relation: Relation) -> Draft:
    rows = distinct_rows(relation, in_order(columns, relation.names), keys[0])
    return Draft(tuple(keys), rows.without(blank_in(rows, keys[0])))


def named_and_linked(drafts: Sequence[Draft], header: Sequence[str], rules: RuleSet) -> tuple[Table, ...]:
    """Return the tables, named and linked, each after the tables that it refers to."""
    rows = {draft.keys[0]: draft.rows for draft in drafts}
    called = table_names([draft.keys[0] for draft in drafts], header, rows)
    names = [one.name for one in called]
    guessed = {one.name for one in called if one.guess}
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
                    stands_for=column.name,
                )
                for column in by_name[name].rows.columns
            ),
            keys=by_name[name].keys,
            foreign_keys=links[name],
            form=rules.form(by_name[name].rows.names).form,
            rows=by_name[name].rows,
            name_guessed=name in guessed,
            identities=(name,),
        )
        for name in order
    )


def _links(draft: Draft, others: Mapping[str, Draft]) -> tuple[ForeignKey, ...]:
    """Return the references of a table to keys of the others, to the primary key where it is there.

    A reference that another one makes needless is left out: where (place, day) refers to a table that
    itself refers by place, place alone need not. Nor does a table refer to one that says all that it says:
    that one refers to it.
    """
    inside = set(draft.rows.names)
    referred = {
        name: key
        for name, other in others.items()
        for key in [next((key for key in other.keys if set(key) <= inside), ())]
        if other is not draft and key and not inside < set(other.rows.names)
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
