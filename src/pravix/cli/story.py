"""How a design is told in a terminal: what was read, the steps, the tables, the proof."""

from __future__ import annotations

from collections.abc import Sequence
from shlex import quote

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.show import Screen
from pravix.design.costs import costs_of
from pravix.design.links import link_told
from pravix.design.model import Design, ForeignKey
from pravix.design.telling import (
    flat_anomalies,
    proof_lines,
    repairs_told,
    repeated,
    roles_told,
    untaken_told,
    values_told,
    why,
)
from pravix.judgement.decisions import surely
from pravix.judgement.phrasing import open_text
from pravix.judgement.weights import SURE_FROM
from pravix.theory.dependency import written_dependency, written_in_order
from pravix.wording import counted, joined

_SHOWN = 3


def show_summary(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write what was found, the tables, what is uncertain and what to do next: a screen of it."""
    design = analysis.design
    _show_source(screen, analysis)
    for repair in repairs_told(design):
        screen.line(repair.told, mark="- ")
    if design.steps:
        account = costs_of(design)
        saved = sum(one.saves for one in account.tables)
        steps = counted(len(design.steps), "step")
        form = "" if design.untaken else " to third normal form"
        screen.line(f"{steps}{form}: {counted(saved, 'cell')} repeated what a table says once.")
    for told in roles_told(design):
        screen.line(told, mark="- ")
    _listed(screen, "Left as it was", [untaken_told(step) for step in design.untaken])
    show_tables(screen, design, short=True)
    _show_uncertain(screen, analysis)
    screen.heading("Proof")
    told_lines = proof_lines(design)
    if all(holds for holds, _ in told_lines):
        screen.check(True, " ".join(text for _, text in told_lines[:1]) + _other_claims(design))
    else:
        for holds, text in told_lines:
            screen.check(holds, text)
    _show_next(screen, analysis)


def _other_claims(design: Design) -> str:
    links = sum(len(table.foreign_keys) for table in design.tables)
    wished, lost = design.proof.wished_below, design.proof.lost_dependencies
    form = "third normal form" if not wished else f"third normal form but for {joined(wished)}, as you wish"
    rules = "Every rule can be checked within one table"
    if lost:
        told = joined([written_in_order(rule, design.scope_of(rule.columns).names) for rule in lost])
        rules = f"No single table can check {told}, as you wish"
        form = form if wished else "Boyce-Codd normal form"
    if any(table.independent_of for table in design.tables):
        form = "fourth normal form"
    hold = f"; {counted(links, 'reference')} {'holds' if links == 1 else 'hold'}" if links else ""
    return f" {rules}; {form}{hold}."


def _show_uncertain(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write the first open questions and remarks, and how many more there are."""
    design = analysis.design
    asked = [open_text(one, analysis.rows_of(one.columns).relation.total) for one in analysis.questions]
    asked += [doubt.question for doubt in design.doubts]
    if asked:
        screen.heading("Not certain: the rows cannot tell")
    for text in asked[:_SHOWN]:
        screen.line(text, indent=2, mark="- ")
    if len(asked) > _SHOWN:
        screen.note(f"  {counted(len(asked) - _SHOWN, 'more question')}: pravix decide")
    if design.remarks:
        screen.heading("Worth a thought")
    for remark in design.remarks[:_SHOWN]:
        screen.line(remark.text, indent=2, mark="- ")
    if len(design.remarks) > _SHOWN:
        screen.note(f"  {counted(len(design.remarks) - _SHOWN, 'more remark')}: --full")


def _show_next(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write what to do next, one command a line."""
    path = quote(analysis.path)
    screen.heading("Next")
    open_ones = analysis.questions or analysis.doubts
    steps = [(f"pravix decide {path}", "answer what the rows cannot tell")] if open_ones else []
    steps += [
        (f"pravix decompose {path} --full", "every step, with rows of the file"),
        (f"pravix arrange {path}", "what could be had otherwise"),
        (f"pravix decompose {path} --out DIR", "tables, SQL and all that can be made of them"),
    ]
    width = max(len(command) for command, _ in steps)
    for command, told in steps:
        screen.line(f"{command:<{width}}  {told}", indent=2)


def _show_source(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write what was read, how large it is, and what identifies a row."""
    design, relation = analysis.design, analysis.relation
    screen.line(str(analysis.source.account))
    size = f"{counted(relation.total, 'row')}, {counted(len(analysis.source.relation.columns), 'column')}"
    screen.line(f"{size}. {_identified(design)}")
    if design.searched_to is not None:
        searched = counted(design.searched_to, "column")
        screen.note(f"Rules were searched completely up to determinants of {searched}.")


def show_story(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write the whole story of a source's design."""
    design = analysis.design
    _show_source(screen, analysis)
    _listed(screen, "First normal form", [repair.told for repair in repairs_told(design)])
    _listed(screen, "What can go wrong in the flat table", flat_anomalies(design))
    if design.steps:
        screen.heading("Steps")
    for number, step in enumerate(design.steps, 1):
        screen.line(
            f"{number}. {step.to_table}: {written_dependency(step.determinant, step.moved)}", 2, "bold"
        )
        row_key = design.scope_of((*step.determinant, *step.moved)).row_key
        screen.line(f"{why(step, row_key)} {repeated(step)}", indent=5)
    _listed(screen, "Left as it was", [untaken_told(step) for step in design.untaken])
    _listed(screen, "Roles", roles_told(design))
    show_tables(screen, design)
    _listed(screen, "Checked values", values_told(design))
    linked = [(table, link) for table in design.tables for link in table.foreign_keys]
    _listed(screen, "Links", [f"{link_told(table, link, design.tables)}." for table, link in linked])
    _listed(screen, "Worth a thought", [remark.text for remark in design.remarks])
    screen.heading("Proof")
    for holds, text in proof_lines(design):
        screen.check(holds, text)


def _listed(screen: Screen, heading: str, texts: Sequence[str]) -> None:
    """Write a heading with a paragraph for each text; nothing where there is none."""
    if texts:
        screen.heading(heading)
    for text in texts:
        screen.line(text, indent=2, mark="- ")


def show_tables(screen: Screen, design: Design, short: bool = False) -> None:
    """Write the tables with keys, other columns, references and rows; what each saves unless ``short``."""
    screen.heading("Tables")
    account = costs_of(design)
    cells = {
        "Table": [one.table.name for one in account.tables],
        "Rows": [f"{one.table.rows.total:,}" for one in account.tables],
        "Saves": [f"{one.saves:,}" if one.saves else "" for one in account.tables],
        "Primary key": [", ".join(one.table.primary_key) for one in account.tables],
        "Other columns": [", ".join(one.table.described) for one in account.tables],
        "Refers to": [", ".join(map(referred, one.table.foreign_keys)) for one in account.tables],
        "Form": [one.table.form.value for one in account.tables],
        "Sure": [surely(one.table.confidence) for one in account.tables],
    }
    shown = [name for name in cells if not (short and name in ("Saves", "Form"))]
    rows = zip(*(cells[name] for name in shown), strict=True)
    numbers = [name for name in shown if name in ("Rows", "Saves")]
    screen.table(shown, list(map(list, rows)), numbers=numbers)
    gives = "gives" if account.joins == 1 else "give"
    size = f"{account.cells_before:,} cells in the file, {account.cells_after:,} in the tables"
    screen.line(f"{size}; {counted(account.joins, 'join')} {gives} the flat rows back.", indent=2)
    if any(table.confidence < SURE_FROM for table in design.tables):
        told = "Sure: how likely the right design has this table and this key; pravix decide asks."
        screen.line(told, indent=2)
    if any(one.saves for one in account.tables) and not short:
        screen.line("Saves: cells of the file that only repeat what the table says once.", indent=2)


def referred(link: ForeignKey) -> str:
    """Return the table that a link refers to, with the role, or with the column whose values show it."""
    if link.by_values:
        return f"{link.table} (by {', '.join(link.columns)})"
    return f"{link.table} ({link.role})" if link.role else link.table


def _identified(design: Design) -> str:
    if set(design.row_key) <= set(design.relation.names):
        return f"A row is identified by {joined(design.row_key)} ({surely(design.sure_of_key)})."
    return f"No columns identify a row, so {design.row_key[0]} was added: the row's number in the file."
