"""The command by which the analyst says of columns what was not found."""

from __future__ import annotations

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import ledger_option, reading_options, source_argument
from pravix.cli.show import Screen
from pravix.services.declaring import record_declared, take_back_declared
from pravix.sources.reading import Reading

_FORMS = (
    ("list: tools = ;", "the cells of tools are lists with a semicolon between items"),
    ("family: oil_a, oil_b = oil", "these columns hold one thing, once for each position"),
    ("family: tech1_no, tech1_name | tech2_no, tech2_name = tech", "the same for several facts"),
    ("one fact: raw, filtered = treatment", "of these yes/no columns at most one is true"),
    ("computed: net_kg = gross_kg - tare_kg", "others compute this column"),
    ("period: season", "the values say when"),
    ("identifier: lot", "the values were given out to tell things apart"),
    ("same: fed_from, pole", "both hold one kind of thing"),
)


@helped.command("declare")
@source_argument
@click.argument("texts", metavar="[TEXT]...", nargs=-1)
@click.option("--take-back", multiple=True, metavar="COLUMN", help="Take what is declared of COLUMN back.")
@click.option("--why", default="", metavar="TEXT", help="The reason for what is declared.")
@reading_options
@ledger_option
def command(
    source: str,
    texts: tuple[str, ...],
    take_back: tuple[str, ...],
    why: str,
    reading: Reading,
    ledger: str | None,
) -> None:
    """Say of columns what was not found: a list, a family, a formula, a period, an identifier.

    Each TEXT says one thing. It must fit every row, and holds from then on, as it is recorded in the ledger.
    Without any, what is declared is shown, and how that is written.
    """
    analysis = CommandAnalysis(source, reading, ledger)
    screen = Screen()
    gone = take_back_declared(analysis, take_back) if take_back else []
    for told in gone:
        screen.line(f"taken back: {told}")
    if gone:
        analysis = analysis.decided_anew()
    if texts:
        analysis = record_declared(analysis, texts, why)
        for text in texts:
            screen.line(text)
    if texts or gone:
        screen.line(f"Recorded in {analysis.ledger_file}.")
        return
    _show(screen, analysis)


def _show(screen: Screen, analysis: CommandAnalysis) -> None:
    screen.line(str(analysis.source.account))
    made = analysis.ledger.declarations
    if made:
        screen.heading("Declared")
        screen.table(["What", "Why"], [[one.text, one.why] for one in made])
    screen.heading("How it is written")
    screen.table(["For example", "That is"], [list(pair) for pair in _FORMS])
