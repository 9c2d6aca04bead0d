"""The command that shows what each column holds, and what stands in the way of first normal form."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import json_option, ledger_option, reading_options, source_argument
from pravix.cli.progress import in_background
from pravix.cli.show import Screen, bar, print_json
from pravix.document.design_document import finding_document
from pravix.document.source import source_document
from pravix.first_normal_form.finding import Finding, Topic, certainty
from pravix.first_normal_form.findings import FINDERS, findings_of
from pravix.judgement.sensitive import sensitive_columns
from pravix.pictures.figure import write_survey_figure
from pravix.relation.profile import ColumnProfile, profile
from pravix.relation.types import ColumnType
from pravix.sources.reading import Reading
from pravix.wording import counted, joined, shortened

_TOPICS = {topic.name.replace(" ", "-"): topic for topic in FINDERS}
_WIDE = 90


@helped.command("survey")
@source_argument
@reading_options
@click.option(
    "--topic", type=click.Choice([*_TOPICS, "types"]), help="Show all findings of one topic in full."
)
@click.option("--figure", metavar="FILE", help="Draw the columns as bars into FILE (PNG or SVG).")
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    topic: str | None,
    figure: str | None,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Show what each column holds and repeats, and what stands in the way of first normal form."""
    analysis = CommandAnalysis(source, reading, ledger, unrepaired=True)
    profiles = profile(analysis.relation)
    if figure is not None:
        write_survey_figure(profiles, analysis.source.account.name, figure)
    if as_json:
        print_json(_document(analysis, profiles))
        return
    screen = Screen()
    screen.line(str(analysis.source.account))
    if topic == "types":
        _show_types(screen, profiles)
    elif topic is not None:
        _show_topic(screen, analysis, _TOPICS[topic])
    else:
        _show_overview(screen, analysis, profiles)
    if figure is not None:
        screen.line(f"Drawn: {figure}")


def _document(analysis: CommandAnalysis, profiles: Sequence[ColumnProfile]) -> dict[str, object]:
    account = analysis.source.account
    return {
        "format": "pravix.survey",
        "version": 1,
        "source": source_document(analysis.relation),
        "reading": {"form": account.form, "notes": list(account.notes), "fillable": list(account.fillable)},
        "columns": [
            {
                "name": found.name,
                "type": str(found.type),
                "reason": found.type.reason,
                "exceptions": list(found.type.exceptions),
                "distinct": found.distinct,
                "blanks": found.blanks,
                "repeats": found.repeats,
                "examples": [{"value": value, "times": times} for value, times in found.examples],
            }
            for found in profiles
        ],
        "findings": [finding_document(found) for found in _findings(analysis)],
        "sensitive": [asdict(one) for one in sensitive_columns(analysis.relation)],
    }


def _findings(analysis: CommandAnalysis) -> list[Finding]:
    return in_background(lambda progress: findings_of(analysis.source, progress))


def _show_overview(screen: Screen, analysis: CommandAnalysis, profiles: Sequence[ColumnProfile]) -> None:
    rows = analysis.relation.total
    screen.line(f"{counted(rows, 'row')}, {counted(len(profiles), 'column')}")
    screen.line()
    wide = screen.width >= _WIDE
    screen.table(
        ["Column", "Type", "Different", "Blank", "Repeated", "Cells", *(["Most frequent"] if wide else [])],
        [
            [
                shortened(found.name),
                str(found.type) + (" *" if found.type.remarkable else ""),
                f"{found.distinct:,}",
                f"{found.blanks:,}",
                f"{found.repeats:,}",
                bar([(found.distinct, "#"), (found.repeats, "="), (found.blanks, ".")], 16 if wide else 8),
                *([_examples(found.examples)] if wide else []),
            ]
            for found in profiles
        ],
        numbers=["Different", "Blank", "Repeated"],
        uncut=["Cells", *(["Type"] if wide else [])],
    )
    cells = rows * len(profiles)
    repeats = sum(found.repeats for found in profiles)
    screen.line()
    screen.note("Cells: # first time the value occurs   = the value again   . blank")
    if any(found.type.remarkable for found in profiles):
        screen.note("* look at this type: pravix survey SOURCE --topic types says why.")
    share = f"{repeats:,} of {counted(cells, 'cell')} ({100 * repeats / cells:.0f} %)"
    screen.line(f"{share} repeat a value of their column.")
    _show_fillable(screen, analysis)
    _show_findings(screen, _findings(analysis), _answers(analysis))
    _show_sensitive(screen, analysis)


