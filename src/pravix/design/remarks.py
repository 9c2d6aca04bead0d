"""What an experienced designer would still say about the tables: remarks, each with its counts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from pravix.design.apart import optional_groups
from pravix.design.model import Remark, Table
from pravix.judgement.sensitive import sensitive_columns, told_of
from pravix.judgement.use import Use
from pravix.relation.grouping import Groups, group_numbers, groups_by
from pravix.relation.relation import Relation
from pravix.theory.decomposition import lost_dependencies
from pravix.theory.dependency import in_order, written_in_order
from pravix.theory.normal_forms import Form
from pravix.theory.rule_set import RuleSet
from pravix.wording import counted, joined

_CHANGEABLE = {
    Use.CONTACT: "a phone number or an address, which people change",
    Use.TITLE: "a name, which people change and two may share",
    Use.LABEL: "a word that people may spell anew",
    Use.PROSE: "free text",
}
_LEAST_LISTS = 3


def remarks_on(
    tables: Sequence[Table],
    every: Sequence[Table],
    uses: Mapping[str, Use],
    rules: RuleSet,
    by_number: Collection[str] = (),
) -> tuple[Remark, ...]:
    """Return the remarks on tables whose columns are called as in the file.

    ``every`` are all of the design, of which some may refer to them. ``by_number`` are those that get a
    surrogate key; of their natural key nothing is said.
    """
    known_as = {table.name: table.identities[0] for table in tables}
    found = []
    for table in tables:
        found += [*_beyond_third(table, rules), *_independent_lists(table)]
        found += [] if table.identities[0] in by_number else _weak_key(table, every, uses)
    for group in optional_groups(tables):
        filled = f"filled in {group.filled:,} of {counted(group.rows, 'row')} of {group.table}"
        text = f"{joined(group.columns)} are {filled}, always together: they could be a table of their own."
        found.append(Remark("optional group", known_as[group.table], text))
    return tuple(found)


def sensitive_remarks(tables: Sequence[Table], relation: Relation) -> list[Remark]:
    """Point out the columns that are to be handled with care, table by table, where they live."""
    found = []
    known = {one.column: one for one in sensitive_columns(relation)}
    for table in tables:
        own = [name for name in table.described if name in known]
        if own:
            columns = ", ".join(own)
            text = (
                f"{table.name} holds what is to be handled with care: "
                f"{told_of([known[name] for name in own])}. "
                f'In a table of their own they can have rights of their own: --apart "{columns}".'
            )
            found.append(Remark("sensitive", table.identities[0], text))
    return found


def _beyond_third(table: Table, known: RuleSet) -> list[Remark]:
    """Say what keeps a table in 3NF from BCNF, what stays repeated and which rule a split would lose."""
    if table.form is not Form.THIRD:
        return []
    names, rules = table.column_names, known.within(table.column_names)
    found = []
    for rule, _ in known.form(names).offenders:
        written = written_in_order(rule, names)
        rows = table.rows.row_count
        repeats = rows - int(groups_by(table.rows, in_order(rule.determinant, names)).max(initial=-1)) - 1
        parts = [rule.columns, frozenset(names) - {rule.dependent}]
        lost = [written_in_order(other, names) for other in lost_dependencies(parts, rules)]
        cost = f"no single table could check {joined(lost)} any more" if lost else "nothing would be lost"
        determinant = joined(in_order(rule.determinant, names))
        text = (
            f"{table.name} is in 3NF, not in BCNF: {written}, and {determinant} is no key. "
            f"{rule.dependent} stays repeated in {counted(repeats, 'row')}; split further, {cost}."
        )
        found.append(Remark("BCNF", table.identities[0], text))
    return found


def _independent_lists(table: Table) -> list[Remark]:
    """Say where a table holds every combination of two lists for each value of one key column.

    Such a multivalued dependency X ->> Y is what fourth normal form removes (R. Fagin, "Multivalued
    dependencies and a new normal form for relational databases", ACM TODS 2(3), 1977). Only tables are
    looked at whose columns all belong to the primary key, of three columns or more, and only values of X
    with several Y and several Z speak for it.
    """
    key = table.primary_key
    if len(key) < 3 or set(key) != set(table.column_names) or table.made_from is not None:
        return []
    for shared in key:
        rest = [name for name in key if name != shared]
        for size in range(1, len(rest) // 2 + 1):
            for one in combinations(rest, size):
                other = [name for name in rest if name not in one]
                telling = _telling(table.rows, shared, one, other)
                if telling >= _LEAST_LISTS:
                    text = (
                        f"in {table.name} every {joined(one)} of one {shared} stands beside every "
                        f"{joined(other)} of it (for {telling} {shared} with several of both): "
                        "these are two independent lists in one table."
                    )
                    return [Remark("independent lists", table.identities[0], text)]
    return []


def _telling(rows: Relation, shared: str, one: Sequence[str], other: Sequence[str]) -> int:
    """Return how many values of a column have several of both lists; 0 where some combination lacks."""
    groups = groups_by(rows, [shared])
    if rows.row_count == 0:
        return 0
    counts = [_different(rows, groups, list(part)) for part in (one, other)]
    together = np.bincount(groups)
    if not np.array_equal(together, counts[0] * counts[1]):
        return 0
    return int(((counts[0] > 1) & (counts[1] > 1)).sum())


def _different(rows: Relation, groups: Groups, names: Sequence[str]) -> NDArray[np.intp]:
    """Return how many different combinations of the columns named each group has."""
    inner = group_numbers([groups, *(rows.column(name).codes for name in names)], rows.row_count)
    first = np.unique(inner, return_index=True)[1]
    return np.bincount(groups[first], minlength=int(groups.max()) + 1)


def _weak_key(table: Table, tables: Sequence[Table], uses: Mapping[str, Use]) -> list[Remark]:
    """Warn where others refer to a table by something people can change, or by several columns."""
    referring = [
        (other.name, link.columns)
        for other in tables
        for link in other.foreign_keys
        if link.table == table.name
    ]
    if not referring or table.made_from is not None:
        return []
    by = joined(list(dict.fromkeys(name for name, _ in referring)))
    wide = list(dict.fromkeys(name for name, links in referring if len(links) > 1))
    if wide:
        refer = "refers" if len(wide) == 1 else "refer"
        width = max(len(columns) for _, columns in referring)
        text = f"{joined(wide)} {refer} to {table.name} by {counted(width, 'column')}"
        return [Remark("composite key", table.identities[0], f"{text}: a surrogate key would make that one.")]
    if len(table.primary_key) > 1:
        return []
    (key,) = table.primary_key
    flat = next((flat for flat, name in table.flat_names.items() if name == key), key)
    told = _CHANGEABLE.get(uses.get(flat, Use.IDENTIFIER))
    if told is None or len(table.column_names) < 2:
        return []
    text = f"{table.name} is identified by {key}: {told}; {by} would change with it."
    return [Remark("weak key", table.identities[0], text)]
