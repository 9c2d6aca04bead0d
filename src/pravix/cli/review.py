"""The command that reviews a design made by hand, or the catalogue of a database."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli.options import json_option
from pravix.cli.show import Screen, print_json
from pravix.design.by_hand import HandTable, catalogue_design, parsed_design
from pravix.design.critique import Objection, TableReview, objections, reviewed
from pravix.errors import InputError
from pravix.handover.reserved import reserved_words
from pravix.sources.connecting import connected
from pravix.sources.database import is_url
from pravix.wording import joined


@click.command("review")
@click.argument("design", metavar="FILE_OR_URL")
@json_option
@click.pass_context
def command(context: click.Context, design: str, as_json: bool) -> None:
    """Review relations written by hand, or the tables of a database: keys, normal forms, links, names, types.

    The exit status is 1 where a table is below third normal form or a link is broken.
    """
    tables = _catalogue(design) if is_url(design) else _written(design)
    reviews = [reviewed(table) for table in tables]
    found = objections(tables, reserved_words())
    if as_json:
        print_json(
            {
                "format": "pravix.review",
                "version": 1,
                "tables": [
                    {
                        "name": one.table.name,
                        "candidate_keys": [list(key) for key in one.keys],
                        "normal_form": one.form.value,
                        "reasons": list(one.reasons),
                        "split_into": list(one.parts),
                    }
                    for one in reviews
                ],
                "objections": [{"about": one.about, "table": one.table, "text": one.text} for one in found],
            }
        )
    else:
        _show(Screen(), reviews, found)
    if any(not one.form.third for one in reviews) or any(one.about == "broken link" for one in found):
        context.exit(1)


def _written(path: str) -> list[HandTable]:
    try:
        text = Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise InputError(f"{path} is no UTF-8 text", "Save it as UTF-8.") from None
    return parsed_design(text, Path(path).name)


def _catalogue(url: str) -> list[HandTable]:
    from sqlalchemy import inspect
    from sqlalchemy.exc import SQLAlchemyError

    database = connected(url)
    try:
        with database.engine.connect() as connection:
            tables = catalogue_design(inspect(connection))
    except SQLAlchemyError as error:
        raise InputError(f"{database.name} cannot be read: {database.reason(error)}") from None
    finally:
        database.engine.dispose()
    if not tables:
        raise InputError(f"{database.name} has no tables", "Choose another database.")
    return tables


def _show(screen: Screen, reviews: list[TableReview], found: list[Objection]) -> None:
    screen.table(
        ["Table", "Candidate keys", "Form"],
        [
            [one.table.name, joined([", ".join(key) for key in one.keys], "or"), one.form.value]
            for one in reviews
        ],
    )
    for one in reviews:
        if not one.reasons:
            continue
        screen.heading(f"{one.table.name} is in {one.form.value} because")
        for text in one.reasons:
            screen.line(text, indent=2, mark="- ")
        if one.parts:
            screen.line(f"Split it: {' '.join(one.parts)}", indent=2)
    if found:
        screen.heading("Worth a look")
    for objection in found:
        screen.line(f"{objection.text}.".replace("?.", "?"), indent=2, mark="- ")
    if not found and all(one.form is not None and not one.reasons for one in reviews):
        screen.line()
        screen.line("Nothing to object to.")
