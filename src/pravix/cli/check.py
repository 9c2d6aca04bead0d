"""The command that holds next month's file against a design, and loads what is good of it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import json_option, reading_options
from pravix.cli.show import Screen, print_json
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.pictures.drawing import check_figure_path
from pravix.pictures.figure import write_findings_figure
from pravix.services.checking import CheckedFile, check_file
from pravix.sources.reading import Reading
from pravix.validation.checking import CheckedInPlace
from pravix.validation.finding import Violation, rows_by_finding
from pravix.wording import counted, joined


@helped.command("check")
@click.argument("folder", metavar="DIR")
@click.argument("source", metavar="SOURCE")
@reading_options
@click.option(
    "--load",
    "url",
    metavar="URL",
    help="Compare with the database that DIR was loaded into, and load the good rows.",
)
@click.option(
    "--keep", metavar="FILE", help="Write the other rows into a new CSV FILE, each with its reason."
)
@click.option("--figure", metavar="FILE", help="Draw what was found as bars (PNG, SVG or PDF).")
@click.option("--rejudge", is_flag=True, help="Judge the rules anew with the rows of both files.")
@json_option
@click.pass_context
def command(
    context: click.Context,
    folder: str,
    source: str,
    reading: Reading,
    url: str | None,
    keep: str | None,
    figure: str | None,
    rejudge: bool,
    as_json: bool,
) -> None:
    """Hold a new file with the same columns against the design in DIR: are all of its rules still true?

    The exit status is 1 where anything is found. Rows without a finding are good; those that are there
    already are neither loaded nor kept.
    """
    if figure is not None:
        check_figure_path(figure)
    held = check_file(open_folder(Path(folder)), source, reading, url, keep, rejudge)
    done, standings = held.checked, held.standings
    found = done.violations
    if figure is not None:
        if isinstance(done, CheckedInPlace):
            raise InputError("rows outside memory are counted, not numbered", "Leave --figure out.")
        write_findings_figure(rows_by_finding(found), len(done.new), held.account.name, figure)
    if isinstance(done, CheckedInPlace):
        _outside(held, done, as_json)
        context.exit(1 if found else 0)
    new, bad, there, added = done.new, done.bad, done.there, done.added
    if as_json:
        print_json(
            {
                "format": "pravix.check",
                "version": 1,
                "rows": len(new),
                "good": len(done.good),
                "findings": [
                    {"about": one.about.value, "text": one.told, "rows": list(one.rows)} for one in found
                ],
                **({"standings": standings} if rejudge else {}),
                **({"added": added} if url is not None else {}),
            }
        )
    else:
        screen = Screen()
        screen.line(str(held.account))
        known = f", {counted(there, 'row')} there already" if there else ""
        screen.line(f"{counted(len(new), 'row')}: {len(done.good):,} good, {len(bad):,} to look at{known}.")
        _show(screen, found)
        for text in standings:
            screen.line(text, indent=2, mark="- ")
        if rejudge and not standings:
            screen.line("With the rows of both files every rule stands as it stood.")
        if added:
            told = [f"{table} {number:,}" for table, number in added.items() if number]
            screen.line(f"Loaded: {joined(told) or 'nothing, all of it was there'}.")
        if keep is not None:
            screen.line(f"Kept in {keep}: {counted(len(bad), 'row')} with their reasons.")
    if found:
        context.exit(1)


def _outside(held: CheckedFile, done: CheckedInPlace, as_json: bool) -> None:
    """Tell what was found in rows that stay outside memory, which are counted and not numbered."""
    if as_json:
        print_json(
            {
                "format": "pravix.check",
                "version": 1,
                "rows": done.rows,
                "good": None,
                "findings": [
                    {"about": one.about.value, "text": one.told, "rows": list(one.rows)}
                    for one in done.violations
                ],
                "unseen": list(done.unseen),
            }
        )
        return
    screen = Screen()
    screen.line(str(held.account))
    told_rows = counted(done.rows, "row")
    found_told = counted(len(done.violations), "finding") if done.violations else "all good"
    screen.line(f"{told_rows}: {found_told}.")
    _show(screen, done.violations)
    for text in done.unseen:
        screen.line(f"{text}.", indent=2, mark="- ")


def _show(screen: Screen, found: Sequence[Violation]) -> None:
    for about in dict.fromkeys(one.about for one in found):
        screen.heading(about.value.capitalize())
        for one in found:
            if one.about is about:
                screen.line(f"{one.told}.".replace("?.", "?"), indent=2, mark="- ")
