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
        told = {"format": "pravix.explanation", "version": 1, **found.about, "reasons": found.reasons}
        if found.removed is not None:
            told["anomalies"] = [asdict(wrong) for _, wrong in found.removed]
            told["rows"] = [asdict(rows) for rows, _ in found.removed]
        print_json(told)
        return
    screen = Screen()
    screen.line(str(analysis.source.account))
    screen.line()
    screen.line(found.title, style="bold")
    for text in found.reasons:
        screen.line(text, indent=2, mark="- ")
    removed = found.removed or []
    for rows, _ in removed:
        _show_excerpt(screen, rows)
    if removed:
        screen.heading("What went wrong in the flat table")
    for text in (text for _, wrong in removed for text in asdict(wrong).values() if text):
        screen.line(text, indent=2, mark="- ")


def _show_excerpt(screen: Screen, rows: Excerpt) -> None:
    screen.heading("Some rows of the file")
    screen.table(["Row", *rows.columns], [[*map(shortened, row)] for row in rows.before], numbers=["Row"])
    screen.heading("The same in the table")
    screen.table(rows.columns, [[*map(shortened, row)] for row in rows.after])
