"""The steps and the proof of a design in plain words, with the file's own values and counts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pravix.design.checks import check_told
from pravix.design.model import Design, RoleConflict, Step
from pravix.theory.dependency import written_in_order
from pravix.theory.normal_forms import Breach
from pravix.wording import counted, joined, shortened

BROKEN_FORM = {Breach.PARTIAL: "2NF", Breach.TRANSITIVE: "3NF", Breach.PRIME: "BCNF"}
_FACTS_SHOWN = 3
_COLUMNS_NAMED = 5


@dataclass(frozen=True)
class RepairTold:
    """A repair on the way to first normal form: the columns of the file, and what became of them."""

    columns: tuple[str, ...]
    told: str


def repairs_told(design: Design) -> list[RepairTold]:
    """Return what was repaired before the tables were made, one sentence each."""
    found = []
    for table in design.tables:
        if table.made_from is not None:
            made, rows = table.made_from, counted(table.rows.total, "row")
            text = (
                f"{_are(_some(made.sources))} {made.how}: {made.each} is a row of {table.name} now, {rows}."
            )
            found.append(RepairTold(made.sources, text))
    return found + [RepairTold(one.leaving, one.told) for one in design.repaired.in_place]


def why(step: Step, row_key: Sequence[str]) -> str:
    """Return which normal form the step's dependency breaks and why, as one sentence."""
    moved, determinant = _are(step.moved), joined(step.determinant)
    if not step.determinant:
        return f"{moved} the same in every row."
    if step.breach is Breach.PARTIAL:
        return (
            f"{moved} fixed by {determinant} alone, a part of the key ({', '.join(row_key)}): "
            "a partial dependency, which breaks 2NF."
        )
    if step.breach is Breach.TRANSITIVE:
        return (
            f"{moved} fixed by {determinant}, which is no key of {step.from_table}: "
            "a transitive dependency, which breaks 3NF."
        )
    return f"{moved} fixed by {determinant}, which is no key of {step.from_table}: this breaks BCNF."


def repeated(step: Step) -> str:
    """Return the example and the counts of a step, as one or two sentences."""
    counts = (
        f"Stated {counted(step.stored_before, 'time')} in the file, {counted(step.stored_now, 'time')} now."
    )
    example = step.repetition
    if example is None:
        return counts
    key = joined([f"{name} {_shown(cell)}" for name, cell in zip(step.determinant, example.key, strict=True)])
    facts = [f"{name} {_shown(cell)}" for name, cell in zip(step.moved, example.facts, strict=True)]
    more = [f"{len(facts) - _FACTS_SHOWN} more"] if len(facts) > _FACTS_SHOWN else []
    first, second = example.rows
    rows = f"rows {first} and {second}" if example.times == 2 else f"rows {first}, {second}, ..."
    return (
        f"For example, {key or 'the file'} comes {counted(example.times, 'time')} ({rows}), "
        f"always with {joined(facts[:_FACTS_SHOWN] + more)}. {counts}"
    )


@dataclass(frozen=True)
class Anomalies:
    """What can go wrong with a fact while it stands in the flat table; ``deletion`` may be empty."""

    update: str
    insertion: str
    deletion: str


def anomalies(step: Step, row_key: Sequence[str]) -> Anomalies:
    """Return the three anomalies that a step removes, told with values and counts of the file."""
    example, moved = step.repetition, joined(step.moved)
    update = ""
    if example is not None:
        named = _named(step.determinant, example.key)
        update = (
            f"To correct {moved} of {named}, {example.times:,} rows must be changed alike; "
            "miss one and the file contradicts itself."
        )
    determinant = joined(step.determinant)
    insertion = f"A new {determinant} with its {moved} cannot be entered before a row has {joined(row_key)}."
    deletion = ""
    if step.only is not None:
        named = _named(step.determinant, step.only.key)
        facts = _named(step.moved[:_FACTS_SHOWN], step.only.facts[:_FACTS_SHOWN])
        deletion = (
            f"Deleting row {step.only.row} would lose the only mention of {named}, and with it {facts}."
        )
    return Anomalies(update, insertion, deletion)


def flat_anomalies(design: Design) -> list[str]:
    """Return an update, an insertion and a deletion anomaly of the file, from steps that show them well."""
    steps = [step for step in design.steps if step.determinant and step.moved]
    if not steps:
        return []
    most = max(steps, key=lambda step: step.repetition.times if step.repetition else 0)
    last, only = steps[-1], next((step for step in reversed(steps) if step.only is not None), None)
    told = [_wrong(design, most).update, _wrong(design, last).insertion]
    told += [_wrong(design, only).deletion] if only is not None else []
    return [text for text in told if text]


def _wrong(design: Design, step: Step) -> Anomalies:
    return anomalies(step, design.scope_of((*step.determinant, *step.moved)).row_key)


def _named(columns: Sequence[str], cells: Sequence[str]) -> str:
    return joined([f"{name} {_shown(cell)}" for name, cell in zip(columns, cells, strict=True)])


def untaken_told(step: Step) -> str:
    """Return what a step that is not taken keeps repeated, and the anomaly that it keeps alive."""
    kept = f"{_are(step.moved)} kept in {step.from_table}, though fixed by {joined(step.determinant)}"
    once = counted(step.stored_now, "row")
    cells = f"{counted(step.cells_saved, 'cell')} of the file repeat what {once} would say"
    alive = anomalies(step, step.determinant)
    return f"{kept}: {cells}. {alive.update or alive.deletion}".rstrip()


