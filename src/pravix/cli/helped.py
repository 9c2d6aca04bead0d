"""Help that begins with what matters: examples, a command's own options, and then those about reading."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import fields
from typing import Any

import click

from pravix.sources.reading import Reading

ABOUT_READING = {wish.name for wish in fields(Reading)} | {"verbose"}
"""The names of the options that say how a source is read."""

EXAMPLES: Mapping[str, Sequence[tuple[str, str]]] = {
    "survey": [("pravix survey deliveries.csv", "what each column holds and repeats")],
    "repair": [
        ("pravix repair deliveries_rough.csv", "decide about what was found"),
        ("pravix repair deliveries_rough.csv --write-patch corrections.csv", "propose corrections of cells"),
    ],
    "keys": [
        ("pravix keys deliveries.csv", "the likeliest keys first"),
        ("pravix keys deliveries.csv --largest 2", "keys of one or two columns"),
    ],
    "dependencies": [
        ("pravix dependencies deliveries.csv", "the rules that a design may rest on"),
        ("pravix dependencies deliveries.csv --map rules.png", "and a picture of them"),
        ("pravix dependencies deliveries.csv --json > rules.json", "every rule, for a program"),
    ],
    "connect": [("pravix connect registers deliveries.csv", "which columns refer to which keys")],
    "declare": [("pravix declare deliveries_rough.csv 'list: forage = ;'", "a column that holds lists")],
    "decide": [("pravix decide deliveries.csv", "answer the open questions")],
    "arrange": [("pravix arrange deliveries.csv", "what could be had otherwise")],
    "describe": [
        (
            "pravix describe deliveries.csv 'weight of the empty drum' --column tare_kg",
            "for the data dictionary",
        )
    ],
    "decompose": [
        ("pravix decompose deliveries.csv", "the tables, step by step"),
        ("pravix decompose deliveries.csv --out tables", "and all that can be made of them"),
    ],
    "explain": [("pravix explain deliveries.csv district", "why a column stands where it does")],
    "review": [
        ("pravix review whiteboard.txt --data deliveries.csv", "a design made by hand"),
        ("pravix review schema.sql", "the tables that a script creates"),
        ("pravix review --sentences needs.txt --draft draft.txt", "a first design from sentences"),
    ],
    "prove": [("pravix prove tables", "nothing was lost")],
    "load": [("pravix load tables sqlite:///honey.db", "all tables, or none")],
    "sql": [("pravix sql tables --for postgresql > tables.sql", "the SQL for one kind of database")],
    "recombine": [("pravix recombine tables keeper honey", "columns side by side again")],
    "diagram": [("pravix diagram tables tables.svg", "a picture of the tables")],
    "dictionary": [("pravix dictionary tables", "what every table and column means")],
    "workbook": [("pravix workbook tables tables.xlsx", "a sheet for each table")],
    "report": [("pravix report tables report.html", "to pass around")],
    "check": [("pravix check tables deliveries_september.csv", "does next month's file fit?")],
    "demo": [("pravix demo", "the demo data, its results, and the story")],
}
"""For each command what may be typed, and what comes back."""


class HelpedCommand(click.Command):
    """A command whose help begins with what matters."""

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write examples, the command's own options, and then those about reading its source."""
        with formatter.section("Examples"):
            for line, told in EXAMPLES[str(self.name)]:
                formatter.write(f"{'':{formatter.current_indent}}{line}\n")
                formatter.write(f"{'':{formatter.current_indent + 4}}{told}\n")
        own, reading = list[tuple[str, str]](), list[tuple[str, str]]()
        for parameter in self.get_params(ctx):
            record = parameter.get_help_record(ctx)
            if record is not None and isinstance(parameter, click.Option):
                (reading if parameter.name in ABOUT_READING else own).append(record)
        for title, records in (("Options", own), ("Reading the source", reading)):
            if records:
                with formatter.section(title):
                    formatter.write_dl(records)


def columns(context: click.Context, parameter: click.Parameter, begun: str) -> list[str]:
    """Return the columns of the source that a name may become, for the shell: it hears of no errors."""
    from pravix.sources.read import read_source

    try:
        names = read_source(_source(context)).relation.names
    except Exception:
        return []
    return _beginning(names, begun)


def tables(context: click.Context, parameter: click.Parameter, begun: str) -> list[str]:
    """Return the tables and views of the source, a database, that a name may become, for the shell."""
    from pravix.sources.database import tables_there

    try:
        names = tables_there(_source(context))
    except Exception:
        return []
    return _beginning(names, begun)


def _source(context: click.Context) -> str:
    """Return the source that was typed so far; after an option it is among what is left."""
    return str(context.params.get("source") or next(iter(context.args), ""))


def _beginning(names: Iterable[str], begun: str) -> list[str]:
    return [name for name in names if name.lower().startswith(begun.lower())]


def command(name: str) -> Callable[[Callable[..., Any]], click.Command]:
    """Make a function a command with such help."""
    return click.command(name, cls=HelpedCommand)
