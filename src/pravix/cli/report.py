"""The command that writes the report on a folder of results."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.reports.report import report_html, report_markdown
from pravix.writing import write_text


@helped.command("report")
@click.argument("folder", metavar="DIR")
@click.argument("out", metavar="FILE")
@click.option("--title", metavar="TEXT", help="What the report is about.  [default: the name of DIR]")
def command(folder: str, out: str, title: str | None) -> None:
    """Write a report on a folder that decompose wrote: FILE.html, one page for everybody, or FILE.md.

    It holds the story, the tables and their diagram, evidence, questions, decisions, dictionary and proof.
    """
    document = open_folder(Path(folder)).document
    written = {".html": report_html, ".md": report_markdown}.get(Path(out).suffix.lower())
    if written is None:
        raise InputError(f"{out} is neither HTML nor Markdown", "Give a file that ends in .html or .md.")
    write_text(Path(out), [written(document, title or Path(folder).absolute().name)])
    click.echo(f"Written: {out}")
