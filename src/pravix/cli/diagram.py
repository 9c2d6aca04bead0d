"""The command that draws a design, or writes it as text for documents."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.show import write_out
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.pictures import drawn
from pravix.pictures.diagram import write_diagram
from pravix.pictures.diagram_text import TEXTS
from pravix.pictures.drawn import DrawnTable
from pravix.wording import joined
from pravix.writing import write_text


@helped.command("diagram")
@click.argument("folder", metavar="DIR")
@click.argument("out", metavar="FILE")
@click.option("--around", metavar="TABLE", help="Only this table, with those beside it.")
@click.option("--keys", is_flag=True, help="Only the columns of primary keys and references.")
@click.option("--dark", is_flag=True, help="Light lines on dark paper (SVG, PNG and PDF).")
def command(folder: str, out: str, around: str | None, keys: bool, dark: bool) -> None:
    """Draw the tables of a folder and their references into FILE.

    The ending of FILE says what it becomes: .svg, .png or .pdf (A4, or A3) a drawing, .mmd Mermaid text,
    .dot Graphviz text, .txt or .html the relations as textbooks write them. With - .txt goes to standard
    output.
    """
    tables: Sequence[DrawnTable] = open_folder(Path(folder)).document.tables
    if around is not None:
        tables = drawn.around(tables, around)
    if keys:
        tables = drawn.keys_only(tables)
    ending = Path(out).suffix.lower() if out != "-" else ".txt"
    if ending in (".svg", ".png", ".pdf"):
        write_diagram(tables, out, dark)
    elif ending not in TEXTS:
        raise InputError(
            f"{out} is no kind of diagram", f"Known are .svg, .png, .pdf, {joined(list(TEXTS))}."
        )
    elif out == "-":
        write_out([TEXTS[ending](tables)])
    else:
        write_text(Path(out), [TEXTS[ending](tables)])
