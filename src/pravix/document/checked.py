"""A design made by anyone, checked whole before anything is done with it: a folder is data."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Sequence
from graphlib import CycleError, TopologicalSorter
from pathlib import Path
from typing import Any, cast

import msgspec

from pravix.document import shape
from pravix.errors import InputError
from pravix.relation.types import fits
from pravix.wording import shortened

VERSION = 1
"""The version of the document that this program writes and reads."""

_MOST_BYTES = 1 << 28
_AGAIN = "Write the folder again: pravix decompose --out"


class _ComplaintError(Exception):
    """What is wrong with a document, in a few words."""


def read_design(path: Path) -> dict[str, Any]:
    """Read and check the design at ``path``, and return it as nested dictionaries and lists.

    Raises InputError, with the place in the file, where it is no design of this version, or where what it
    says does not belong together: names that are not there, keys of no columns, a column computed from
    itself, files outside the folder. Linear in the size of the file, which is at most 256 MiB.
    """
    folder = path.parent
    try:
        document = msgspec.json.decode(read_plain(path, _MOST_BYTES))
    except OSError as error:
        raise InputError(
            f"{folder} holds no {path.name}: {error.strerror}",
            "Give a folder that pravix decompose --out wrote.",
        ) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise InputError(f"{path.name} in {folder} is not JSON: {error}", _AGAIN) from None
    try:
        check_design(document)
    except (_ComplaintError, msgspec.ValidationError, RecursionError) as error:
        raise InputError(f"{path.name} in {folder} is no design: {error}", _AGAIN) from None
    return cast(dict[str, Any], document)


def read_plain(path: Path, most: int | None = None) -> bytes:
    """Return the bytes of a file that is a file: no link, device, pipe or folder. Raises OSError."""
    handle = os.open(path, os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0))
    with os.fdopen(handle, "rb") as file:
        check_plain(path)
        if most is not None and os.fstat(handle).st_size > most:
            raise OSError(0, f"it is larger than {most >> 20} MiB")
        return file.read()


def check_plain(path: Path) -> None:
    """Raise OSError where a path is anything but a file: a link, a device, a pipe, a folder."""
    if path.is_symlink() or not path.is_file():
        raise OSError(0, "it is no plain file" if path.exists() or path.is_symlink() else "it is not there")


def check_design(document: Any) -> None:
    """Raise an error of ``msgspec`` or one of ours where a document is no sound design."""
    if not isinstance(document, dict) or document.get("format") != "pravix.design":
        raise _ComplaintError('it does not begin with "format": "pravix.design"')
    if document.get("version") != VERSION:
        told = shortened(repr(document.get("version")))
        raise _ComplaintError(f"its version is {told}, and this program reads version {VERSION}")
    if "parts" not in document:
        design = msgspec.convert(document, shape.DesignShape)
        _check_tables(design.tables, filed=True)
        _check_part(design)
        return
    joint = msgspec.convert(document, shape.JointShape)
    _check_tables(joint.tables, filed=True)
    names = {table.name: {column.name for column in table.columns} for table in joint.tables}
    for name, part in joint.parts.items():
        try:
            _check_tables(part.tables, filed=False)
            _check_part(part)
            for table in part.tables:
                _expect({one.name for one in table.columns} <= names.get(table.name, set()), table.name)
        except _ComplaintError as error:
            raise _ComplaintError(f"in the part {shortened(name)}: {error}") from None
    for table_name, rules in joint.rules.items():
        for rule in rules:
            columns = {*rule.determinant, rule.dependent}
            _expect(columns <= names.get(table_name, set()), f"the rules of {shortened(table_name)}")


def _expect(holds: bool, what: str) -> None:
    if not holds:
        raise _ComplaintError(f"{shortened(what, 120)} does not belong together with the rest")


def _distinct(names: Sequence[str], what: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise _ComplaintError(f"{what} {shortened(name)} comes twice")
        seen.add(name)


def _check_tables(tables: Sequence[shape.TableShape], filed: bool) -> None:
    """Check each table; those that it refers to come before it, or are itself."""
    _distinct([table.name for table in tables], "the table")
    if filed:
        for table in tables:
            if table.file is None or not plain_name(table.file):
                told = shortened(str(table.file))
                raise _ComplaintError(f"the file {told} of {shortened(table.name)} is no table in the folder")
        _distinct([str(table.file).casefold() for table in tables], "the file")
    known: dict[str, shape.TableShape] = {}
    for table in tables:
        known[table.name] = table
        try:
            _check_table(table, known)
        except _ComplaintError as error:
            raise _ComplaintError(f"in the table {shortened(table.name)}: {error}") from None


TABLE_ENDINGS = (".csv", ".parquet")
"""How the files of tables end."""


def plain_name(name: str) -> bool:
    """Return whether a name is that of a file of a table in the folder, and of nothing else."""
    return (
        name == os.path.basename(name)
        and name.endswith(TABLE_ENDINGS)
        and not name.startswith(".")
        and not any(mark in name for mark in '/\\:\0"<>|?*')
        and name.isprintable()
        and len(name.encode(errors="replace")) <= 255
    )


def _check_table(table: shape.TableShape, known: dict[str, shape.TableShape]) -> None:
    columns = {column.name: column for column in table.columns}
    _distinct([column.name for column in table.columns], "the column")
    for column in table.columns:
        _expect(column.scale <= column.digits or not column.digits, f"the digits of {column.name}")
    for key in (table.primary_key, *table.candidate_keys):
        _distinct(key, "the key column")
        _expect(set(key) <= set(columns), f"the key {', '.join(key)}")
    _expect(not table.candidate_keys or bool(table.primary_key) or not any(table.candidate_keys), "the keys")
    _expect(table.surrogate is None or table.surrogate in columns, "the surrogate")
    for link in table.foreign_keys:
        other = known.get(link.references.table)
        there = {column.name for column in other.columns} if other else set[str]()
        sound = len(link.columns) == len(link.references.columns) and set(link.columns) <= set(columns)
        _expect(sound and set(link.references.columns) <= there, f"the link to {link.references.table}")
        keys = [sorted(key) for key in (other.primary_key, *other.candidate_keys)] if other else []
        _expect(sorted(link.references.columns) in keys, f"the link to {link.references.table}")
    if table.apart_from is not None:
        apart = [link.references.table for link in table.foreign_keys][:1]
        _expect(table.apart_from in known and apart == [table.apart_from], "what it was set apart from")
    for role in table.roles:
        _expect(set(role.columns) <= set(columns), f"the role {role.role}")
    _distinct([role.role for role in table.roles], "the role")
    for check in table.checks:
        _expect(check.column in columns, f"a check of {check.column}")
        _check_check(check, columns[check.column])


def _check_check(check: shape.CheckShape, column: shape.ColumnShape) -> None:
    """Check that the values of a check are values of its column: they become part of SQL."""
    needed = {"range": 2, "pattern": 1, "default": 1, "unique": 0}.get(check.kind, max(len(check.values), 1))
    _expect(len(check.values) == needed, f"the check {check.kind} of {check.column}")
    if check.kind == "range":
        numeric = column.kind in ("integer", "decimal") or column.iso
        _expect(
            numeric and all(fits(column.kind, value) for value in check.values),
            f"the range of {check.column}",
        )


def _check_part(design: shape.PartShape) -> None:
    tables = {table.name: table for table in design.tables}
    _expect(design.main in tables, f"the main table {design.main}")
    columns = design.source.columns
    _distinct(columns, "the column of the file")
    _expect(len(design.flat.types) == len(columns), "the number of types")
    for entry in design.rebuild:
        if isinstance(entry, shape.ListShape | shape.FamilyShape):
            child = tables.get(entry.table)
            own = {column.name for column in child.columns} if child else set[str]()
            linked = bool(child and child.foreign_keys and child.repairs)
            _expect(linked and {entry.fact, entry.position} <= own, f"the column {entry.column}")
        if isinstance(entry, shape.ComputedShape):
            wanted = {"sum": max(len(entry.columns), 2), "part": 1}.get(entry.operation, 2)
            _expect(len(entry.columns) == wanted, f"the computed column {entry.column}")
    _distinct([entry.column for entry in design.rebuild], "the column to be built again")
    _check_sources(design, tables.values())


def _check_sources(design: shape.PartShape, tables: Iterable[shape.TableShape]) -> None:
    """Check that every flat column comes from a table or is built from such, and none from itself."""
    needs = {entry.column: list(getattr(entry, "columns", [])) for entry in design.rebuild}
    try:
        order = list(TopologicalSorter(needs).static_order())
    except CycleError as error:
        circle = " from ".join(shortened(str(name)) for name in error.args[1])
        raise _ComplaintError(f"a column is built from itself: {circle}") from None
    stored = set(_stored(tables))
    for name in [*order, *design.source.columns]:
        _expect(name in stored or name in needs, f"the column {name}")


def _stored(tables: Iterable[shape.TableShape]) -> Iterator[str]:
    """Yield the flat columns that the tables hold."""
    for table in tables:
        if table.repairs is not None:
            continue
        for column in table.columns:
            yield column.stands_for if column.stands_for is not None else column.name
        for role in table.roles:
            yield from role.columns.values()
