"""Next month's file against a design: every rule, list, type and key, with the rows that say otherwise."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from enum import Enum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from pravix.document.model import (
    CheckDocument,
    ColumnDocument,
    DesignDocument,
    RuleDocument,
    TableDocument,
)
from pravix.relation.grouping import groups_by
from pravix.relation.relation import Column
from pravix.relation.types import SMALL_DIGITS, ColumnType, Kind, Misfit, comparable, misfit, shape
from pravix.validation.new_rows import ArrivedRow, ArrivedRows, bundle_of, part_rows
from pravix.validation.side_by_side import SideBySide, rows_with
from pravix.wording import counted, joined, shortened

_NAMED = 5


class About(Enum):
    """What a finding is about; all but ``KNOWN`` keep a row from being loaded."""

    CHANGED = "changed fact"
    CONTRADICTION = "contradiction"
    CONFLICT = "other values"
    KNOWN = "already there"
    LIST = "new value"
    TYPE = "type"
    LENGTH = "length"
    RANGE = "range"
    BLANK = "blank"
    ORPHAN = "refers to nothing"
    REFUSED = "refused by the database"


@dataclass(frozen=True)
class Violation:
    """One thing that is not as the design has it: what, in a sentence, and the numbers of the rows."""

    about: About
    told: str
    rows: tuple[int, ...]

    @property
    def keeps_out(self) -> bool:
        """Whether its rows cannot be loaded."""
        return self.about is not About.KNOWN


def rows_by_finding(found: Sequence[Violation]) -> dict[str, list[int]]:
    """Return the numbers of the rows that each kind of finding concerns."""
    rows: dict[str, list[int]] = {}
    for one in found:
        rows.setdefault(one.about.value, []).extend(one.rows)
    return rows


def violations_of(document: DesignDocument, stored: ArrivedRows, new: ArrivedRows) -> list[Violation]:
    """Return what the new rows say against a design and the rows stored, each thing once.

    Linear in the rows, for each rule of the design; what is told in words, in the rows that it is about.
    """
    key = row_key(document)
    both = SideBySide.of(stored, new)
    there, found = _known(document, key, both)
    both = both.without(there)
    fresh = both.new
    filled = always_filled(document)
    found += _breaking(document.dependencies, key, filled, both)
    found += _contradicting_keys(key, fresh)
    found += _cells(document, "", fresh)
    everything = {"": (stored, fresh)}
    for child in document.made_parts:
        parts, before = (_parts(document, child.of, rows) for rows in (fresh, stored))
        everything[child.of] = before, parts
        owner = {name for name in child.row_key if name in document.source.columns} or {*child.row_key}
        inside = [rule for rule in child.dependencies if owner <= {*rule.determinant}]
        rules = [rule for rule in child.dependencies if rule not in inside]
        found += _twice(inside, parts)
        found += _breaking(rules, (), filled, SideBySide.of(before, parts))
        found += _cells(document, child.of, parts)
    return [*found, *_orphans(document, everything)]


def _orphans(
    document: DesignDocument, rows: Mapping[str, tuple[ArrivedRows, ArrivedRows]]
) -> list[Violation]:
    """Return the values of new rows that refer to nothing, stored or new, by references found by values.

    ``rows`` are those stored and the new ones: of the file under the empty name, and of each bundle's parts.
    """

    def columns(table: TableDocument, own: str, place: int) -> Iterator[tuple[Column, ArrivedRows]]:
        for role in table.role_names:
            flat = {name: column for column, name in table.flat_columns(role).items()}.get(own, "")
            told = rows.get(bundle_of(document, table, role))
            if told is not None and flat in told[place].values.names:
                yield told[place].values.column(flat), told[place]

    found = []
    for table in document.tables:
        for link in (link for link in table.foreign_keys if link.by_values and len(link.columns) == 1):
            other, (own,), (key,) = (
                document.by_name[link.references.table],
                link.columns,
                link.references.columns,
            )
            known = {
                value
                for place in (0, 1)
                for column, _ in columns(other, key, place)
                for value in column.present_values
            }
            lost: dict[str, list[int]] = {}
            for column, told_rows in columns(table, own, 1):
                lacking = [value for value in column.present_values if value not in known]
                for place in rows_with(column, lacking):
                    lost.setdefault(column.text(place), []).append(int(told_rows.numbers[place]))
            for value, numbers in lost.items():
                numbers = list(dict.fromkeys(numbers))
                told = f"{own} {shortened(value)} is no {key} of {other.name} ({_rows(numbers)})"
                found.append(Violation(About.ORPHAN, told, tuple(numbers)))
    return found


def _breaking(
    rules: Iterable[RuleDocument], key: Sequence[str], filled: Collection[str], both: SideBySide
) -> list[Violation]:
    """Return where new rows break rules other than those by which the key determines everything."""
    found = []
    for rule in rules:
        determinant, dependent = rule.determinant, rule.dependent
        if set(determinant) != set(key):
            stored, new = both.disagreeing(determinant, dependent)
            telling = [row for row in new if row.values.get(dependent) or dependent not in filled]
            found += _broken(determinant, dependent, stored, telling)
    return found


def _twice(rules: Iterable[RuleDocument], parts: Sequence[ArrivedRow]) -> list[Violation]:
    """Return the parts that come more than once in a row, where each row has such a part once.

    ``rules`` are those of what the parts belong to and one of their columns.
    """
    told: dict[tuple[int, str], Violation] = {}
    for rule in rules:
        places: dict[tuple[int, tuple[str, ...]], set[str]] = {}
        for part in parts:
            cells = tuple(part.values.get(name, "") for name in rule.determinant)
            places.setdefault((part.number, cells), set()).add(part.values.get(rule.dependent, ""))
        for (number, cells), said in places.items():
            if len(said) > 1 and all(cells):
                text = f"row {number} has {_told(rule.determinant, cells)} more than once; no row before had"
                told.setdefault((number, text), Violation(About.CONTRADICTION, text, (number,)))
    return list(told.values())


def _parts(document: DesignDocument, bundle: str, rows: ArrivedRows) -> ArrivedRows:
    """Return the parts of rows as rows of their own, each with the number of its row."""
    numeric = {
        flat: table.column(own).kind.numeric
        for table in document.tables
        for role in table.role_names
        for flat, own in table.flat_columns(role).items()
    }
    owners, values = [], []
    for place, row in enumerate(rows):
        for part in part_rows(document, row, bundle):
            told = {name: comparable(cell, numeric.get(name, False)) for name, cell in part.items()}
            owners.append(place)
            values.append({**row.values, **told})
    return ArrivedRows.of(rows.cells.take(np.array(owners, np.intp)), values)


def row_key(document: DesignDocument) -> tuple[str, ...]:
    """Return the flat columns of the natural key of the main table, those that numbers stand for included."""
    if document.row_key is not None and any(table.independent_of for table in document.tables):
        return document.row_key.columns
    by_name = document.by_name
    return tuple(dict.fromkeys(key_columns(by_name[document.main], "", by_name)))


def key_columns(table: TableDocument, role: str, by_name: Mapping[str, TableDocument]) -> list[str]:
    """Return the flat columns of a table's natural key in a role, in the key's order."""
    flat = {own: column for column, own in table.flat_columns(role).items()}
    found = []
    for name in table.natural_key:
        if name in flat:
            found.append(flat[name])
            continue
        for link in table.foreign_keys:
            if name in link.columns:
                other = by_name[link.references.table]
                found += key_columns(other, link.role or role, by_name)
    return found


def always_filled(document: DesignDocument) -> set[str]:
    """Return the flat columns that may not be blank where they live; a blank there is told as such."""
    return {
        flat
        for table in document.tables
        for role in table.role_names
        for flat, own in table.flat_columns(role).items()
        if not table.column(own).nullable
    }


def _told(names: Sequence[str], cells: Sequence[str]) -> str:
    pairs = zip(names, cells, strict=True)
    return joined([f"{name} {shortened(cell) if cell else 'blank'}" for name, cell in pairs])


def _rows(numbers: Sequence[int]) -> str:
    shown = joined([str(number) for number in numbers[:_NAMED]])
    more = f" and {len(numbers) - _NAMED} more" if len(numbers) > _NAMED else ""
    return f"{'row' if len(numbers) == 1 else 'rows'} {shown}{more}"


def _shown(values: Mapping[str, str], name: str) -> str:
    cell = values.get(name, "").replace("\x1f", "; ")
    return shortened(cell) if cell else "blank"


def _known(
    document: DesignDocument, key: Sequence[str], both: SideBySide
) -> tuple[NDArray[np.bool_], list[Violation]]:
    """Return which new rows have a key that is stored already, and what is to be said of them.

    A design whose rows are numbered has no such key: there equal rows count as the same.
    """
    stored, new = both.stored, both.new
    columns = [name for name in key if name in document.source.columns or name in stored.values.names]
    wanted = columns if len(columns) == len(key) else list(document.source.columns)
    old = both.stored_alike(wanted)
    there = old >= 0
    differing = both.differing(old)
    conflicts: dict[tuple[str, str], Violation] = {}
    names = new.values.names
    for place in np.flatnonzero(differing).tolist():
        row, before = new[place], stored[int(old[place])]
        other = [name for name in names if row.values[name] != before.values.get(name, "")]
        changes = joined(
            [f"{name} {_shown(row.values, name)}, not {_shown(before.values, name)}" for name in other[:3]]
        )
        cells = tuple(row.values[name] for name in wanted)
        told = f"{_told(wanted, cells)} is there with other values: row {row.number} has {changes}"
        conflicts[str(cells), changes] = Violation(About.CONFLICT, told, (row.number,))
    found = list(conflicts.values())
    same = new.numbers[there & ~differing].tolist()
    if same:
        told = (
            f"{counted(len(same), 'row')} {'is' if len(same) == 1 else 'are'} there already ({_rows(same)})"
        )
        found.append(Violation(About.KNOWN, told, tuple(same)))
    return there, found


def _broken(
    determinant: Sequence[str], dependent: str, stored: Iterable[ArrivedRow], new: Iterable[ArrivedRow]
) -> list[Violation]:
    """Return where new rows break a rule: against what is stored, or among themselves."""
    facts: dict[tuple[str, ...], dict[str, int]] = {}
    for row in stored:
        cells = tuple(row.values.get(name, "") for name in determinant)
        facts.setdefault(cells, {}).setdefault(row.values.get(dependent, ""), 0)
        facts[cells][row.values.get(dependent, "")] += 1
    seen: dict[tuple[str, ...], dict[str, list[int]]] = {}
    for row in new:
        cells = tuple(row.values.get(name, "") for name in determinant)
        if all(cells):
            seen.setdefault(cells, {}).setdefault(row.values.get(dependent, ""), []).append(row.number)
    found = []
    for cells, said in seen.items():
        named = _told(determinant, cells)
        if cells in facts:
            (before, count), *_ = facts[cells].items()
            for value, numbers in said.items():
                if value != before:
                    now, then = _shown({dependent: value}, dependent), _shown({dependent: before}, dependent)
                    told = (
                        f"{named} now has {dependent} {now} ({_rows(numbers)}), but {then} in "
                        f"{counted(count, 'stored row')}: a correction, or a second one?"
                    )
                    found.append(Violation(About.CHANGED, told, tuple(numbers)))
        elif len(said) > 1:
            values = [
                f"{_shown({dependent: value}, dependent)} ({_rows(rows)})" for value, rows in said.items()
            ]
            numbers = sorted(number for rows in said.values() for number in rows)
            told = f"{named} has {dependent} {joined(values)}: the new rows contradict each other"
            found.append(Violation(About.CONTRADICTION, told, tuple(numbers)))
    return found


def _contradicting_keys(key: Sequence[str], new: ArrivedRows) -> list[Violation]:
    """Return the keys that come more than once among the new rows."""
    if not set(key) <= set(new.values.names):
        return []
    groups = groups_by(new.values, key)
    again = np.bincount(groups)[groups] > 1
    seen: dict[tuple[str, ...], list[int]] = {}
    for row in new.take(np.flatnonzero(again)):
        seen.setdefault(tuple(row.values[name] for name in key), []).append(row.number)
    found = []
    for cells, numbers in seen.items():
        if all(cells):
            told = f"{_told(key, cells)} comes {len(numbers)} times ({_rows(numbers)}), but identifies a row"
            found.append(Violation(About.CONTRADICTION, told, tuple(numbers)))
    return found


def _cells(document: DesignDocument, bundle: str, new: ArrivedRows) -> list[Violation]:
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
            Violation(about, f"{text} ({_rows(rows)})", tuple(rows)) for (about, text), rows in wrong.items()
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


def cell_rules(document: DesignDocument, bundle: str = "") -> Iterator[CellRules]:
    """Yield the rules of each flat column of the file's rows, or of a bundle's parts."""
    told: set[str] = set()
    for table in document.tables:
        if table.part_of != bundle or (table.repairs and not bundle):
            continue
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
