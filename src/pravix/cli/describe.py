"""The command that keeps in the ledger what tables, columns and codes mean."""

from __future__ import annotations

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import blanks_option, ledger_option, reading_options, source_argument
from pravix.cli.show import Screen
from pravix.ledger.meanings import Meaning, meaning_of
from pravix.services.describing import meaning, record_meaning
from pravix.sources.reading import Reading
from pravix.wording import counted, joined


@helped.command("describe")
@source_argument
@click.argument("text", metavar="[MEANING]", required=False)
@click.option(
    "--column",
    metavar="NAME",
    shell_complete=helped.columns,
    help="The column that it is the meaning of.",
)
@click.option("--value", metavar="CODE", help="One code of that column.")
@click.option("--made-table", "made", metavar="NAME", help="The table of the design that it means.")
@reading_options
@blanks_option
@ledger_option
def command(
    source: str,
    text: str | None,
    column: str | None,
    value: str | None,
    made: str | None,
    reading: Reading,
    blanks: str,
    ledger: str | None,
) -> None:
    """Record the MEANING of a column, a code or a table in the ledger; without it, show what is known.

    The data dictionary, the report and the comments of the database take it from there.
    """
    analysis = CommandAnalysis(source, reading, ledger, blanks)
    if text is None:
        _show(Screen(), analysis)
        return
    path = record_meaning(analysis, meaning(analysis, text, column, value, made))
    click.echo(f"Recorded in {path}.")


def _show(screen: Screen, analysis: CommandAnalysis) -> None:
    meanings = analysis.ledger.meanings
    rows = [[_about(one), one.text] for one in meanings]
    if rows:
        screen.table(["What", "Meaning"], rows)
        screen.line()
    lacking = [name for name in analysis.source.relation.names if not meaning_of(meanings, column=name)]
    if lacking:
        screen.line(f"{counted(len(lacking), 'column')} without a meaning: {joined(lacking)}.")
    else:
        screen.line("Every column has its meaning.")


def _about(one: Meaning) -> str:
    if one.table:
        return f"table {one.table}"
    return f"{one.column} = {one.value}" if one.value else one.column
