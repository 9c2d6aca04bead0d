"""The command that shows what of a design can be arranged otherwise, and records what the analyst wishes."""

from __future__ import annotations

from collections.abc import Sequence

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import (
    blanks_option,
    json_option,
    ledger_option,
    policy_options,
    reading_options,
    source_argument,
)
from pravix.cli.show import Screen, print_json
from pravix.cli.story import show_tables
from pravix.design.choices import Choice, choices_of
from pravix.design.restyle import policies_told
from pravix.ledger.wishes import CHECKS
from pravix.services.arranging import arrangement, record_wishes, take_back_wishes
from pravix.sources.reading import Reading
from pravix.wording import counted, joined


@helped.command("arrange")
@source_argument
@reading_options
@policy_options
@click.option("--name", "names", multiple=True, metavar="KEY=NAME", help="Call the table with this key NAME.")
@click.option("--together", multiple=True, metavar="KEY", help="Keep the facts about these columns in place.")
@click.option("--apart", multiple=True, metavar="COLUMNS", help="Set columns apart: a one-to-one table.")
@click.option("--list", "lists", multiple=True, metavar="COLUMN", help="Check a column against its values.")
@click.option("--table-of", "tables", multiple=True, metavar="COLUMN", help="Give its values a table.")
@click.option(
    "--check",
    "checks",
    multiple=True,
    metavar="COLUMN:CHECK",
    help=f"Make a check: {joined(CHECKS, 'or')}.",
)
@click.option(
    "--link",
    "links",
    multiple=True,
    metavar="COLUMNS:RULE",
    help='What follows for the rows that refer: "keeper_no: on_delete cascade".',
)
@click.option("--key", "keys", multiple=True, metavar="COLUMNS", help="Let this key of a table lead.")
@click.option("--rename", "renames", multiple=True, metavar="COLUMN=NAME", help="Call a column NAME.")
@click.option("--type", "types", multiple=True, metavar="COLUMN=TYPE", help="Give a column this type.")
@click.option(
    "--same", multiple=True, metavar="COLUMN, COLUMN", help="The two hold one kind of thing: link or merge."
)
@click.option("--different", multiple=True, metavar="COLUMN, COLUMN", help="The two hold different things.")
@click.option(
    "--take-back",
    multiple=True,
    metavar="COLUMNS",
    help="Take wishes about these columns, or a policy, back.",
)
@click.option("--why", default="", metavar="TEXT", help="The reason for these wishes.")
@blanks_option
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    policies: dict[str, str | None],
    names: tuple[str, ...],
    together: tuple[str, ...],
    apart: tuple[str, ...],
    lists: tuple[str, ...],
    tables: tuple[str, ...],
    checks: tuple[str, ...],
    links: tuple[str, ...],
    keys: tuple[str, ...],
    renames: tuple[str, ...],
    types: tuple[str, ...],
    same: tuple[str, ...],
    different: tuple[str, ...],
    take_back: tuple[str, ...],
    why: str,
    blanks: str,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Show what the design could do otherwise, with what each choice buys and costs, and record your wishes.

    Every option but the common ones is recorded in the ledger and holds from then on. Each may be repeated.
    Without any, the choices are listed.
    """
    wished = {
        "name": names,
        "together": together,
        "apart": apart,
        "list": lists,
        "table": tables,
        "check": checks,
        "link": links,
        "key": keys,
        "rename": renames,
        "type": types,
        "same": same,
        "different": different,
    }
    made = [arrangement(do, text, why) for do, texts in wished.items() for text in texts]
    given = {key: value for key, value in policies.items() if value is not None}
    analysis = CommandAnalysis(source, reading, ledger, blanks)
    gone = take_back_wishes(analysis, take_back) if take_back else []
    analysis = analysis.decided_anew() if gone else analysis
    if made or given:
        analysis = record_wishes(analysis, given, made)
    choices = choices_of(analysis.design)
    screen = Screen()
    if as_json:
        documents = [choice.document() for choice in choices]
        print_json({"format": "pravix.choices", "version": 1, "choices": documents})
    elif made or given or gone:
        wishes = [*given, *(f"{wish.do} {', '.join(wish.columns)}" for wish in made)]
        told = f"Recorded in {analysis.ledger_file}: {joined(wishes)}." if wishes else ""
        told += f" Taken back in {analysis.ledger_file}: {joined(gone)}." if gone else ""
        screen.line(told.strip(), style="bold")
        show_tables(screen, analysis.design)
    else:
        _show(screen, analysis, choices)


def _show(screen: Screen, analysis: CommandAnalysis, choices: Sequence[Choice]) -> None:
    screen.line(str(analysis.source.account))
    told = policies_told(analysis.ledger.wishes)
    if told:
        screen.line(f"As the ledger wishes: {told}.")
    headings = dict.fromkeys(choice.topic for choice in choices)
    for topic in headings:
        own = [choice for choice in choices if choice.topic == topic]
        screen.heading(topic)
        rows = [[choice.told, choice.option] for choice in own]
        screen.table(["Now", "To have it otherwise"], rows)
    if not choices:
        screen.line("There is nothing to arrange: the design has one table.")
    else:
        screen.line()
        screen.line(f"{counted(len(choices), 'choice')}; pravix arrange --help lists the policies as well.")
