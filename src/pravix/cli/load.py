"""The command that loads a folder of results into a database."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import blank_option, json_option, verbose_option
from pravix.cli.progress import Progress
from pravix.cli.show import Screen, print_json
from pravix.databases.known import database
from pravix.folder.reader import open_folder
from pravix.loading.load import Loaded, load_folder
from pravix.sources.connecting import url_of
from pravix.sources.reading import Reading
from pravix.wording import counted


@helped.command("load")
@click.argument("folder", metavar="DIR")
@click.argument("url", metavar="URL")
@click.option("--replace", "instead", is_flag=True, help="Replace tables of these names that are there.")
@click.option(
    "--from", "table", metavar="TABLE", help="Fill them from a flat table there, not from the folder."
)
@click.option("--keep-spaces", is_flag=True, help="With --from: keep the spaces around the text of cells.")
@blank_option
@verbose_option
@json_option
def command(
    folder: str,
    url: str,
    instead: bool,
    table: str | None,
    keep_spaces: bool,
    blank: tuple[str, ...],
    as_json: bool,
) -> None:
    """Load the tables of a folder that decompose wrote into the database at URL.

    All or nothing, in one transaction; the counts, the references and the view of the flat rows are checked
    there. URL is one of SQLAlchemy, like sqlite:///honey.db or postgresql://user@host/name. With --from the
    tables are filled from a flat table of that database, and no row leaves it.
    """
    opened = open_folder(Path(folder))
    with Progress() as progress:
        if table is None:
            loaded = load_folder(opened, url, instead, progress)
        else:
            from pravix.loading.in_place import load_in_place

            reading = Reading(table=table, keep_spaces=keep_spaces, blank=blank or None)
            loaded = load_in_place(opened, url, reading, instead, progress)
    if as_json:
        told = {
            "where": loaded.where,
            "tables": loaded.rows,
            "views": loaded.views,
            "notes": list(loaded.notes),
        }
        print_json({"format": "pravix.loaded", "version": 2, **told})
    else:
        _show(Screen(), loaded, url)


def _show(screen: Screen, loaded: Loaded, url: str) -> None:
    screen.table(["Table", "Rows"], [[name, f"{rows:,}"] for name, rows in loaded.rows.items()], ["Rows"])
    screen.line()
    tables = counted(len(loaded.rows), "table")
    kept = ", all constraints on" if loaded.keeps_rules else ""
    screen.check(True, f"{tables} loaded into {loaded.where}{kept}.")
    for view, rows in loaded.views.items():
        screen.check(True, f"The view {view} gives exactly the {counted(rows, 'row')} as read.")
    for note in loaded.notes:
        screen.line(f"{note}.", indent=2, mark="- ")
    screen.line()
    screen.line(f"To look at it: {_look(loaded, url)}")


def _look(loaded: Loaded, url: str) -> str:
    """Return the command of the database's own client; the password and all settings are left out."""
    address = url_of(url)
    query = f"SELECT * FROM {next(iter(loaded.views))} LIMIT 10"
    return database(address.get_backend_name()).client(address, query)
