"""The command that takes the analyst through the findings and records the answers in the ledger."""

from __future__ import annotations

from collections.abc import Sequence

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import json_option, ledger_option, reading_options, source_argument
from pravix.cli.show import Screen, print_json
from pravix.cli.survey import show_finding
from pravix.document.design_document import finding_document
from pravix.document.source import source_document
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.findings import findings_of
from pravix.folder.patch import write_patch
from pravix.services.repairing import answer_about, record_answers, take_back_answers
from pravix.sources.reading import Reading
from pravix.wording import counted

_STOP = "stop"


@helped.command("repair")
@source_argument
@reading_options
@click.option("--split", multiple=True, metavar="COLUMN", help="Split the list, family or values of COLUMN.")
@click.option(
    "--merge", multiple=True, metavar="COLUMN", help="Merge COLUMN with what says one fact with it."
)
@click.option("--as", "name", metavar="NAME", help="The name of the merged column.")
@click.option("--leave-out", multiple=True, metavar="COLUMN", help="Compute COLUMN instead of storing it.")
@click.option("--keep", multiple=True, metavar="COLUMN", help="Keep COLUMN as it is.")
@click.option("--take-back", multiple=True, metavar="COLUMN", help="Take the answer about COLUMN back.")
@click.option("--why", metavar="TEXT", help="The reason for these answers.")
@click.option("--write-patch", metavar="FILE", help="Write the proposed corrections into a new FILE.")
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    split: tuple[str, ...],
    merge: tuple[str, ...],
    name: str | None,
    leave_out: tuple[str, ...],
    keep: tuple[str, ...],
    take_back: tuple[str, ...],
    why: str | None,
    write_patch: str | None,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Decide what becomes of lists, numbered families, yes/no columns and computed columns.

    Without answers it asks one question after the other. Answers, and the options about reading, are
    recorded in the ledger, so that every later command reads and repairs the same way. The source is
    never changed.
    """
    analysis = CommandAnalysis(source, reading, ledger, unrepaired=True)
    gone = take_back_answers(analysis, take_back) if take_back else []
    analysis = analysis.decided_anew() if gone else analysis
    found = findings_of(analysis.source)
    given = [
        answer_about(found, column, answer, name or "", why or "")
        for answer, columns in (("split", split), ("merge", merge), ("leave out", leave_out), ("keep", keep))
        for column in columns
    ]
    if write_patch is not None:
        _write_patch(analysis, write_patch)
    if as_json:
        print_json(_document(analysis, found))
    asked = not (given or gone or write_patch or as_json or reading != Reading())
    screen = Screen()
    if asked:
        given = _ask(screen, analysis, found)
    if given or reading != Reading():
        path = record_answers(analysis, given, reading)
    if not as_json:
        screen.line()
        for told in gone:
            screen.line(f"taken back: {told}")
        for answer in given:
            screen.line(f"{answer.finding}: {answer.answer}{f' as {answer.name}' if answer.name else ''}")
        if given or reading != Reading():
            screen.line(f"Recorded in {path}.")


def _document(analysis: CommandAnalysis, found: Sequence[Finding]) -> dict[str, object]:
    return {
        "format": "pravix.findings",
        "version": 1,
        "source": source_document(analysis.relation),
        "findings": [finding_document(finding) for finding in found],
    }


def _ask(screen: Screen, analysis: CommandAnalysis, found: Sequence[Finding]) -> list[Answer]:
    """Ask about each proposed repair that is not answered yet; leaving off keeps the answers so far.

    Compound values are not asked about: they are split only by option.
    """
    known = {answer.finding for answer in analysis.ledger.answers}
    proposed = [finding for finding in found if finding.answers and finding.answers[0] != "keep"]
    todo = [finding for finding in proposed if finding.id not in known]
    if not todo:
        screen.line("Nothing is left to decide.")
        return []
    screen.line(
        f"{counted(len(todo), 'question')}. The first answer is the proposal; {_STOP} ends at any time."
    )
    given: list[Answer] = []
    for finding in todo:
        screen.line()
        show_finding(screen, finding)
        choices = [*finding.answers, _STOP]
        try:
            answer = click.prompt("   ", type=click.Choice(choices), default=choices[0])
        except click.Abort:
            break
        if answer == _STOP:
            break
        name = ""
        if finding.repair is not None and finding.repair.namable and answer == finding.repair.answer:
            name = click.prompt("    Name of the column", default=finding.repair.arriving[0])
        given.append(Answer(finding.id, answer, name))
    return given


def _write_patch(analysis: CommandAnalysis, path: str) -> None:
    corrections = write_patch(analysis.relation, analysis.near, path)
    click.echo(f"{counted(corrections, 'proposed correction')} written to {path}.", err=True)
