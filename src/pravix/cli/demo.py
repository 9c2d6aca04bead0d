"""The command that writes the demo data with its results and tells the story."""

from __future__ import annotations

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.show import Screen
from pravix.cli.story import show_story
from pravix.services.demonstrating import write_demo


@helped.command("demo")
@click.argument("folder", metavar="[DIR]", required=False)
def command(folder: str | None) -> None:
    """Write the demo data and all results into DIR, and tell the story on the screen.

    DIR is a new folder; without it one is named. The data is a honey co-operative's delivery sheet,
    made up: once clean and once rough, as sheets are.
    """

    path, analysis = write_demo(folder, CommandAnalysis)
    screen = Screen()
    screen.line("The demo: a honey co-operative writes one row for every drum on a delivery.")
    screen.line()
    show_story(screen, analysis)
    screen.heading("Written")
    screen.table(
        ["In " + str(path), "What it is"],
        [
            ["deliveries.csv", "the delivery sheet of this story"],
            ["deliveries_rough.csv", "the same deliveries as people typed them"],
            ["deliveries_office.xlsx", "the same as an office's workbook, with titles and totals"],
            ["deliveries_september.csv", "next month's sheet, with twelve things that are not as they were"],
            ["registers", "four registers of the co-operative, each a file of its own"],
            ["whiteboard.txt", "relations as somebody wrote them on a whiteboard"],
            ["tables", "the tables as CSV, schema.sql for SQLite, design.json, README.md, metadata"],
            ["tables.svg", "the diagram"],
            ["report.html", "the report: open it in a browser"],
        ],
    )
    screen.heading("Try next")
    for call in (
        f"pravix survey {path / 'deliveries_office.xlsx'}",
        f"pravix keys {path / 'deliveries.csv'}",
        f"pravix dependencies {path / 'deliveries.csv'}",
        f"pravix decide {path / 'deliveries_rough.csv'}",
        f"pravix explain {path / 'deliveries.csv'} district",
        f"pravix arrange {path / 'deliveries.csv'}",
        f"pravix prove {path / 'tables'}",
        f"pravix load {path / 'tables'} sqlite:///{path / 'honey.db'}",
        f"pravix check {path / 'tables'} {path / 'deliveries_september.csv'}",
        f"pravix connect {path / 'registers'} {path / 'deliveries.csv'} --out {path / 'all'}",
        f"pravix review {path / 'whiteboard.txt'}",
        f"pravix recombine {path / 'tables'} keeper district --run",
    ):
        screen.line(call, indent=2)
