"""The command that repeats the proof of a design from its folder alone."""

from __future__ import annotations

from pathlib import Path

import click

from pravix.cli.options import json_option
from pravix.cli.show import Screen, print_json
from pravix.proof.proving import prove_folder


@click.command("prove")
@click.argument("folder", metavar="DIR")
@json_option
@click.pass_context
def command(context: click.Context, folder: str, as_json: bool) -> None:
    """Load the tables of a folder that decompose wrote, check every claim again and join the rows back.

    Nothing but the folder is needed. The exit status is 1 where a claim does not hold.
    """
    claims = prove_folder(Path(folder))
    if as_json:
        told = [{"holds": holds, "claim": text} for holds, text in claims]
        print_json({"format": "pravix.proof", "version": 1, "claims": told})
    else:
        screen = Screen()
        for holds, text in claims:
            screen.check(holds, text)
    if not all(holds for holds, _ in claims):
        context.exit(1)
