"""The command that tells why: a column, a table, a key, a link, a rule, or something that was not done."""

from __future__ import annotations

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.explain_reasons import explain_reasons
from pravix.cli.explain_rule import explain_rules
from pravix.cli.options import blanks_option, json_option, ledger_option, reading_options, source_argument
from pravix.cli.show import Screen, print_json
from pravix.design.whereabouts import Whereabouts
from pravix.document.rules import rule_document
from pravix.errors import InputError
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.telling import reason
from pravix.pictures.drawing import check_figure_path
from pravix.pictures.figure import write_evidence_figure
from pravix.relation.relation import Relation
from pravix.services.explaining import Reasons, evidence_by_rows, explained
from pravix.sources.reading import Reading
from pravix.theory.dependency import in_order, written_in_order
from pravix.wording import joined, shortened


@helped.command("explain")
@source_argument
@click.argument("what", metavar="WHAT", shell_complete=helped.columns)
@reading_options
@click.option(
    "--figure", metavar="FILE", help="Draw how the evidence for a rule grows with the rows (PNG, SVG or PDF)."
)
@blanks_option
@ledger_option
@json_option
def command(
    source: str,
    what: str,
    reading: Reading,
    figure: str | None,
    blanks: str,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Tell why something is as it is.

    WHAT is a column (why it lives in its table), a rule "a, b -> c" (why it is believed or doubted), a table
    or "table NAME" (why it exists), "key NAME" (why this primary key), "link NAME NAME" (why two tables refer
    to each other so), or "COLUMN in NAME" (why it is not there).
    """
    if figure is not None:
        check_figure_path(figure)
    analysis = CommandAnalysis(source, reading, ledger, blanks)
    found = explained(analysis, what)
    if figure is not None:
        if isinstance(found, Whereabouts | Reasons):
            raise InputError(f"{shortened(what)} is no rule", 'A figure is of a rule: "a, b -> c".')
        write_evidence_figure(evidence_by_rows(analysis, found), analysis.source.account.name, figure)
    if isinstance(found, Whereabouts):
        _explain_column(analysis, found, as_json)
    elif isinstance(found, Reasons):
        explain_reasons(analysis, found, as_json)
    else:
        explain_rules(analysis, found, as_json)


def _explain_column(analysis: CommandAnalysis, found: Whereabouts, as_json: bool) -> None:
    rows, column = analysis.rows_of([found.column]), found.column
    if as_json:
        print_json(
            {
                "format": "pravix.explanation",
                "version": 1,
                "column": column,
                "table": found.home.name,
                "in_primary_key": found.name in found.home.primary_key,
                "refers_from": list(found.also_in),
                "chain": [
                    rule_document(link, rows.judgement, rows.relation.names, rows.confidence)
                    for link in found.chain
                ],
            }
        )
    else:
        _show(Screen(), analysis, found)


def _show(screen: Screen, analysis: CommandAnalysis, found: Whereabouts) -> None:
    rows, home = analysis.rows_of([found.column]), found.home
    scope, names = analysis.design.scope_of([found.column]), rows.relation.names
    screen.line(str(analysis.source.account))
    screen.line()
    key = joined(home.primary_key)
    if found.name in home.primary_key:
        part = "is the primary key" if len(home.primary_key) == 1 else "is part of the primary key"
        screen.line(f"{found.column} {part} of table {home.name} ({', '.join(home.column_names)}).")
    else:
        screen.line(f"{found.column} lives in table {home.name}, described by its key {key}.")
    if home.roles:
        role = next(role for role in home.roles if found.column in dict(role.columns).values())
        screen.line(f"There it is called {found.name}, in the role {role.name}.")
    if found.also_in:
        screen.line(f"It stands in {joined(found.also_in)} as well, as a reference to {home.name}.")
    of = f"part of {scope.bundle}" if scope.bundle else "row of the file"
    screen.line(f"A {of} is identified by {joined(scope.row_key)}.")
    if found.chain:
        screen.heading(f"From that to {found.column}")
    for number, link in enumerate(found.chain, 1):
        screen.line(f"{number}. {written_in_order(link.rule, names)}", 2, "bold")
        screen.line(f"{link.standing.value}: {reason(link, rows.judgement, names)}.", indent=5)
        example = link.evidence.example if link.evidence else None
        if example and link.standing is not Standing.REJECTED:
            screen.line(_example(rows.relation, link, example), indent=5)


def _example(relation: Relation, link: JudgedRule, rows: tuple[int, int]) -> str:
    shared = in_order(link.rule.columns, relation.names)
    position, *_ = relation.agreeing_positions(rows, shared)
    shown = [
        f"{name} {shortened(relation.column(name).text(position))}"
        for name in (*in_order(link.rule.determinant, relation.names), link.rule.dependent)
    ]
    return f"For example rows {rows[0]} and {rows[1]}: both have {joined(shown)}."
