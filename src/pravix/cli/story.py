"""How a design is told in a terminal: what was read, the steps, the tables, the proof."""

from __future__ import annotations

from collections.abc import Sequence

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
from pravix.judgement.weights import SURE_FROM
from pravix.theory.dependency import written_dependency
from pravix.wording import counted, joined


def show_story(screen: Screen, analysis: CommandAnalysis) -> None:
    """Write the whole story of a source's design."""
    design = analysis.design
    relation = analysis.relation
    screen.line(str(analysis.source.account))
    size = f"{counted(relation.row_count, 'row')}, {counted(len(analysis.source.relation.columns), 'column')}"
    screen.line(f"{size}. {_identified(design)}")
    if design.searched_to is not None:
        searched = counted(design.searched_to, "column")
        screen.note(f"Rules were searched completely up to determinants of {searched}.")
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


def show_tables(screen: Screen, design: Design) -> None:
    """Write the tables with their keys, other columns, references and rows."""
    screen.heading("Tables")
    account = costs_of(design)
    screen.table(
        ["Table", "Rows", "Saves", "Primary key", "Other columns", "Refers to", "Form", "Sure"],
        [
            [
                one.table.name,
                f"{one.table.rows.row_count:,}",
                f"{one.saves:,}" if one.saves else "",
                ", ".join(one.table.primary_key),
                ", ".join(one.table.described),
                ", ".join(referred(link) for link in one.table.foreign_keys),
                one.table.form.value,
                surely(one.table.confidence),
            ]
            for one in account.tables
        ],
        numbers=["Rows", "Saves"],
    )
    gives = "gives" if account.joins == 1 else "give"
    cells = f"{account.cells_before:,} cells in the file, {account.cells_after:,} in the tables"
    screen.line(f"{cells}; {counted(account.joins, 'join')} {gives} the flat rows back.", indent=2)
    if any(table.confidence < SURE_FROM for table in design.tables):
        told = "Sure: how likely the right design has this table and this key; pravix decide asks."
        screen.line(told, indent=2)
    if any(one.saves for one in account.tables):
        screen.line("Saves: cells of the file that only repeat what the table says once.", indent=2)


def referred(link: ForeignKey) -> str:
    """Return the table that a link refers to, with the role."""
    return f"{link.table} ({link.role})" if link.role else link.table


def _identified(design: Design) -> str:
    if set(design.row_key) <= set(design.relation.names):
        return f"A row is identified by {joined(design.row_key)} ({surely(design.sure_of_key)})."
    return f"No columns identify a row, so {design.row_key[0]} was added: the row's number in the file."
