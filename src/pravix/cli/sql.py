"""The command that writes the SQL of a folder of results for one kind of database."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli.show import write_out
from pravix.databases.known import DATABASES, database
from pravix.folder.reader import open_folder
from pravix.sql.schema import whole_script
from pravix.writing import write_text


@click.command("sql")
@click.argument("folder", metavar="DIR")
@click.option(
    "--for", "name", type=click.Choice(DATABASES), default="sqlite", show_default=True, help="Whose SQL."
)
@click.option("--rows", is_flag=True, help="Write the rows as well, as INSERT statements.")
@click.option("--out", metavar="FILE", help="Write a file instead of standard output.")
def command(folder: str, name: str, rows: bool, out: str | None) -> None:
    """Write what creates the tables of a folder, their indexes and the view of the flat rows."""
    wanted = database(name)
    lines = whole_script(open_folder(Path(folder)).fitted(wanted), wanted, rows)
    if out is None:
        write_out(lines)
    else:
        write_text(Path(out), lines)