def _show_sensitive(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write which columns are to be handled with care."""
    found = sensitive_columns(analysis.relation)
    if not found:
        return
    screen.heading("To be handled with care")
    for one in found:
        screen.line(f"{one.column}: {one.kind} ({one.why})", indent=2)
    screen.note("A table of its own can have rights of its own: pravix arrange SOURCE --apart COLUMN.")


def _show_fillable(screen: Screen, analysis: CommandAnalysis) -> None:
    names = [shortened(name) for name in analysis.source.account.fillable]
    if names:
        options = " ".join(f"--fill {name}" for name in names)
        values = "value looks" if len(names) == 1 else "values look"
        screen.line(f"{joined(names)}: the {values} written once for each group. To fill down: {options}")


def _show_findings(screen: Screen, found: Sequence[Finding], answers: Mapping[str, str]) -> None:
    """Write one line a finding, the worst topics first."""
    if not found:
        return
    screen.heading("In the way of first normal form")
    for topic in FINDERS:
        of_topic = [finding for finding in found if finding.topic is topic]
        if of_topic:
            screen.line(topic.heading, indent=2, style="bold")
        for finding in of_topic:
            answer = answers.get(finding.id)
            told = f"{finding.told} ({certainty(finding.sure)})" + (f" [{answer}]" if answer else "")
            screen.line(told, indent=4)
    if any(finding.answers for finding in found):
        screen.line()
        screen.note("To answer them one by one: pravix repair SOURCE. For one topic in full: --topic.")


def _show_topic(screen: Screen, analysis: CommandAnalysis, topic: Topic) -> None:
    found = [finding for finding in _findings(analysis) if finding.topic is topic]
    answers = _answers(analysis)
    screen.heading(topic.heading)
    if not found:
        screen.line("Nothing found.", indent=2)
    for finding in found:
        show_finding(screen, finding)
        if finding.id in answers:
            screen.line(f"Answered in the ledger: {answers[finding.id]}.", indent=4)


def show_finding(screen: Screen, finding: Finding) -> None:
    """Write a finding in full: what, how sure, where, and what a repair would make of it."""
    screen.line(f"{joined([shortened(name) for name in finding.columns])}", indent=2, style="bold")
    screen.line(f"{finding.told}. {certainty(finding.sure).capitalize()}.", indent=4)
    if finding.rows:
        rows = "row" if len(finding.rows) == 1 else "rows"
        screen.line(f"See {rows} {joined([str(row) for row in finding.rows])}.", indent=4)
    if finding.preview:
        names, *rows_shown = finding.preview
        cells = [[shortened(cell) for cell in row] for row in rows_shown]
        screen.table([shortened(name) for name in names], cells, indent=4)
    if finding.question:
        screen.line(finding.question, indent=4)


def _show_types(screen: Screen, profiles: Sequence[ColumnProfile]) -> None:
    screen.heading("Types")
    screen.table(
        ["Column", "Type", "Because", "Except"],
        [
            [shortened(found.name), str(found.type), found.type.reason, _except(found.type)]
            for found in profiles
        ],
    )


def _except(found: ColumnType) -> str:
    return ", ".join(shortened(value, 20) for value in found.exceptions)


def _answers(analysis: CommandAnalysis) -> dict[str, str]:
    return {answer.finding: answer.answer for answer in analysis.ledger.answers}


def _examples(examples: tuple[tuple[str, int], ...]) -> str:
    value, times = examples[0] if examples else ("", 0)
    return f"{shortened(value, 16)} ({times:,})" if examples else ""
