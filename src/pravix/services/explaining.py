"""Why something is as it is: what a question is about, and the reasons."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from pravix.analysis import Analysis
from pravix.design.excerpt import Excerpt, excerpt
from pravix.design.links import link_told
from pravix.design.model import Table
from pravix.design.reasons import key_reasons, link_reasons, table_reasons, why_not
from pravix.design.telling import Anomalies, anomalies
from pravix.design.whereabouts import Whereabouts, whereabouts
from pravix.errors import InputError
from pravix.judgement.evidence import gather
from pravix.judgement.rule_account import RuleAccount, account_of, verdict, weighing_lines
from pravix.judgement.telling import reason
from pravix.ledger.ledger import Decision
from pravix.theory.dependency import ARROWS, DependencyTextError, parse_dependencies, written_in_order
from pravix.wording import joined, meant, shortened

_STEPS = 24
FORMS = 'Also: a rule "a -> b", "table NAME", "key NAME", "link NAME NAME", "COLUMN in NAME".'


@dataclass(frozen=True)
class Reasons:
    """The reasons for a table, a key, a link, or for a column not being elsewhere.

    ``about`` names what they are for; ``removed`` shows what a table removes, None for all but a table.
    """

    title: str
    about: Mapping[str, object]
    reasons: Sequence[str]
    removed: Sequence[tuple[Excerpt, Anomalies]] | None = None


Explanation = Whereabouts | Sequence[RuleAccount] | Reasons
"""Why a column lives where it does, why rules are believed or doubted, or other reasons."""


def explained(analysis: Analysis, what: str) -> Explanation:
    """Return why something is as it is: a column, a rule, a table, a key, a link, or an absence.

    Raises InputError, with the forms of a question, where there is nothing of that name.
    """
    names = analysis.names
    first, _, rest = what.partition(" ")
    column, _, elsewhere = what.partition(" in ")
    if _lives(analysis, what):
        return whereabouts(analysis.design, analysis.rows_of([what]).judgement, what)
    if any(arrow in what for arrow in ARROWS):
        return _of_rules(analysis, what)
    if first == "link" and (pair := next(_pairs(analysis, rest), None)):
        return _of_link(analysis, *pair)
    if first == "key" and rest:
        return _of_key(analysis, _table(analysis, rest))
    if first == "table" and rest:
        return _of_table(analysis, _table(analysis, rest))
    if elsewhere and _lives(analysis, column):
        return _of_absence(analysis, column, _table(analysis, elsewhere))
    if _found(analysis, what) is not None:
        return _of_table(analysis, _table(analysis, what))
    close = [name for name in names if name.lower() == what.lower()] or list(names)
    raise InputError(
        f"{analysis.source.account.name} has no column {shortened(what)}",
        f"{meant(what, close)}Its columns: {joined([shortened(name) for name in close[:30]])}. {FORMS}",
    )


def evidence_by_rows(
    analysis: Analysis, accounts: Sequence[RuleAccount]
) -> dict[str, list[tuple[int, float]]]:
    """Return for each rule its bits of evidence in the first rows of the file, up to all of them.

    Raises InputError where the rows break all of the rules, or stay outside memory. Cost: that of the
    evidence, for each step.
    """
    if analysis.staying is not None:
        raise InputError("rows outside memory have no order to be drawn in", "Leave --figure out.")
    found = {}
    for account in accounts:
        if account.judged is None or account.judged.evidence is None:
            continue
        relation = analysis.rows_of(account.rule.columns).relation
        rule, observed = account.judged.rule, account.judged.evidence.observed
        counts = sorted({relation.row_count * step // _STEPS for step in range(_STEPS + 1)})
        some = {count: relation.take(np.arange(count)) for count in counts}
        found[written_in_order(rule, relation.names)] = [
            (count, gather(rows, rule, observed).bits if count else 0.0) for count, rows in some.items()
        ]
    if not found:
        told = joined([str(account.rule) for account in accounts])
        raise InputError(f"the rows break {told}, or were not asked about it", "Draw a rule that holds.")
    return found


def lines_of(analysis: Analysis, found: Explanation) -> list[str]:
    """Return an explanation in sentences, the shortest way to tell it."""
    if isinstance(found, Reasons):
        return [found.title, *found.reasons]
    if isinstance(found, Whereabouts):
        rows = analysis.rows_of([found.column])
        names = rows.relation.names
        chain = [
            f"{written_in_order(link.rule, names)}: {link.standing.value}, "
            f"{reason(link, rows.judgement, names)}"
            for link in found.chain
        ]
        return [f"{found.column} lives in table {found.home.name}", *chain]
    told = []
    for account in found:
        names = analysis.rows_of(account.rule.columns).relation.names
        told.append(verdict(account, names))
        if account.judged is not None:
            told += [
                f"{word} {bits:+.1f}: {why}" for word, bits, why in weighing_lines(account.judged, names)
            ]
    return told


def _of_rules(analysis: Analysis, text: str) -> Sequence[RuleAccount]:
    try:
        rules = parse_dependencies(text)
    except DependencyTextError as error:
        raise InputError(str(error), 'Write it like this: "a, b -> c"') from None
    asked = [Decision(rule, True, place=f"the rule {rule}") for rule in rules]
    source = analysis.source.account.name
    analysis.ledger.with_decisions(asked).check_columns(analysis.names, source)
    accounts = []
    for rule in rules:
        rows = analysis.rows_of(rule.columns)
        if not rule.columns <= set(rows.relation.names):
            raise InputError(
                f"{rule} speaks of columns that no rows have together",
                "A repair took some away, or gave them rows of their own: ask about those.",
            )
        accounts.append(account_of(rows.relation, rows.judgement, rows.near, rule))
    return accounts


def _lives(analysis: Analysis, column: str) -> bool:
    """Whether a column is one of the repaired rows or of their parts."""
    return column in analysis.rows_of([column]).relation.names


def _pairs(analysis: Analysis, text: str) -> Iterator[tuple[Table, Table]]:
    """Yield the ways in which a text names two tables."""
    for place, mark in enumerate(text):
        if mark == " ":
            one, other = _found(analysis, text[:place]), _found(analysis, text[place + 1 :])
            if one is not None and other is not None:
                yield one, other


def _found(analysis: Analysis, name: str) -> Table | None:
    """Return the table of a name, case ignored."""
    return next((table for table in analysis.design.tables if table.name.lower() == name.lower()), None)


def _table(analysis: Analysis, name: str) -> Table:
    table = _found(analysis, name)
    if table is None:
        known = joined([shortened(table.name) for table in analysis.design.tables])
        raise InputError(f"the design has no table {shortened(name)}", f"Its tables: {known}.")
    return table


def _of_table(analysis: Analysis, table: Table) -> Reasons:
    """Return why a table exists, with rows before and after and the anomalies that it removes."""
    design = analysis.design
    steps = [step for step in design.steps if step.to_table == table.name]
    return Reasons(
        f"Table {table.name} ({', '.join(table.column_names)})",
        {"table": table.name},
        table_reasons(design, table),
        [
            (excerpt(scope.relation, step), anomalies(step, scope.row_key))
            for step in steps
            for scope in [design.scope_of((*step.determinant, *step.moved))]
        ],
    )


def _of_key(analysis: Analysis, table: Table) -> Reasons:
    """Return why a table has its primary key."""
    title = f"The key of {table.name}: {joined(table.primary_key)}"
    about = {"key": list(table.primary_key), "table": table.name}
    return Reasons(title, about, key_reasons(table, analysis.judgement.uses))


def _of_link(analysis: Analysis, one: Table, other: Table) -> Reasons:
    """Return the reasons for the links between two tables, given in either order."""
    pairs = ((one, other), (other, one))
    links = [(table, link) for table, far in pairs for link in table.foreign_keys if link.table == far.name]
    if not links:
        raise InputError(f"{one.name} and {other.name} do not refer to each other")
    design = analysis.design
    reasons = [text for table, link in links for text in link_reasons(design, table, link)]
    told = [f"{link_told(table, link, design.tables)}." for table, link in links]
    return Reasons(f"{one.name} and {other.name}", {"link": [one.name, other.name]}, [*told, *reasons])


def _of_absence(analysis: Analysis, column: str, table: Table) -> Reasons:
    """Return why a column does not live in a table."""
    about = {"column": column, "table": table.name}
    return Reasons(f"Why {column} is not in {table.name}", about, why_not(analysis.design, column, table))
