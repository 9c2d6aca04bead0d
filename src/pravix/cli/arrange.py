"""The command that shows what of a design can be arranged otherwise, and records what the analyst wishes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import click

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
from pravix.design.telling import proof_lines
from pravix.errors import InputError
from pravix.ledger.recording import record
from pravix.ledger.wishes import CHECKS, Arrangement, checked_arrangement
from pravix.sources.reading import Reading
from pravix.theory.dependency import DependencyTextError, parse_columns
from pravix.wording import counted, joined


@click.command("arrange")
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
    why: str,
    blanks: str,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Show what the design could do otherwise, with what each choice buys and costs, and record your wishes.

    Every option but the common ones is recorded in the ledger and holds from then on. Each may be repeated.
    Without any, the choices are listed.
    """
    wished = [_named(text) for text in names]
    wished += [Arrangement("together", _columns(text)) for text in together]
    wished += [_apart(text) for text in apart]
    wished += [Arrangement("list", _columns(text)) for text in lists]
    wished += [Arrangement("table", _columns(text)) for text in tables]
    wished += [_check(text) for text in checks]
    wished += [_link(text) for text in links]
    made = tuple(checked_arrangement(replace(wish, why=why)) for wish in wished)
    given = {key: value for key, value in policies.items() if value is not None}
    analysis = CommandAnalysis(source, reading, ledger, blanks)
    if made or given:
        analysis = _recorded(analysis, given, made)
    choices = choices_of(analysis.design)
    screen = Screen()
    if as_json:
        documents = [choice.document() for choice in choices]
        print_json({"format": "pravix.choices", "version": 1, "choices": documents})
    elif made or given:
        wishes = [*given, *(f"{wish.do} {', '.join(wish.columns)}" for wish in made)]
        screen.line(f"Recorded in {analysis.ledger_file}: {joined(wishes)}.", style="bold")
        show_tables(screen, analysis.design)
    else:
        _show(screen, analysis, choices)


def _recorded(
    analysis: CommandAnalysis, policies: dict[str, str], made: tuple[Arrangement, ...]
) -> CommandAnalysis:
    """Record wishes and return the analysis with them.

    Raises InputError, and records nothing, where one cannot be carried out or the proof then fails.
    """
    path = analysis.ledger_file
    if path is None:
        raise InputError("the source has no place beside it for a ledger", "Name one: --ledger FILE.")
    wishes = analysis.ledger.wishes.with_policies(dict(policies)).with_arrangements(made)
    tried = analysis.with_ledger(replace(analysis.ledger, wishes=wishes))
    failing = [text for holds, text in proof_lines(tried.design) if not holds]
    if failing and analysis.design.proof.holds:
        raise InputError(
            f"with these wishes the design does not prove: {failing[0]}",
            "Nothing was recorded: wish otherwise.",
        )
    record(path, policies=policies, arrangements=made)
    return tried


def _columns(text: str) -> tuple[str, ...]:
    try:
        return parse_columns(text)
    except DependencyTextError as error:
        raise InputError(f"{text}: {error}", 'Write columns like this: "from_depot, from_town"') from None


def _named(text: str) -> Arrangement:
    columns, mark, name = text.partition("=")
    if not mark or not name.strip():
        raise InputError(f"--name {text}: no name", 'Write it like this: --name "honey_code=honey kind"')
    return Arrangement("name", _columns(columns), name=name.strip())


def _apart(text: str) -> Arrangement:
    columns, _, name = text.partition("=")
    return Arrangement("apart", _columns(columns), name=name.strip())


def _check(text: str) -> Arrangement:
    column, _, check = text.rpartition(":")
    return Arrangement("check", _columns(column), check=check.strip())


def _link(text: str) -> Arrangement:
    columns, _, rule = text.rpartition(":")
    event, _, action = rule.strip().partition(" ")
    if event not in ("on_delete", "on_update"):
        raise InputError(f"--link {text}: no rule", 'Write it like this: "keeper_no: on_delete cascade"')
    rules = {event: action.strip()}
    return Arrangement("link", _columns(columns), **rules)


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
