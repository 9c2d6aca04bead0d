"""The command that writes the tables of a folder as one workbook."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.folder.workbook import write_workbook
from pravix.wording import counted


@helped.command("workbook")
@click.argument("folder", metavar="DIR")
@click.argument("out", metavar="FILE")
@click.option(
    "--harmless/--exact",
    default=True,
    show_default=True,
    help="Whether texts that a spreadsheet could run as a formula get an apostrophe before them.",
)
def command(folder: str, out: str, harmless: bool) -> None:
    """Write the tables of a folder as sheets of FILE.xlsx, header frozen and keys underlined."""
    if Path(out).suffix.lower() != ".xlsx":
        raise InputError(f"{out} is no workbook", "Give a file that ends in .xlsx.")
    opened = open_folder(Path(folder))
    write_workbook(opened, out, exact=not harmless)
    click.echo(f"Written: {out}, {counted(len(opened.tables), 'sheet')}")
