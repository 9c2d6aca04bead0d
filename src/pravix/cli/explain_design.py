"""How the reasons for a table, a key, a link, or for a column not being elsewhere, look."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.show import Screen, print_json
from pravix.design.excerpt import Excerpt, excerpt
from pravix.design.links import link_told
from pravix.design.model import Table
from pravix.design.reasons import key_reasons, link_reasons, table_reasons, why_not
from pravix.design.telling import anomalies
from pravix.errors import InputError
from pravix.wording import joined, shortened

FORMS = 'Also: a rule "a -> b", "table NAME", "key NAME", "link NAME NAME", "COLUMN in NAME".'


def explain_table(analysis: CommandAnalysis, name: str, as_json: bool) -> None:
    """Explain why a table exists, with rows before and after and the anomalies that it removes."""
    design, table = analysis.design, _table(analysis, name)
    steps = [step for step in design.steps if step.to_table == table.name]
    reasons = table_reasons(design, table)
    wrong = [asdict(anomalies(step, design.row_key)) for step in steps]
    rows = [excerpt(design.relation, step) for step in steps]
    if as_json:
        told = {"anomalies": wrong, "rows": [asdict(one) for one in rows]}
        _print(table=table.name, reasons=reasons, **told)
        return
    screen = _begun(analysis, f"Table {table.name} ({', '.join(table.column_names)})", reasons)
    for one in rows:
        _show_excerpt(screen, one)
    if wrong:
        screen.heading("What went wrong in the flat table")
    for text in (text for one in wrong for text in one.values() if text):
        screen.line(text, indent=2, mark="- ")


def explain_key(analysis: CommandAnalysis, name: str, as_json: bool) -> None:
    """Explain why a table has its primary key."""
    table = _table(analysis, name)
    reasons = key_reasons(table, analysis.judgement.things)
    if as_json:
        _print(key=list(table.primary_key), table=table.name, reasons=reasons)
    else:
        _begun(analysis, f"The key of {table.name}: {joined(table.primary_key)}", reasons)


def explain_link(analysis: CommandAnalysis, names: Sequence[str], as_json: bool) -> None:
    """Explain the links between two tables, given in either order."""
    one, other = (_table(analysis, name) for name in names)
    pairs = ((one, other), (other, one))
    links = [(table, link) for table, far in pairs for link in table.foreign_keys if link.table == far.name]
    if not links:
        raise InputError(f"{one.name} and {other.name} do not refer to each other")
    design = analysis.design
    reasons = [text for table, link in links for text in link_reasons(design, table, link)]
    told = [f"{link_told(table, link, design.tables)}." for table, link in links]
    if as_json:
        _print(link=[one.name, other.name], reasons=[*told, *reasons])
    else:
        _begun(analysis, f"{one.name} and {other.name}", [*told, *reasons])


def explain_absence(analysis: CommandAnalysis, column: str, name: str, as_json: bool) -> None:
    """Explain why a column does not live in a table."""
    table = _table(analysis, name)
    reasons = why_not(analysis.design, column, table)
    if as_json:
        _print(column=column, table=table.name, reasons=reasons)
    else:
        _begun(analysis, f"Why {column} is not in {table.name}", reasons)


def has_table(analysis: CommandAnalysis, name: str) -> bool:
    """Return whether the design has a table of this name, case ignored."""
    return any(table.name.lower() == name.lower() for table in analysis.design.tables)


def _table(analysis: CommandAnalysis, name: str) -> Table:
    tables = analysis.design.tables
    for table in tables:
        if table.name.lower() == name.lower():
            return table
    known = joined([shortened(table.name) for table in tables])
    raise InputError(f"the design has no table {shortened(name)}", f"Its tables: {known}.")


def _print(**document: object) -> None:
    print_json({"format": "pravix.explanation", "version": 1, **document})


def _begun(analysis: CommandAnalysis, title: str, reasons: Sequence[str]) -> Screen:
    screen = Screen()
    screen.line(str(analysis.source.account))
    screen.line()
    screen.line(title, style="bold")
    for text in reasons:
        screen.line(text, indent=2, mark="- ")
    return screen


def _show_excerpt(screen: Screen, rows: Excerpt) -> None:
    screen.heading("Some rows of the file")
    screen.table(["Row", *rows.columns], [[*map(shortened, row)] for row in rows.before], numbers=["Row"])
    screen.heading("The same in the table")
    screen.table(rows.columns, [[*map(shortened, row)] for row in rows.after])
