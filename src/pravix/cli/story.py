"""How a design is told in a terminal: what was read, the steps, the tables, the proof."""

from __future__ import annotations

from collections import Counter

from pravix.cli.analysis import Analysis
from pravix.cli.show import Screen
from pravix.design.links import link_told
from pravix.design.model import Design, ForeignKey
from pravix.design.telling import flat_anomalies, proof_lines, repairs_told, repeated, roles_told, why
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
    wrong = flat_anomalies(design)
    if wrong:
        screen.heading("What can go wrong in the flat table")
    for text in wrong:
        screen.line(text, indent=2, mark="- ")
    if design.steps:
        screen.heading("Steps")
    for number, step in enumerate(design.steps, 1):
        screen.line(
            f"{number}. {step.to_table}: {written_dependency(step.determinant, step.moved)}", 2, "bold"
        )
        screen.line(f"{why(step, design.row_key)} {repeated(step)}", indent=5)
    roles = roles_told(design)
    if roles:
        screen.heading("Roles")
    for text in roles:
        screen.line(text, indent=2, mark="- ")
    show_tables(screen, design)
    linked = [(table, link) for table in design.tables for link in table.foreign_keys]
    if linked:
        screen.heading("Links")
    for table, link in linked:
        screen.line(f"{link_told(table, link, design.tables)}.", indent=2, mark="- ")
    screen.heading("Proof")
    for holds, text in proof_lines(design):
        screen.check(holds, text)


def show_tables(screen: Screen, design: Design) -> None:
    """Write the tables with their keys, other columns, references and rows."""
    screen.heading("Tables")
    saved: Counter[str] = Counter()
    for step in design.steps:
        saved[step.to_table] += step.cells_saved
    screen.table(
        ["Table", "Rows", "Saves", "Primary key", "Other columns", "Refers to", "Form"],
        [
            [
                table.name,
                f"{table.rows.row_count:,}",
                f"{saved[table.name]:,}" if table.name in saved else "",
                ", ".join(table.primary_key),
                ", ".join(table.described),
                ", ".join(_referred(link) for link in table.foreign_keys),
                table.form.value,
            ]
            for table in design.tables
        ],
        numbers=["Rows", "Saves"],
    )
    before = design.relation.row_count * len(design.repaired.original.columns)
    after = sum(table.rows.row_count * len(table.columns) for table in design.tables)
    further_roles = sum(len(table.roles) - 1 for table in design.tables if table.roles)
    joins = counted(len(design.tables) - 1 + further_roles, "join")
    gives = "gives" if joins.startswith("1 ") else "give"
    cells = f"{before:,} cells in the file, {after:,} in the tables"
    screen.line(f"{cells}; {joins} {gives} the flat rows back.", indent=2)
    if saved:
        screen.line("Saves: cells of the file that only repeat what the table says once.", indent=2)


def _referred(link: ForeignKey) -> str:
    return f"{link.table} ({link.role})" if link.role else link.table


def _identified(design: Design) -> str:
    if set(design.row_key) <= set(design.relation.names):
        return f"A row is identified by {joined(design.row_key)}."
    return f"No columns identify a row, so {design.row_key[0]} was added: the row's number in the file."
