"""The arguments and options that several commands share."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import click

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

ledger_option = click.option(
    "--ledger",
    metavar="FILE",
    help="The file with your decisions.  [default: STEM.ledger.toml beside SOURCE]",
)


def largest_option(default: int | None, told: str) -> Callable[[Command], Command]:
    """Return the option that limits the size of determinants and keys."""
    return click.option(
        "--largest",
        type=click.IntRange(min=0),
        default=default,
        metavar="N",
        help=f"Search combinations of at most N columns.  [default: {told}]",
    )


def all_option(what: str) -> Callable[[Command], Command]:
    """Return the option that lifts the cut of a long listing."""
    return click.option("--all", "show_all", is_flag=True, help=f"Show all {what}, however many.")
