"""The command that writes the SQL of a folder of results for one kind of database."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import blank_option
from pravix.cli.show import write_out
from pravix.databases.known import DATABASES, database
from pravix.folder.reader import open_folder
from pravix.sources.reading import Reading
from pravix.sql.schema import script, whole_script
from pravix.writing import write_text


@helped.command("sql")
@click.argument("folder", metavar="DIR")
@click.option(
    "--for", "name", type=click.Choice(DATABASES), default="sqlite", show_default=True, help="Whose SQL."
)
@click.option("--rows", is_flag=True, help="Write the rows as well, as INSERT statements.")
@click.option("--from", "table", metavar="TABLE", help="Write what fills the tables from a flat TABLE there.")
@blank_option
@click.option("--models", is_flag=True, help="Write classes of SQLAlchemy, in Python, instead of SQL.")
@click.option("--out", metavar="FILE", help="Write a file instead of standard output.")
def command(
    folder: str,
    name: str,
    rows: bool,
    table: str | None,
    blank: tuple[str, ...],
    models: bool,
    out: str | None,
) -> None:
    """Write what creates the tables of a folder, their indexes and the view of the flat rows.

    With --from the script fills the tables where the flat table is, and its last statement counts the rows
    that come back.
    """
    wanted, opened = database(name), open_folder(Path(folder))
    if models:
        if rows or table is not None:
            raise click.UsageError("--models goes with neither --rows nor --from")
        from pravix.sql.models import models as classes

        lines = iter([classes(opened.fitted(wanted).document, wanted)])
    elif table is None:
        lines = whole_script(opened.fitted(wanted), wanted, rows)
    elif rows:
        raise click.UsageError("--rows and --from exclude each other")
    else:
        from pravix.loading.in_place import script_in_place

        lines = script(script_in_place(opened, wanted, Reading(table=table, blank=blank or None)), wanted)
    if out is None:
        write_out(lines)
    else:
        write_text(Path(out), lines)
