"""How the reasons for a table, a key, a link, or for a column not being elsewhere, look."""

from __future__ import annotations

from dataclasses import asdict

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.show import Screen, print_json
from pravix.design.excerpt import Excerpt
from pravix.services.explaining import Reasons
from pravix.wording import shortened


def explain_reasons(analysis: CommandAnalysis, found: Reasons, as_json: bool) -> None:
    """Show reasons, with rows before and after and the anomalies that a table removes."""
    if as_json:
        shown = {
            "anomalies": [asdict(one) for one in found.wrong],
            "rows": [asdict(one) for one in found.excerpts],
        }
        told = {**found.about, "reasons": found.reasons, **(shown if set(found.about) == {"table"} else {})}
        print_json({"format": "pravix.explanation", "version": 1, **told})
        return
    screen = Screen()
    screen.line(str(analysis.source.account))
    screen.line()
    screen.line(found.title, style="bold")
    for text in found.reasons:
        screen.line(text, indent=2, mark="- ")
    for rows in found.excerpts:
        _show_excerpt(screen, rows)
    if found.wrong:
        screen.heading("What went wrong in the flat table")
    for text in (text for one in found.wrong for text in asdict(one).values() if text):
        screen.line(text, indent=2, mark="- ")


def _show_excerpt(screen: Screen, rows: Excerpt) -> None:
    screen.heading("Some rows of the file")
    screen.table(["Row", *rows.columns], [[*map(shortened, row)] for row in rows.before], numbers=["Row"])
    screen.heading("The same in the table")
    screen.table(rows.columns, [[*map(shortened, row)] for row in rows.after])
