"""The cells of a new file: what the tables can hold, and what they would give back."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from functools import cached_property

import numpy as np

from pravix.document.model import CheckDocument, ColumnDocument, DesignDocument, TableDocument
from pravix.relation.grouping import first_positions, groups_by
from pravix.relation.types import SMALL_DIGITS, ColumnType, Kind, Misfit, comparable, misfit, shape
from pravix.validation.finding import About, Violation, rows_told, shown
from pravix.validation.new_rows import ArrivedRows
from pravix.validation.side_by_side import rows_with
from pravix.wording import counted, joined, shortened


def cells_against(document: DesignDocument, bundle: str, new: ArrivedRows) -> list[Violation]:
    """Return the cells that the tables of a bundle's parts, or of the file's rows, cannot hold."""
    found: list[Violation] = []
    for rules in cell_rules(document, bundle):
        if rules.flat not in new.values.names:
            continue
        column = new.values.column(rules.flat)
        against = {value: rules.against(value) for value in ("", *column.present_values)}
        wrong: dict[tuple[About, str], list[int]] = {}
        for place in rows_with(column, [value for value, about in against.items() if about is not None]):
            about = against[column.text(place)]
            assert about is not None
            wrong.setdefault(about, []).append(int(new.numbers[place]))
        found += [
            Violation(about, f"{text} ({rows_told(rows)})", tuple(rows))
            for (about, text), rows in wrong.items()
        ]
    return found


def computed_otherwise(document: DesignDocument, new: ArrivedRows, wrong: Collection[int]) -> list[Violation]:
    """Return the cells that the tables would not give back: those that are made of others there.

    ``wrong`` are the numbers of rows that hold what no cell may be: nothing can be made of these. Linear in
    the different combinations of a column's cells and of those that it is made of.
    """
    found: list[Violation] = []
    kinds = dict(zip(document.source.columns, document.flat.kinds, strict=True))
    for entry in document.rebuild:
        names = list(dict.fromkeys((*entry.needs, entry.column)))
        if not entry.needs or not set(names) <= set(new.values.names):
            continue
        groups = groups_by(new.values, names)
        against: dict[int, str] = {}
        for group, row in enumerate(new.values.project(names).take(first_positions(groups)).rows()):
            values = dict(zip(names, row, strict=True))
            given = entry.cell([values[name] for name in entry.needs])
            wanted = {entry.column: comparable(given, kinds[entry.column].numeric)}
            if wanted[entry.column] != values[entry.column]:
                told = f"{entry.column} is {shown(values, entry.column)}, but {shown(wanted, entry.column)}"
                against[group] = f"{told} as {entry}"
        rows: dict[str, list[int]] = {}
        for place in np.flatnonzero(np.isin(groups, list(against))).tolist():
            if (number := int(new.numbers[place])) not in wrong:
                rows.setdefault(against[int(groups[place])], []).append(number)
        found += [
            Violation(About.COMPUTED, f"{told} ({rows_told(numbers)})", tuple(numbers))
            for told, numbers in rows.items()
        ]
    return found


@dataclass(frozen=True)
class CellRules:
    """What the cells of a flat column may be: of its type and length, blank or not, in a list or a range."""

    flat: str
    column: ColumnDocument
    keyed: bool
    checks: Sequence[CheckDocument]

    def against(self, cell: str) -> tuple[About, str] | None:
        """Return why a cell cannot stand there; None where it can."""
        flat = self.flat
        if not cell:
            if self.keyed or not self.column.nullable:
                return About.BLANK, f"{flat} is blank, but always filled in what is stored"
            return None
        about = self._misfit(cell)
        if about is None and self._allowed and cell not in self._allowed:
            about = About.LIST, f"{flat} {shortened(cell)} is none of {joined(sorted(self._allowed), 'or')}"
        if about is None and self._pattern is not None and shape(cell) != self._pattern:
            about = About.TYPE, f"{flat} {shortened(cell)} is not written like {self._pattern}"
        if about is None and self._ends is not None and _outside(cell, self._ends):
            ends = self._ends
            about = About.RANGE, f"{flat} {shortened(cell)} lies not between {ends[0]} and {ends[1]}"
        return about

    def _misfit(self, cell: str) -> tuple[About, str] | None:
        """Return why a cell cannot stand in the column, by the rules by which its type was found."""
        flat, column, found = self.flat, self.column, misfit(self.type, cell)
        if found is None:
            return None
        if found is Misfit.KIND:
            return About.TYPE, f"{flat} {shortened(cell)} is no {column.kind.value}"
        if found is Misfit.PLACES:
            return About.LENGTH, f"{flat} {cell} has more than {counted(column.scale, 'decimal place')}"
        if found is Misfit.LENGTH:
            told = counted(column.length, "character")
            return About.LENGTH, f"{flat} {shortened(cell)} is longer than {told}"
        if column.kind is Kind.INTEGER:
            return About.LENGTH, f"{flat} {cell} has more than {SMALL_DIGITS} digits"
        return About.LENGTH, f"{flat} {cell} has more digits than {column.type}"

    @cached_property
    def type(self) -> ColumnType:
        """The type of its cells."""
        return self.column.cells

    @cached_property
    def _allowed(self) -> set[str]:
        return {value for check in self.checks if check.kind == "values" for value in check.values}

    @cached_property
    def _ends(self) -> Sequence[str] | None:
        return next((check.values for check in self.checks if check.kind == "range"), None)

    @cached_property
    def _pattern(self) -> str | None:
        return next((check.values[0] for check in self.checks if check.kind == "pattern"), None)


def tables_of(document: DesignDocument, bundle: str = "") -> list[TableDocument]:
    """Return the tables of the file's rows, or of a bundle's parts."""
    return [one for one in document.tables if one.part_of == bundle and (bundle or not one.repairs)]


def cell_rules(document: DesignDocument, bundle: str = "") -> Iterator[CellRules]:
    """Yield the rules of each flat column of the file's rows, or of a bundle's parts."""
    told: set[str] = set()
    for table in tables_of(document, bundle):
        checks = [check for check in table.checks if check.made]
        for role in table.role_names:
            for flat, own in table.flat_columns(role).items():
                if flat not in told:
                    told.add(flat)
                    allowed = [check for check in checks if check.column == own]
                    yield CellRules(flat, table.column(own), own in table.primary_key, allowed)


def _outside(cell: str, ends: Sequence[str]) -> bool:
    try:
        return not Decimal(ends[0]) <= Decimal(cell) <= Decimal(ends[1])
    except InvalidOperation:
        return not ends[0] <= cell <= ends[1]
