"""The arguments and options that several commands share."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable
from dataclasses import fields
from functools import wraps
from typing import Any

import click

from pravix.cli.helped import columns, tables
from pravix.discovery.budget import FOR_A_DESIGN, SECONDS, Budget
from pravix.ledger.ledger import parsed_header
from pravix.ledger.wishes import POLICIES
from pravix.sources.reading import Reading

Command = Callable[..., Any]

source_argument = click.argument("source", metavar="SOURCE")

json_option = click.option("--json", "as_json", is_flag=True, help="Print one JSON document instead of text.")

blanks_option = click.option(
    "--blanks",
    type=click.Choice(["equal", "distinct"]),
    default="equal",
    show_default=True,
    help="Whether two blank cells are equal, or each differs from all others.",
)


def _heard(context: click.Context, parameter: click.Parameter, verbose: bool) -> None:
    """Let the core's log be heard."""
    if verbose:
        logging.getLogger("pravix").setLevel(logging.INFO)


verbose_option = click.option(
    "--verbose",
    is_flag=True,
    expose_value=False,
    callback=_heard,
    help="Say on standard error what is done, and how long it takes.",
)

ledger_option = click.option(
    "--ledger",
    metavar="FILE",
    help="The file with your decisions.  [default: STEM.ledger.toml beside SOURCE]",
)


def largest_option(told: str) -> Callable[[Command], Command]:
    """Return the option that limits the size of determinants and keys."""
    return click.option(
        "--largest",
        type=click.IntRange(min=0),
        metavar="N",
        help=f"Search combinations of at most N columns.  [default: {told}]",
    )


def budget_options(command: Command) -> Command:
    """Give a command the option about time; with the memory of its reading it gets it as ``budget``."""

    @wraps(command)
    def called(*arguments: Any, seconds: float | None, reading: Reading, **options: Any) -> Any:
        budget = Budget(reading.memory, seconds)
        return command(*arguments, budget=budget, reading=reading, **options)

    seconds_option: Callable[[Command], Command] = click.option(
        "--seconds",
        type=click.FloatRange(min=0, min_open=True),
        help="Time that the search may take; then smaller combinations must do.  "
        f"[default: {SECONDS:.0f}, for a design {FOR_A_DESIGN}]",
    )
    return seconds_option(called)


_POLICIES_TOLD = {
    "style": "How tables and columns are called: as in the file, snake_case or camelCase.",
    "number": "Whether tables are called in the singular or the plural.",
    "surrogates": "Which tables get an added number as their key: those with composite keys that others "
    "refer to, or all.",
    "numbering": "Whether these numbers begin anew in each table or are shared by all.",
    "until": "How far to go: with 2nf transitive dependencies stay where they are, with bcnf every "
    "determinant gets a table, at the price of rules that no single table can check, with 4nf independent "
    "lists do so too.",
}


def policy_options(command: Command) -> Command:
    """Give a command the options about the design; it gets them together as ``policies``."""

    @wraps(command)
    def called(*arguments: Any, **options: Any) -> Any:
        return command(*arguments, policies={key: options.pop(key) for key in POLICIES}, **options)

    for key, told in reversed(_POLICIES_TOLD.items()):
        choices = POLICIES[key]
        text = f"{told}  [default: as in the ledger, or {choices[0]}]"
        called = click.option(f"--{key}", type=click.Choice(choices), help=text)(called)
    return called


def all_option(what: str) -> Callable[[Command], Command]:
    """Return the option that lifts the cut of a long listing."""
    return click.option("--all", "show_all", is_flag=True, help=f"Show all {what}, however many.")


class _HeaderRows(click.ParamType):  # type: ignore[type-arg]
    """A row number, or two that follow each other: ``4`` or ``4-5``."""

    name = "rows"

    def convert(
        self, value: Any, param: click.Parameter | None, ctx: click.Context | None
    ) -> tuple[int, int]:
        """Return the first and the last row of the header."""
        try:
            return parsed_header(value)
        except ValueError:
            self.fail(f"{value!r} is no row like 4 or 4-5", param, ctx)


class _Memory(click.ParamType):  # type: ignore[type-arg]
    """An amount of memory: ``500`` are mebibytes, ``2GB`` and ``500MB`` say it."""

    name = "size"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> int:
        """Return the bytes."""
        found = _SIZE.fullmatch(str(value))
        if found is None or int(found[1]) == 0:
            self.fail(f"{value!r} is no size like 500MB or 2GB", param, ctx)
        return int(found[1]) << _SHIFTS[found[2].upper()]


_SIZE = re.compile(r"([0-9]{1,9}) ?([KMGT]i?B?|)", re.IGNORECASE)
_SHIFTS = {f"{unit}{end}": 10 * place for place, unit in enumerate("KMGT", 1) for end in ("", "B", "IB")} | {
    "": 20
}


_READING_OPTIONS = (
    click.option("--encoding", metavar="NAME", help="The encoding of a text file."),
    click.option("--delimiter", metavar="MARK", help="The character between the cells of a text file."),
    click.option("--sheet", metavar="NAME", help="The sheet of a workbook, by name or number."),
    click.option("--header", type=_HeaderRows(), metavar="ROW", help="The row of the header; 4-5 for two."),
    click.option("--last-row", type=int, metavar="ROW", help="The last row with data."),
    click.option(
        "--fill",
        multiple=True,
        metavar="COLUMN",
        shell_complete=columns,
        help="Fill a blank with the value above; may be repeated.",
    ),
    click.option("--skip", multiple=True, type=int, metavar="ROW", help="Leave a row out; may be repeated."),
    click.option("--keep-spaces", is_flag=True, help="Keep the spaces around the text of cells."),
    click.option(
        "--blank",
        multiple=True,
        metavar="WORD",
        help="Read cells that are WORD as blanks, as in NA or, in one column, kg=NA; may be repeated.",
    ),
    click.option("--number-names", is_flag=True, help="Number columns of equal or missing names."),
    click.option("--ragged", metavar="FILE", help="Keep rows of the wrong width apart, in a new FILE."),
    click.option("--patch", metavar="FILE", help="Correct cells as FILE says (see: pravix repair)."),
    click.option("--table", metavar="NAME", help="The table of a database.", shell_complete=tables),
    click.option("--query", metavar="SQL", help="A query of a database, in the place of a table."),
    click.option(
        "--memory",
        type=_Memory(),
        metavar="SIZE",
        help="Rows that take more (2GB, 500MB) stay where they are.  [default: half of what is free]",
    ),
)


def blank_option(command: Command) -> Command:
    """Add the words for no value in the flat table that tables are filled from, as ``blank``."""
    told = "With --from: read cells that are WORD as blanks, as in NA or kg=NA; may be repeated."
    return click.option("--blank", multiple=True, metavar="WORD", help=told)(command)


def reading_options(command: Command) -> Command:
    """Give a command the options about reading; it gets them together as ``reading``."""

    @wraps(command)
    def called(*arguments: Any, **options: Any) -> Any:
        wishes = {wish.name: options.pop(wish.name) for wish in fields(Reading)}
        wishes |= {name: wishes[name] or None for name in ("fill", "skip", "blank")}
        return command(*arguments, reading=Reading(**wishes), **options)

    for option in (verbose_option, *reversed(_READING_OPTIONS)):
        called = option(called)
    return called
