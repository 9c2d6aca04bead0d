"""The command that keeps in the ledger what tables, columns and codes mean."""

from __future__ import annotations

import click

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import blanks_option, ledger_option, reading_options, source_argument
from pravix.cli.show import Screen
from pravix.errors import InputError
from pravix.ledger.meanings import Meaning, meaning_of
from pravix.ledger.recording import record
from pravix.sources.reading import Reading
from pravix.wording import counted, joined, shortened


@click.command("describe")
@source_argument
@click.argument("text", metavar="[MEANING]", required=False)
@click.option("--column", metavar="NAME", help="The column that it is the meaning of.")
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
    if (column is None) == (made is None) or (value is not None and column is None):
        hint = "Give --column NAME, perhaps --value CODE, or --made-table NAME."
        raise InputError("say of what this is the meaning", hint)
    if column is not None:
        _check_column(analysis, column, value)
    elif made not in [one.name for one in analysis.design.tables]:
        tables = joined([one.name for one in analysis.design.tables])
        raise InputError(f"the design has no table {shortened(made or '')}", f"Its tables: {tables}.")
    path = analysis.ledger_file
    if path is None:
        raise InputError("the source has no place beside it for a ledger", "Name one: --ledger FILE.")
    record(path, meanings=[Meaning(text, table=made or "", column=column or "", value=value or "")])
    click.echo(f"Recorded in {path}.")


def _check_column(analysis: CommandAnalysis, column: str, value: str | None) -> None:
    names, relation = analysis.source.relation.names, analysis.relation
    if column not in {*names, *relation.names}:
        name = analysis.source.account.name
        raise InputError(f"{name} has no column {shortened(column)}", f"Its columns: {joined(names)}.")
    known = relation.column(column).values if column in relation.names else [value]
    if value is not None and value not in known:
        raise InputError(f"{column} is nowhere {shortened(value)}", "Give a value that the rows have.")


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
