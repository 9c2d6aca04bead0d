"""Next month's file against a design: every rule, list, type and key, with the rows that say otherwise."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from pravix.document.model import DesignDocument, RuleDocument, TableDocument
from pravix.relation.grouping import groups_by
from pravix.relation.relation import Column, Relation
from pravix.relation.types import comparable
from pravix.validation.cells import cells_against, computed_otherwise, tables_of
from pravix.validation.finding import About, Violation, pairs_told, rows_told, shown
from pravix.validation.new_rows import ArrivedRow, ArrivedRows, bundle_of, part_rows
from pravix.validation.side_by_side import SideBySide, one_below_another, rows_with
from pravix.wording import counted, joined, shortened

_OF_RULES = (About.CHANGED, About.CONTRADICTION)


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
    cells = cells_against(document, "", fresh)
    wrong = {number for one in cells for number in one.rows}
    found += [*cells, *computed_otherwise(document, fresh, wrong)]
    everything = {"": (stored, fresh)}
    for child in document.made_parts:
        parts, before = (_parts(document, child.of, rows) for rows in (fresh, stored))
        everything[child.of] = before, parts
        owner = {name for name in child.row_key if name in document.source.columns} or {*child.row_key}
        inside = [rule for rule in child.dependencies if owner <= {*rule.determinant}]
        rules = [rule for rule in child.dependencies if rule not in inside]
        found += _twice(inside, parts)
        of_parts = filled | always_filled(document, child.of)
        found += _breaking(rules, (), of_parts, SideBySide.of(before, parts))
        found += cells_against(document, child.of, parts)
    told = {number for one in found if one.about in _OF_RULES for number in one.rows}
    found += [one for one in _across_roles(document, everything) if not told.issuperset(one.rows)]
    return [*found, *_orphans(document, everything)]


def _across_roles(
    document: DesignDocument, rows: Mapping[str, tuple[ArrivedRows, ArrivedRows]]
) -> list[Violation]:
    """Return where new rows say something else of a thing than rows that name it in another role.

    ``rows`` are those stored and the new ones: of the file under the empty name, and of each bundle's parts.
    """
    found = []
    for table in (one for one in document.tables if len(one.role_names) > 1):
        key = table.natural_key
        for fact in (name for name in table.column_names if name not in key):
            names = (*key, fact)
            told = list(_in_roles(document, table, names, rows))
            if len(told) > 1:
                sides = (one_below_another(names, side) for side in zip(*told, strict=True))
                stored, new = SideBySide.of(*(ArrivedRows(one, one) for one in sides)).disagreeing(key, fact)
                blank = table.column(fact).nullable
                found += _broken(key, fact, stored, [row for row in new if blank or row.values[fact]])
    return found


def _in_roles(
    document: DesignDocument,
    table: TableDocument,
    names: Sequence[str],
    rows: Mapping[str, tuple[ArrivedRows, ArrivedRows]],
) -> Iterator[list[Relation]]:
    """Yield what stored and new rows say in each role of some columns of a table, where they have all."""
    for role in table.role_names:
        flat = {own: name for name, own in table.flat_columns(role).items()}
        told = rows.get(bundle_of(document, table, role), ())
        wanted = [flat.get(name, "") for name in names]
        if told and all({*wanted} <= {*side.values.names} for side in told):
            yield [
                Relation(
                    tuple(
                        replace(side.values.column(name), name=own)
                        for name, own in zip(wanted, names, strict=True)
                    ),
                    side.numbers,
                )
                for side in told
            ]


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
                told = f"{own} {shortened(value)} is no {key} of {other.name} ({rows_told(numbers)})"
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
                named = pairs_told(rule.determinant, cells)
                text = f"row {number} has {named} more than once; no row before had"
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


def always_filled(document: DesignDocument, bundle: str = "") -> set[str]:
    """Return the flat columns of the file's rows, or of a bundle's parts, that may not be blank where they
    live; a blank there is told as such.
    """
    return {
        flat
        for table in tables_of(document, bundle)
        for role in table.role_names
        for flat, own in table.flat_columns(role).items()
        if not table.column(own).nullable
    }


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
            [f"{name} {shown(row.values, name)}, not {shown(before.values, name)}" for name in other[:3]]
        )
        cells = tuple(row.values[name] for name in wanted)
        told = f"{pairs_told(wanted, cells)} is there with other values: row {row.number} has {changes}"
        conflicts[str(cells), changes] = Violation(About.CONFLICT, told, (row.number,))
    found = list(conflicts.values())
    same = new.numbers[there & ~differing].tolist()
    if same:
        are = "is" if len(same) == 1 else "are"
        told = f"{counted(len(same), 'row')} {are} there already ({rows_told(same)})"
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
        named = pairs_told(determinant, cells)
        if cells in facts:
            (before, count), *_ = facts[cells].items()
            for value, numbers in said.items():
                if value != before:
                    now, then = shown({dependent: value}, dependent), shown({dependent: before}, dependent)
                    told = (
                        f"{named} now has {dependent} {now} ({rows_told(numbers)}), but {then} in "
                        f"{counted(count, 'stored row')}: a correction, or a second one?"
                    )
                    found.append(Violation(About.CHANGED, told, tuple(numbers)))
        elif len(said) > 1:
            values = [
                f"{shown({dependent: value}, dependent)} ({rows_told(rows)})" for value, rows in said.items()
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
            named = f"{pairs_told(key, cells)} comes {len(numbers)} times ({rows_told(numbers)})"
            told = f"{named}, but identifies a row"
            found.append(Violation(About.CONTRADICTION, told, tuple(numbers)))
    return found
