"""The command that writes the data dictionary of a folder of results."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.show import write_out
from pravix.folder.dictionary import as_markdown, for_file
from pravix.folder.reader import open_folder
from pravix.writing import write_text


@helped.command("dictionary")
@click.argument("folder", metavar="DIR")
@click.argument("out", metavar="[FILE]", required=False)
def command(folder: str, out: str | None) -> None:
    """Write the data dictionary of a folder as FILE.md, FILE.csv or FILE.json, or show it as Markdown.

    Meanings come from the ledger: pravix describe.
    """
    document = open_folder(Path(folder)).document
    if out is None:
        write_out([as_markdown(document)])
        return
    write_text(Path(out), [for_file(document, out)])
    click.echo(f"Written: {out}")
