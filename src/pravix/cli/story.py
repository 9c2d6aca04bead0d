"""How a design is told in a terminal: what was read, the steps, the tables, the proof."""

from __future__ import annotations

from pravix.cli.analysis import Analysis
from pravix.cli.show import Screen
from pravix.design.model import Design
from pravix.design.telling import proof_lines, repairs_told, repeated, why
from pravix.theory.dependency import written_dependency
from pravix.wording import counted, joined


def show_story(screen: Screen, analysis: Analysis) -> None:
    """Write the whole story of a source's design."""
    design = analysis.design
    relation = analysis.relation
    screen.line(str(analysis.source.account))
    size = f"{counted(relation.row_count, 'row')}, {counted(len(analysis.source.relation.columns), 'column')}"
    screen.line(f"{size}. {_identified(design)}")
    if design.searched_to is not None:
        searched = counted(design.searched_to, "column")
        screen.note(f"Rules were searched completely up to determinants of {searched}.")
    repairs = repairs_told(design)
    if repairs:
        screen.heading("First normal form")
    for repair in repairs:
        screen.line(repair.told, indent=2, mark="- ")
    if design.steps:
        screen.heading("Steps")
    for number, step in enumerate(design.steps, 1):
        screen.line(
            f"{number}. {step.to_table}: {written_dependency(step.determinant, step.moved)}", 2, "bold"
        )
        screen.line(f"{why(step, design.row_key)} {repeated(step)}", indent=5)
    show_tables(screen, design)
    screen.heading("Proof")
    for holds, text in proof_lines(design):
        screen.check(holds, text)


def show_tables(screen: Screen, design: Design) -> None:
    """Write the tables with their keys, other columns, references and rows."""
    screen.heading("Tables")
    screen.table(
        ["Table", "Rows", "Primary key", "Other columns", "Refers to", "Form"],
        [
            [
                table.name,
                f"{table.rows.row_count:,}",
                ", ".join(table.primary_key),
                ", ".join(table.described),
                ", ".join(link.table for link in table.foreign_keys),
                table.form.value,
            ]
            for table in design.tables
        ],
        numbers=["Rows"],
    )
    before = design.relation.row_count * len(design.repaired.original.columns)
    after = sum(table.rows.row_count * len(table.columns) for table in design.tables)
    screen.line(f"{before:,} cells in the file, {after:,} in the tables.", indent=2)


def _identified(design: Design) -> str:
    if set(design.row_key) <= set(design.relation.names):
        return f"A row is identified by {joined(design.row_key)}."
    return f"No columns identify a row, so {design.row_key[0]} was added: the row's number in the file."
