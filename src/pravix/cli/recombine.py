"""The command that puts columns side by side again: the query, its joins, and the rows."""

from __future__ import annotations

from itertools import islice
from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import all_option, json_option
from pravix.cli.show import Screen, print_json, write_out
from pravix.databases.known import DATABASES, database
from pravix.folder.reader import open_folder
from pravix.loading.side_by_side import recombined, run, told
from pravix.wording import verbatim

_ROWS_SHOWN = 20


@helped.command("recombine")
@click.argument("folder", metavar="DIR")
@click.argument("columns", metavar="COLUMN...", nargs=-1, required=True)
@click.option("--run", "rows_too", is_flag=True, help="Show the rows as well, from SQLite in memory.")
@click.option(
    "--for", "name", type=click.Choice(DATABASES), default="sqlite", show_default=True, help="Whose SQL."
)
@all_option("rows")
@json_option
def command(
    folder: str, columns: tuple[str, ...], rows_too: bool, name: str, show_all: bool, as_json: bool
) -> None:
    """Write the query that puts COLUMNs side by side, with only the joins that they need.

    A column is called as in the file, or TABLE.COLUMN.
    """
    opened = open_folder(Path(folder))
    query = recombined(opened.document, columns, database(name))
    rows = run(opened, recombined(opened.document, columns)) if rows_too else []
    if as_json:
        document = {
            "sql": query.sql,
            "joins": query.joins,
            "path": list(query.path),
            "columns": list(columns),
        }
        more = {"rows": [list(row) for row in rows]} if rows_too else {}
        print_json({"format": "pravix.query", "version": 1, **document, **more})
        return
    screen = Screen()
    screen.note(told(query))
    write_out([f"{query.sql};\n"])
    if rows_too:
        screen.line()
        shown = islice(rows, None if show_all else _ROWS_SHOWN)
        screen.table(
            columns, [["" if cell is None else verbatim(str(cell)) for cell in row] for row in shown]
        )
        if len(rows) > _ROWS_SHOWN and not show_all:
            screen.note(f"{len(rows) - _ROWS_SHOWN:,} more rows; --all shows them.")
