"""What an experienced designer would still say about the tables: remarks, each with its counts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import combinations

from pravix.design.apart import optional_groups
from pravix.design.independent import independent_lists
from pravix.design.model import Remark, Table
from pravix.design.role_pairs import difference
from pravix.first_normal_form.words_for_nothing import find_words_for_nothing
from pravix.judgement.sensitive import sensitive_columns, told_of
from pravix.judgement.use import Use
from pravix.relation.grouping import groups_by
from pravix.relation.relation import Relation
from pravix.relation.words import words
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

_THINGS = (Use.IDENTIFIER, Use.LABEL, Use.TITLE)
_LEAST_COMMON = 4
_COMMON_SHARE = 0.5


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
        found += [*_beyond_third(table, rules), *_independent_lists(table), *_with_itself(table, uses)]
        found += [] if table.identities[0] in by_number else _weak_key(table, every, uses)
    for group in optional_groups(tables):
        filled = f"filled in {group.filled:,} of {counted(group.rows, 'row')} of {group.table}"
        text = f"{joined(group.columns)} are {filled}, always together: they could be a table of their own."
        found.append(Remark("optional group", known_as[group.table], text))
    return tuple(found)


def _with_itself(table: Table, uses: Mapping[str, Use]) -> list[Remark]:
    """Say which two columns of a key hold the same things, of which there is no table; linear in values."""
    referring = {name for link in table.foreign_keys for name in link.columns}
    free = [name for name in table.primary_key if name not in referring and uses.get(name) in _THINGS]
    found = []
    for one, other in combinations(free, 2):
        here, there = (set(table.rows.column(name).present_values) for name in (one, other))
        common = len(here & there)
        if common >= max(_LEAST_COMMON, _COMMON_SHARE * min(len(here), len(there))):
            wish = f'--table-of "{one}" --table-of "{other}"'
            wish += "" if difference(words(one), words(other)) else f' --same "{one}, {other}"'
            told = f"{common} of the values of {one} in {table.name} are values of {other} as well"
            text = f"{told}: a table of these things, to which both refer, could be had: {wish}."
            found.append(Remark("same things", table.identities[0], text))
    return found


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


def no_value_remarks(tables: Sequence[Table], relation: Relation) -> list[Remark]:
    """Point out the words that stand for no value, each at the table where the first of its columns lives."""
    found = []
    for finding in find_words_for_nothing(relation):
        first = finding.columns[0]
        holding = [one for one in tables if first in one.rows.names]
        for table in [one for one in holding if first in one.described] or holding:
            found.append(Remark("no value", table.identities[0], f"{finding.told}."))
            break
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
    """Say where a table holds every combination of two lists for each value of one key column."""
    found = independent_lists(table)
    if found is None:
        return []
    shared, one, other = found.shared, joined(found.one), joined(found.other)
    text = (
        f"in {table.name} every {one} of one {shared} stands beside every {other} of it (for {found.telling} "
        f"{shared} with several of both): these are two independent lists in one table. With --until 4nf "
        "each gets a table."
    )
    return [Remark("independent lists", table.identities[0], text)]


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
