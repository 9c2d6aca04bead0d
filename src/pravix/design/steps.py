"""The steps from the flat table to the design: what moved where, and what redundancy that removed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from pravix.design.model import Mention, Repetition, Step, Table
from pravix.first_normal_form.repair import readable
from pravix.relation.grouping import blank_in, groups_by
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency
from pravix.theory.normal_forms import Breach, breach_of
from pravix.theory.rule_set import RuleSet


def steps_to(
    relation: Relation,
    tables: Sequence[Table],
    main: Table,
    keys: Sequence[frozenset[str]],
    rules: RuleSet,
) -> tuple[Step, ...]:
    """Return one step for each table other than the main one that says something about its key.

    Partial dependencies on the file's ``keys`` come first (second normal form), then transitive ones
    (third), each from the tables near the main one outwards.
    """
    parents = _parents(tables, main)
    steps = [
        _step(relation, table, parents[table.name][0], keys, rules)
        for table in sorted(tables, key=lambda table: parents[table.name][1])
        if table is not main and table.described
    ]
    order = (Breach.PARTIAL, Breach.TRANSITIVE, Breach.PRIME)
    return tuple(sorted(steps, key=lambda step: order.index(step.breach)))


def _parents(tables: Sequence[Table], main: Table) -> dict[str, tuple[str, int]]:
    """Return, for each table, the table that it is split from and its distance from the main one.

    That is the nearest table that refers to it; the main table where none does.
    """
    parents = {main.name: (main.name, 0)}
    layer = [main]
    while layer:
        following = []
        for table in layer:
            for link in table.foreign_keys:
                if link.table not in parents:
                    parents[link.table] = (table.name, parents[table.name][1] + 1)
                    following.append(link.table)
        if not following:
            following = [table.name for table in tables if table.name not in parents][:1]
            parents.update(dict.fromkeys(following, (main.name, 1)))
        layer = [table for table in tables if table.name in following]
    return parents


def _step(
    relation: Relation,
    table: Table,
    parent: str,
    keys: Sequence[frozenset[str]],
    rules: RuleSet,
) -> Step:
    determinant = table.primary_key
    breaches = [breach_of(Dependency(frozenset(determinant), name), keys) for name in table.described]
    whole = any(set(key) <= rules.closure(determinant) for key in keys)
    graver = [breach for breach in breaches if breach is not Breach.PRIME and not whole]
    stating = relation.without(blank_in(relation, determinant))
    return Step(
        determinant=determinant,
        moved=table.described,
        breach=graver[0] if graver else Breach.PRIME,
        from_table=parent,
        to_table=table.name,
        stored_before=stating.row_count,
        stored_now=table.rows.row_count,
        repetition=_repetition(stating, table),
        only=_only_mention(stating, table),
    )


def _repetition(relation: Relation, table: Table) -> Repetition | None:
    """Return the most repeated determinant value, the earliest in the file of equally frequent ones."""
    if relation.row_count == 0:
        return None
    groups = groups_by(relation, table.primary_key)
    counts = np.bincount(groups)
    group = int(np.argmax(counts))
    if counts[group] < 2:
        return None
    first, second = np.flatnonzero(groups == group)[:2].tolist()
    return Repetition(
        key=tuple(relation.column(name).text(first) for name in table.primary_key),
        facts=tuple(readable(relation.column(name).text(first)) for name in table.described),
        times=int(counts[group]),
        rows=(int(relation.row_numbers[first]), int(relation.row_numbers[second])),
    )


def _only_mention(relation: Relation, table: Table) -> Mention | None:
    """Return the first determinant value that stands in one row only, with a fact beside it."""
    if relation.row_count == 0 or not table.primary_key or not table.described:
        return None
    groups = groups_by(relation, table.primary_key)
    alone = np.bincount(groups)[groups] == 1
    alone &= ~blank_in(relation, table.described[:1])
    if not alone.any():
        return None
    position = int(np.argmax(alone))
    return Mention(
        key=tuple(relation.column(name).text(position) for name in table.primary_key),
        facts=tuple(readable(relation.column(name).text(position)) for name in table.described),
        row=int(relation.row_numbers[position]),
    )
