"""Whether what a design says belongs together: a folder made by anyone is data."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from graphlib import CycleError, TopologicalSorter

from pravix.document.model import (
    CheckDocument,
    ColumnDocument,
    Document,
    JointDocument,
    PartDocument,
    TableDocument,
)
from pravix.first_normal_form.rebuilt import FromChild
from pravix.relation.types import Kind, fits
from pravix.wording import shortened


class UnsoundError(Exception):
    """What is wrong with a document, in a few words."""


def check_sound(document: Document) -> None:
    """Raise UnsoundError where what a design says does not belong together. Linear in its size."""
    _check_tables(document.tables)
    if isinstance(document, JointDocument):
        _check_joint(document)
    else:
        _check_part(document)


def _check_joint(joint: JointDocument) -> None:
    names = {table.name: set(table.column_names) for table in joint.tables}
    for name, part in joint.parts.items():
        try:
            _check_tables(part.tables)
            _check_part(part)
            for table in part.tables:
                _expect(set(table.column_names) <= names.get(table.name, set()), table.name)
        except UnsoundError as error:
            raise UnsoundError(f"in the part {shortened(name)}: {error}") from None
    for table_name, rules in joint.rules.items():
        for rule in rules:
            columns = {*rule.determinant, rule.dependent}
            _expect(columns <= names.get(table_name, set()), f"the rules of {shortened(table_name)}")


def _expect(holds: bool, what: str) -> None:
    if not holds:
        raise UnsoundError(f"{shortened(what, 120)} does not belong together with the rest")


def _distinct(names: Sequence[str], what: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise UnsoundError(f"{what} {shortened(name)} comes twice")
        seen.add(name)


def _check_tables(tables: Sequence[TableDocument]) -> None:
    """Check each table; those that it refers to come before it, or are itself."""
    _distinct([table.name for table in tables], "the table")
    known: dict[str, TableDocument] = {}
    for table in tables:
        known[table.name] = table
        try:
            _check_table(table, known)
        except UnsoundError as error:
            raise UnsoundError(f"in the table {shortened(table.name)}: {error}") from None


def _check_table(table: TableDocument, known: dict[str, TableDocument]) -> None:
    columns = {column.name: column for column in table.columns}
    _distinct(table.column_names, "the column")
    for column in table.columns:
        _expect(column.scale <= column.digits or not column.digits, f"the digits of {column.name}")
    for key in (table.primary_key, *table.candidate_keys):
        _distinct(key, "the key column")
        _expect(set(key) <= set(columns), f"the key {', '.join(key)}")
    _expect(not table.candidate_keys or bool(table.primary_key) or not any(table.candidate_keys), "the keys")
    _expect(not table.surrogate or table.surrogate in columns, "the surrogate")
    for link in table.foreign_keys:
        other = known.get(link.references.table)
        there = set(other.column_names) if other else set[str]()
        sound = len(link.columns) == len(link.references.columns) and set(link.columns) <= set(columns)
        _expect(sound and set(link.references.columns) <= there, f"the link to {link.references.table}")
        keys = [sorted(key) for key in (other.primary_key, *other.candidate_keys)] if other else []
        _expect(sorted(link.references.columns) in keys, f"the link to {link.references.table}")
    if table.apart_from:
        apart = [link.references.table for link in table.foreign_keys][:1]
        _expect(table.apart_from in known and apart == [table.apart_from], "what it was set apart from")
    if table.independent_of:
        beside = known.get(table.independent_of)
        own = set(table.flat_columns())
        _expect(beside is not None and bool(own & set(beside.flat_columns())), "what it is independent of")
    for role in table.roles:
        _expect(set(role.columns) <= set(columns), f"the role {role.role}")
    _distinct([role.role for role in table.roles], "the role")
    for check in table.checks:
        _expect(check.column in columns, f"a check of {check.column}")
        _check_check(check, columns[check.column])


def _check_check(check: CheckDocument, column: ColumnDocument) -> None:
    """Check that the values of a check are values of its column: they become part of SQL."""
    needed = {"range": 2, "pattern": 1, "default": 1, "unique": 0}.get(check.kind, max(len(check.values), 1))
    _expect(len(check.values) == needed, f"the check {check.kind} of {check.column}")
    if check.kind == "range":
        numeric = column.kind.numeric or column.iso
        _expect(
            numeric and all(fits(column.kind, value) for value in check.values),
            f"the range of {check.column}",
        )


def _check_part(design: PartDocument) -> None:
    tables = design.by_name
    _expect(design.main in tables, f"the main table {design.main}")
    columns = design.source.columns
    _expect(not design.view_columns, "the names of a view's columns")
    _distinct(columns, "the column of the file")
    _expect(len(design.flat.types) == len(columns), "the number of types")
    for told in design.flat.types:
        _check_type(told)
    for entry in design.rebuild:
        if isinstance(entry, FromChild):
            child = tables.get(entry.table)
            known = set(child.column_names) | _flat_of_parts(design, child.part_of) if child else set[str]()
            linked = bool(child and child.repairs and (child.foreign_keys or child.part_of))
            _expect(linked and {entry.fact, entry.position} <= known, f"the column {entry.column}")
        _expect(entry.is_sound, f"the column {entry.column}")
    for made in design.made_parts:
        part = tables.get(made.table)
        sound = part is not None and part.part_of == made.of and set(made.row_key) <= set(made.columns)
        _expect(sound, f"the parts of {made.of}")
        for rule in made.dependencies:
            _expect({*rule.determinant, rule.dependent} <= set(made.columns), f"the rules of {made.of}")
    _distinct([made.of for made in design.made_parts], "the parts of")
    for table in design.tables:
        known_parts = {made.of for made in design.made_parts}
        _expect(not table.part_of or table.part_of in known_parts, f"the parts in {table.name}")
    _distinct([entry.column for entry in design.rebuild], "the column to be built again")
    _check_sources(design, tables.values())


def _flat_of_parts(design: PartDocument, bundle: str) -> set[str]:
    """Return the flat columns of the parts of a list or family, in every role."""
    own = [child for child in design.made_parts if child.of == bundle and bundle]
    return {name for child in own for name in child.columns}


def _check_type(told: str) -> None:
    try:
        Kind.of_type(told)
    except ValueError:
        raise UnsoundError(f"{shortened(told)} is no type") from None


def _check_sources(design: PartDocument, tables: Iterable[TableDocument]) -> None:
    """Check that every flat column comes from a table or is built from such, and none from itself."""
    needs = {entry.column: entry.needs for entry in design.rebuild}
    try:
        order = list(TopologicalSorter(needs).static_order())
    except CycleError as error:
        circle = " from ".join(shortened(str(name)) for name in error.args[1])
        raise UnsoundError(f"a column is built from itself: {circle}") from None
    stored = set(_stored(tables))
    for name in [*order, *design.source.columns]:
        _expect(name in stored or name in needs, f"the column {name}")


def _stored(tables: Iterable[TableDocument]) -> Iterator[str]:
    """Yield the flat columns that the tables hold."""
    for table in tables:
        if table.repairs is not None or table.part_of:
            continue
        for column in table.columns:
            yield column.flat if column.flat is not None else column.name
        for role in table.roles:
            yield from role.columns.values()
