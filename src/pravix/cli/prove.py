"""The command that repeats the proof of a design from its folder alone."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import blank_option, json_option
from pravix.cli.show import Screen, print_json
from pravix.folder.reader import open_folder
from pravix.proof.proving import prove_folder
from pravix.sources.reading import Reading


@helped.command("prove")
@click.argument("folder", metavar="DIR")
@click.option("--in", "url", metavar="URL", help="Prove the tables that are in a database. Needs --from.")
@click.option("--from", "table", metavar="TABLE", help="The flat table there that they were made from.")
@click.option("--keep-spaces", is_flag=True, help="With --from: keep the spaces around the text of cells.")
@blank_option
@json_option
@click.pass_context
def command(
    context: click.Context,
    folder: str,
    url: str | None,
    table: str | None,
    keep_spaces: bool,
    blank: tuple[str, ...],
    as_json: bool,
) -> None:
    """Load the tables of a folder that decompose wrote, check every claim again and join the rows back.

    Nothing but the folder is needed. With --in and --from the tables in a database are proved against the
    flat table there, and no row leaves it. The exit status is 1 where a claim does not hold.
    """
    if (url is None) != (table is None):
        raise click.UsageError("--in URL and --from TABLE go together.")
    if url is None:
        claims = prove_folder(Path(folder))
    else:
        from pravix.proof.in_place import prove_in_place

        reading = Reading(table=table, keep_spaces=keep_spaces, blank=blank or None)
        claims = prove_in_place(open_folder(Path(folder)), url, reading)
    if as_json:
        told = [{"holds": holds, "claim": text} for holds, text in claims]
        print_json({"format": "pravix.proof", "version": 1, "claims": told})
    else:
        screen = Screen()
        for holds, text in claims:
            screen.check(holds, text)
    if not all(holds for holds, _ in claims):
        context.exit(1)
