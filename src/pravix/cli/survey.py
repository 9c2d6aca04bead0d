"""The command that shows what each column holds."""

from __future__ import annotations

from collections.abc import Sequence

import click

from pravix.cli.analysis import Analysis
from pravix.cli.options import json_option, source_argument
from pravix.cli.show import Screen, bar, print_json
from pravix.handover.document import source_document
from pravix.relation.profile import ColumnProfile, profile
from pravix.wording import counted, shortened


@click.command("survey")
@source_argument
@json_option
def command(source: str, as_json: bool) -> None:
    """Show each column's type, its different values, its blanks and how much of it repeats."""

    analysis = Analysis(source)
    profiles = profile(analysis.relation)
    if not as_json:
        _show(analysis, profiles)
        return
    print_json(
        {
            "format": "pravix.survey",
            "version": 1,
            "source": source_document(analysis.relation),
            "reading": str(analysis.source.account),
            "columns": [
                {
                    "name": found.name,
                    "type": str(found.type),
                    "distinct": found.distinct,
                    "blanks": found.blanks,
                    "repeats": found.repeats,
                    "examples": [{"value": value, "times": times} for value, times in found.examples],
                }
                for found in profiles
            ],
        }
    )


def _show(analysis: Analysis, profiles: Sequence[ColumnProfile]) -> None:
    screen = Screen()
    rows = analysis.relation.row_count
    screen.line(str(analysis.source.account))
    screen.line(f"{counted(rows, 'row')}, {counted(len(profiles), 'column')}")
    screen.line()
    wide = screen.width >= 90
    headings = ["Column", "Type", "Different", "Blank", "Repeated"]
    bar_width = 16 if wide else 8
    screen.table(
        [*headings, "Cells", *(["Most frequent"] if wide else [])],
        [
            [
                shortened(found.name),
                str(found.type),
                f"{found.distinct:,}",
                f"{found.blanks:,}",
                f"{found.repeats:,}",
                bar([(found.distinct, "#"), (found.repeats, "="), (found.blanks, ".")], bar_width),
                *([_examples(found.examples)] if wide else []),
            ]
            for found in profiles
        ],
        numbers=["Different", "Blank", "Repeated"],
        uncut=["Cells"],
    )
    cells = rows * len(profiles)
    repeats = sum(found.repeats for found in profiles)
    screen.line()
    screen.note("Cells: # first time the value occurs   = the value again   . blank")
    share = f"{repeats:,} of {counted(cells, 'cell')} ({100 * repeats / cells:.0f} %)"
    screen.line(f"{share} repeat a value of their column.")


def _examples(examples: tuple[tuple[str, int], ...]) -> str:

    value, times = examples[0] if examples else ("", 0)
    return f"{shortened(value, 16)} ({times:,})" if examples else ""