def values_told(design: Design) -> list[str]:
    """Return the columns that are checked against a list of values, one line each."""
    return [
        f"{table.name}: {check_told(check)}"
        for table in design.tables
        for check in table.checks
        if check.made and check.kind == "values"
    ]


def roles_told(design: Design) -> list[str]:
    """Return which tables serve several roles, and what kept others apart, one sentence each."""
    found = []
    for table in design.tables:
        if table.roles:
            keys = [dict(role.columns)[table.natural_key[0]] for role in table.roles]
            rows = counted(table.rows.total, "row")
            roles = joined([role.name for role in table.roles])
            one = f"one table {table.name} ({rows}) serves the roles {roles}."
            found.append(f"{joined(keys)} stand for the same kind of thing: {one}")
    return found + [_kept_apart(conflict) for conflict in design.conflicts]


def _kept_apart(conflict: RoleConflict) -> str:
    names = f"{conflict.one} and {conflict.other} are called alike, but stay two tables"
    if not conflict.rows:
        told = "their keys have no value in common and differ in form. Do they hold one kind of thing?"
        return f"{names}: {told} If so, write the keys of both in one form."
    here, there = conflict.rows
    return (
        f"{names}: {_shown(conflict.key)} is {joined([_shown(cell) for cell in conflict.here[1:]])} in row "
        f"{here} and {joined([_shown(cell) for cell in conflict.there[1:]])} in row {there}. "
        "Do they hold one kind of thing? If so, one of the two rows is wrong: correct it."
    )


def proof_lines(design: Design) -> list[tuple[bool, str]]:
    """Return what was proved, one line a claim, each with whether it holds."""
    proof, rows = design.proof, design.relation.total
    if proof.lossless:
        join = f"The {len(design.tables)} tables join back to exactly the {counted(rows, 'row')} as read."
        if repairs_told(design):
            join = join.removesuffix(".") + ", repaired cells included."
        if len(design.tables) == 1:
            join = f"The table gives exactly the {counted(rows, 'row')} as read."
        if design.relation.whole is not None:
            join = (
                f"By rules that hold in all {counted(rows, 'row')} the tables join back to exactly these; "
                f"done on the {design.relation.row_count:,} that were drawn."
            )
    else:
        join = "The tables do not join back to the rows of the file" + _rows_lost(proof.missing_rows)
        if proof.unrepaired_rows:
            join += (
                f" {counted(len(proof.unrepaired_rows), 'row')} cannot be rebuilt from the repaired cells."
            )
        if proof.strange_rows:
            join += f" {counted(proof.strange_rows, 'joined row')} are not in the file."
    lost = [written_in_order(rule, design.scope_of(rule.columns).names) for rule in proof.lost_dependencies]
    rules = sum(len(scope.cover) for scope in design.scopes)
    kept = f"Each of the {counted(rules, 'rule')} can be checked within one table."
    if lost:
        kept = f"No single table can check {joined(lost)}"
        kept += ": the price of what you wish." if proof.lost_as_wished else "."
    below = [table for table in proof.below_third if table not in proof.wished_below]
    form = "Every table is in third normal form."
    if below:
        form = f"Not in third normal form: {joined(below)}."
    elif proof.below_third:
        form = (
            f"Every table but {joined(proof.below_third)}, kept lower as you wish, is in third normal form."
        )
    links = (
        f"Every reference finds its row ({counted(sum(len(t.foreign_keys) for t in design.tables), 'link')})."
    )
    if proof.broken_links:
        table, row = proof.broken_links[0]
        links = (
            f"{counted(len(proof.broken_links), 'reference')} find no row, the first in {table}, row {row}."
        )
    lines = [
        (proof.lossless, join),
        (not lost or proof.lost_as_wished, kept),
        (not below, form),
        (not proof.broken_links, links),
    ]
    if any(table.roles for table in design.tables):
        roles = "Every table with several roles gives back the rows of each."
        if proof.broken_roles:
            table, row = proof.broken_roles[0]
            lost_rows = counted(len(proof.broken_roles), "row")
            roles = f"{lost_rows} of a role are lost, the first in {table}, row {row}."
        lines.append((not proof.broken_roles, roles))
    if any(table.surrogate for table in design.tables):
        told = "Every added number leads to the row that was referred to."
        if proof.broken_numbers:
            table, row = proof.broken_numbers[0]
            told = f"Added numbers lead astray, the first in {table}, row {row}."
        lines.append((not proof.broken_numbers, told))
    return lines


def _rows_lost(missing: Sequence[int]) -> str:
    if not missing:
        return "."
    some = joined([str(number) for number in missing[:5]])
    what = "row" if len(missing) == 1 else "rows"
    return f": {what} {some}{' and more' if len(missing) > 5 else ''} would be lost."


def _are(columns: Sequence[str]) -> str:
    return f"{joined(columns)} {'is' if len(columns) == 1 else 'are'}"


def _some(columns: Sequence[str]) -> tuple[str, ...]:
    """Return columns to be named in a sentence: the first and the last of many."""
    if len(columns) <= _COLUMNS_NAMED:
        return tuple(columns)
    return (*columns[: _COLUMNS_NAMED - 2], f"... {len(columns) - _COLUMNS_NAMED + 1} more", columns[-1])


def _shown(cell: str) -> str:
    return shortened(cell) if cell else "blank"
