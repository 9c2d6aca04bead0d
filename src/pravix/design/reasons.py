"""Why a table exists, why its key was chosen, why a link is as it is, and why a column is not elsewhere."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from pravix.design.costs import costs_of
from pravix.design.links import found_cardinality
from pravix.design.model import Design, ForeignKey, Table
from pravix.judgement.use import Use
from pravix.relation.grouping import blank_in, groups_by
from pravix.relation.texts import lengths
from pravix.theory.closure import closure
from pravix.theory.dependency import in_order
from pravix.wording import counted, joined

_SHORT = 12


def table_reasons(design: Design, table: Table) -> list[str]:
    """Return why a table exists, what it buys and what it costs, one sentence each."""
    told = []
    key = joined(table.primary_key)
    if table.name == design.main:
        told.append(f"{table.name} has one row for each row of the file, identified by {key}.")
    if table.made_from is not None:
        made = table.made_from
        told.append(f"{table.name} holds the {made.parts_of} {joined(made.sources)}, one in a row.")
    if table.apart_from:
        told.append(f"{table.name} was set apart from {table.apart_from}, as the ledger wishes.")
    if table.roles:
        roles = joined([role.name for role in table.roles])
        told.append(f"{table.name} serves the roles {roles}: their columns hold the same kind of thing.")
    for step in design.steps:
        if step.to_table == table.name:
            moved = joined(step.moved)
            told.append(
                f"{table.name} exists because {moved} {'is' if len(step.moved) == 1 else 'are'} fixed by "
                f"{joined(step.determinant)}: the file states this {counted(step.stored_before, 'time')}, "
                f"the table {counted(step.stored_now, 'time')}."
            )
    account = next(one for one in costs_of(design).tables if one.table is table)
    if account.saves:
        cost = f"{counted(account.joins, 'join')} and {counted(account.stores, 'cell')} of its own"
        told.append(f"It saves {counted(account.saves, 'repeated cell')} and costs {cost}.")
    return told + [remark.text for remark in design.remarks if remark.table == table.name]


def key_reasons(table: Table, uses: Mapping[str, Use]) -> list[str]:
    """Return why the primary key was chosen among the candidate keys, one sentence for each key."""
    rows = counted(table.rows.total, "row")
    if not table.primary_key:
        return [f"{table.name} has one row and needs no key."]
    if table.surrogate:
        first = (
            f"{table.surrogate} is an added number, as the ledger wishes; it says nothing about the thing."
        )
    else:
        own = _traits(table, table.primary_key, uses)
        differ = "it differs" if len(table.primary_key) == 1 else "the combination differs"
        first = f"The primary key is {joined(table.primary_key)}: {differ} in each of the {rows}, {own}."
    told = [first]
    for key in table.keys[1:]:
        traits = _traits(table, key, uses)
        told.append(f"{joined(key)} would identify a row as well ({traits}) and is kept unique.")
    if len(table.keys) == 1:
        told.append("No other columns of the table identify its rows by a rule that is believed.")
    return told


def _traits(table: Table, key: Sequence[str], uses: Mapping[str, Use]) -> str:
    """Return what speaks for and against a key: blanks, length, kind of thing."""
    flat = {name: column for column, name in table.flat_names.items()}
    blank = any(table.rows.column(name).blanks for name in key)
    longest = sum(int(lengths(table.rows.column(name).present_values).max(initial=0)) for name in key)
    kinds = list(dict.fromkeys(uses[flat[name]].value for name in key if flat.get(name) in uses))
    told = ["sometimes blank" if blank else "never blank"]
    told.append(f"{'short' if longest <= _SHORT else 'long'} (at most {counted(longest, 'character')})")
    if kinds:
        told.append(f"by its form {_a(joined(kinds))}")
    return joined(told)


def _a(words: str) -> str:
    return f"{'an' if words[0] in 'aeiou' else 'a'} {words}"


def link_reasons(design: Design, table: Table, link: ForeignKey) -> list[str]:
    """Return why a table refers to another as it does, one sentence each."""
    other = design.table(link.table)
    found = found_cardinality(table, link, other)
    by = joined(link.columns)
    told = [f"{table.name} refers to {other.name} by {by}, which is a key there."]
    if link.single:
        told.append(f"{by} is unique in {table.name} too, so it is one to one.")
    else:
        most = counted(found.most, "row")
        told.append(
            f"One row of {other.name} is referred to by up to {most}, so {table.name} is the many side."
        )
    if link.optional:
        told.append(f"{by} is blank in {counted(found.blank, 'row')}, so the reference is optional.")
    else:
        told.append(f"{by} is never blank, so every row of {table.name} must have it.")
    return [*told, rule_reason(table, link)]


def rule_reason(table: Table, link: ForeignKey) -> str:
    """Return what happens on delete and update, and why."""
    if (link.on_delete, link.on_update) == ("restrict", "restrict"):
        return (
            f"A row of {link.table} cannot be deleted, nor its key changed, while rows of {table.name} "
            "refer to it: they stand for things of their own."
        )
    if (link.on_delete, link.on_update) == ("cascade", "cascade"):
        return (
            f"When a row of {link.table} is deleted or its key changed, its rows of {table.name} follow: "
            "they are parts that cannot stand alone."
        )
    return f"On delete: {link.on_delete}; on update: {link.on_update}, as the ledger wishes."


def why_not(design: Design, column: str, table: Table) -> list[str]:
    """Return why a flat column does not live in a table: what would be repeated or could not be stored."""
    home = design.home(column)
    if table is home:
        return [f"{column} does live in {table.name}."]
    if column in table.flat_names:
        return [f"{column} does stand in {table.name}, as a reference to {home.name}, where it lives."]
    key = [name for name in table.flat_names if table.flat_names[name] in table.natural_key]
    scope = design.scope_of([*key, column])
    reached = closure(key, scope.cover)
    if column not in reached:
        return _several(design, column, table, key)
    determinant = [name for name in home.flat_names if home.flat_names[name] in home.natural_key]
    determinant = [name for name in determinant if name in scope.names][: len(home.natural_key)]
    rows, once = table.rows.total, home.rows.total
    if column in determinant:
        return [f"{column} is the key of {home.name}; {table.name} reaches it by its references."]
    return [
        f"A row of {table.name} does have one {column}, but only by way of {joined(determinant)}.",
        f"There it would stand in {counted(rows, 'row')}; in {home.name} it stands in "
        f"{counted(once, 'row')}, once for each {joined(determinant)}.",
    ]


def _several(design: Design, column: str, table: Table, key: Sequence[str]) -> list[str]:
    """Say, with rows of the file, that one row of a table goes with several values of a column."""
    relation = design.scope_of([*key, column]).relation
    known = in_order(key, relation.names)
    told = f"No believed rule says that one {joined(known)} has one {column}"
    positions = np.flatnonzero(~blank_in(relation, [*known, column]))
    rows = relation.take(positions)
    if rows.row_count == 0 or not known:
        return [f"{told}."]
    groups, pairs = groups_by(rows, known), groups_by(rows, [*known, column])
    first = np.full(int(groups.max()) + 1, -1)
    first[groups[::-1]] = np.arange(rows.row_count)[::-1]
    differing = np.flatnonzero(pairs != pairs[first[groups]])
    if len(differing) == 0:
        return [f"{told}; in these rows it happens to hold."]
    there = int(differing[0])
    here = int(first[groups[there]])
    named = joined([f"{name} {rows.column(name).text(here)}" for name in known])
    cells = [rows.column(column).text(place) for place in (here, there)]
    numbers = rows.row_numbers[[here, there]].tolist()
    return [
        f"One {joined(known)} goes with several {column}: {named} has {cells[0]} in row {numbers[0]} and "
        f"{cells[1]} in row {numbers[1]}."
    ]
