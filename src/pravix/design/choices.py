"""What a design could do otherwise: each choice with what it buys or rests on, and how to make it."""

from __future__ import annotations

import shlex
from dataclasses import asdict, dataclass

from pravix.design.apart import optional_groups
from pravix.design.checks import check_told
from pravix.design.costs import costs_of
from pravix.design.model import Design, Table
from pravix.design.restyle import identifying
from pravix.judgement.sensitive import sensitive_columns, told_of
from pravix.theory.dependency import written_names
from pravix.wording import counted, joined


@dataclass(frozen=True)
class Choice:
    """A choice: its ``topic``, what holds now, and the option of ``pravix arrange`` that changes it."""

    topic: str
    told: str
    option: str

    def document(self) -> dict[str, object]:
        """Return the choice as JSON can hold it."""
        return asdict(self)


def choices_of(design: Design) -> list[Choice]:
    """Return the choices that a design leaves, topic by topic."""
    return [
        *_names(design),
        *_tables(design),
        *_values(design),
        *_checks(design),
        *_groups(design),
        *_links(design),
        *_kinds(design),
        *_sensitive(design),
    ]


def _option(name: str, value: str) -> str:
    return f"--{name} {shlex.quote(value)}"


def _flat(table: Table, columns: tuple[str, ...]) -> str:
    """Return columns of a table as the file calls them, as they are written in an option."""
    flat: dict[str, str] = {}
    for name, own in table.flat_names.items():
        flat.setdefault(own, name)
    return written_names([flat.get(name, name) for name in columns])


def _names(design: Design) -> list[Choice]:
    found = []
    for table in design.tables:
        named = any(design.wishes.about("name", key) for key in identifying(table))
        if table.name_guessed and not named:
            told = f"{table.name} is a guess: no column says what a row of it is"
            option = _option("name", f"{_flat(table, table.natural_key)}={table.name}")
            found.append(Choice("Names", told, option))
    return found


def _tables(design: Design) -> list[Choice]:
    accounts = {one.table.name: one for one in costs_of(design).tables}
    found = []
    for step in design.steps:
        if step.determinant:
            cost = counted(accounts[step.to_table].joins, "join")
            told = (
                f"{step.to_table} has {joined(step.moved)} once for each {joined(step.determinant)}: "
                f"saves {counted(step.cells_saved, 'repeated cell')}, costs {cost}"
            )
            option = _option("together", written_names(step.determinant))
            found.append(Choice("Tables", told, option))
    return found


def _values(design: Design) -> list[Choice]:
    found = []
    for table in design.tables:
        for check in table.checks:
            if check.made and check.kind == "values":
                option = _option("table-of", _flat(table, (check.column,)))
                found.append(Choice("Lists of values", f"{table.name}: {check_told(check)}", option))
    return found


def _checks(design: Design) -> list[Choice]:
    found = []
    for table in design.tables:
        for check in table.checks:
            if not check.made:
                option = _option("check", f"{_flat(table, (check.column,))}: {check.kind}")
                found.append(Choice("Checks not made", f"{table.name}: {check_told(check)}", option))
    return found


def _groups(design: Design) -> list[Choice]:
    found = []
    for group in optional_groups(design.tables):
        table = design.table(group.table)
        told = (
            f"{table.name}: {joined(group.columns)} are filled together in {group.filled:,} of "
            f"{counted(group.rows, 'row')}"
        )
        found.append(Choice("Columns blank together", told, _option("apart", _flat(table, group.columns))))
    return found


def _sensitive(design: Design) -> list[Choice]:
    found = []
    for scope in design.scopes:
        known = {one.column: one for one in sensitive_columns(scope.relation)}
        for table in design.tables:
            own = [
                name
                for name, column in table.flat_names.items()
                if name in known and column in table.described
            ]
            if own and not table.apart_from and not table.roles:
                told = f"{table.name} holds {told_of([known[name] for name in own])}"
                found.append(Choice("To be handled with care", told, _option("apart", written_names(own))))
    return found


def _kinds(design: Design) -> list[Choice]:
    """Return where two groups of columns may hold one kind of thing, and where values say that they do."""
    found = []
    for doubt in design.doubts:
        option = _option("different" if doubt.made else "same", written_names((*doubt.one, *doubt.other)))
        told = f"{doubt.told}: {'taken for' if doubt.made else 'not taken for'} one kind of thing"
        found.append(Choice("Same kind of thing", told, option))
    for table in design.tables:
        for link in table.foreign_keys:
            ends = [_flat(table, link.columns), _flat(design.table(link.table), link.references)]
            asked = [", ".join((*doubt.one, *doubt.other)) for doubt in design.doubts]
            if link.by_values and ", ".join(ends) not in asked:
                told = f"{table.name} refers to {link.table} by {joined(link.columns)}, as the values show"
                found.append(Choice("Same kind of thing", told, _option("different", ", ".join(ends))))
        if len(table.roles) == 2:
            keys = [dict(role.columns)[table.natural_key[0]] for role in table.roles]
            told = f"{table.name} serves the roles {joined([role.name for role in table.roles])}"
            found.append(Choice("Same kind of thing", told, _option("different", written_names(keys))))
    return found


def _links(design: Design) -> list[Choice]:
    found = []
    for table in design.tables:
        for link in table.foreign_keys:
            if table.made_from is not None or table.apart_from:
                continue
            told = f"{table.name} to {link.table}: on delete {link.on_delete}, on update {link.on_update}"
            columns = _flat(table, link.columns)
            found.append(Choice("References", told, _option("link", f"{columns}: on_delete cascade")))
    return found
