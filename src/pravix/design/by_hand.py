"""A design made by hand, in the notation of textbooks, or read from the catalogue of a database.

One relation a line, its key between low lines, its rules and references below::

    Drum(_drum_no_, honey_code, honey, keeper_no)       # a comment
        honey_code -> honey
        keeper_no refers to Keeper(keeper_no)
    Keeper(_keeper_no_: text, name, phone?)

A type may follow a column's name after a colon; a question mark says that the column may be blank.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from pravix.errors import InputError
from pravix.theory.dependency import Dependency, DependencyTextError, parse_columns, parse_dependencies
from pravix.wording import shortened

if TYPE_CHECKING:
    from sqlalchemy import Inspector

_RELATION = re.compile(r"^(?P<name>[^()]+?)\s*\((?P<columns>.*)\)$")
_BETWEEN = re.compile(r",(?![^()]*\))")
_REFERENCE = re.compile(r"^(?P<columns>.+?)\s+refers to\s+(?P<table>[^()]+?)\s*\((?P<key>.*)\)$")
_COLUMN = re.compile(r"^(?P<key>_)?(?P<name>.+?)(?(key)_)(?P<blank>\?)?(?:\s*:\s*(?P<type>[^:]+))?$")


@dataclass(frozen=True)
class HandColumn:
    """A column: its name, its type where one is given, and whether it may be blank."""

    name: str
    type: str = ""
    nullable: bool = False


@dataclass(frozen=True)
class HandReference:
    """Columns that refer to columns of a table; ``elsewhere`` says that it stands in another schema."""

    columns: tuple[str, ...]
    table: str
    key: tuple[str, ...]
    elsewhere: bool = False


@dataclass(frozen=True)
class HandTable:
    """A relation as it was written: its columns, its primary key (if it has one), rules and references.

    ``unique`` are further keys that a database enforces; ``place`` says where it stands.
    """

    name: str
    columns: tuple[HandColumn, ...]
    primary_key: tuple[str, ...]
    rules: tuple[Dependency, ...] = ()
    references: tuple[HandReference, ...] = ()
    unique: tuple[tuple[str, ...], ...] = ()
    place: str = ""

    @property
    def names(self) -> tuple[str, ...]:
        """The names of its columns."""
        return tuple(column.name for column in self.columns)

    @property
    def all_rules(self) -> tuple[Dependency, ...]:
        """The written rules, and that each key determines every column."""
        keys = [key for key in (self.primary_key, *self.unique) if key]
        by_key = [Dependency(frozenset(key), name) for key in keys for name in self.names if name not in key]
        return tuple(dict.fromkeys((*self.rules, *by_key)))


def parsed_design(text: str, name: str) -> list[HandTable]:
    """Return the relations of a text. Raises InputError, with the line, for what cannot be read."""
    tables: list[HandTable] = []
    for number, raw in enumerate(text.splitlines(), 1):
        line, place = raw.split("#", 1)[0].strip(), f"{name}, line {number}"
        if not line:
            continue
        reference, relation = _REFERENCE.match(line), _RELATION.match(line)
        if reference or "->" in line or "→" in line:
            if not tables:
                raise InputError(f"{place}: a rule or reference before any relation", _HINT)
            tables[-1] = _with_line(tables[-1], line, reference, place)
        elif relation:
            tables.append(_relation(relation, place, [table.name for table in tables]))
        else:
            raise InputError(f"{place}: {shortened(line)} is no relation, rule or reference", _HINT)
    if not tables:
        raise InputError(f"{name} holds no relation", _HINT)
    return tables


_HINT = "Write relations like this: Drum(_drum_no_, honey_code), and below them: honey_code -> honey"


def _relation(match: re.Match[str], place: str, taken: Iterable[str]) -> HandTable:
    name = match["name"].strip()
    if name in taken:
        raise InputError(f"{place}: there is a relation {shortened(name)} already", "Give it another name.")
    columns: list[HandColumn] = []
    key: list[str] = []
    for part in filter(None, map(str.strip, _BETWEEN.split(match["columns"]))):
        found = _COLUMN.match(part)
        if found is None:
            raise InputError(f"{place}: {shortened(part)} is no column", _HINT)
        column = HandColumn(found["name"].strip(), (found["type"] or "").strip(), found["blank"] is not None)
        if column.name in [one.name for one in columns]:
            raise InputError(
                f"{place}: the column {shortened(column.name)} comes twice", "Name each differently."
            )
        columns.append(column)
        key += [column.name] if found["key"] else []
    if not columns:
        raise InputError(f"{place}: {shortened(name)} has no columns", _HINT)
    return HandTable(name, tuple(columns), tuple(key), place=place)


def _with_line(table: HandTable, line: str, reference: re.Match[str] | None, place: str) -> HandTable:
    try:
        if reference:
            columns, key = parse_columns(reference["columns"]), parse_columns(reference["key"])
            made = HandReference(columns, reference["table"].strip(), key)
            used, changed = set(columns), replace(table, references=(*table.references, made))
        else:
            rules = parse_dependencies(line)
            used = {name for rule in rules for name in rule.columns}
            changed = replace(table, rules=(*table.rules, *rules))
    except DependencyTextError as error:
        raise InputError(f"{place}: {error}", _HINT) from None
    unknown = sorted(used - set(table.names))
    if unknown:
        raise InputError(
            f"{place}: {table.name} has no column {shortened(unknown[0])}",
            f"It has: {', '.join(table.names)}.",
        )
    return changed


def catalogue_design(inspector: Inspector) -> list[HandTable]:
    """Return the tables of a database as its catalogue has them (an inspector of SQLAlchemy)."""
    tables = []
    for name in inspector.get_table_names():
        columns = tuple(
            HandColumn(column["name"], str(column["type"]).lower(), bool(column["nullable"]))
            for column in inspector.get_columns(name)
        )
        references = tuple(
            HandReference(
                tuple(link["constrained_columns"]),
                link["referred_table"],
                tuple(link["referred_columns"]),
                elsewhere=link.get("referred_schema") is not None,
            )
            for link in inspector.get_foreign_keys(name)
        )
        unique = tuple(tuple(one["column_names"]) for one in inspector.get_unique_constraints(name))
        key = tuple(inspector.get_pk_constraint(name)["constrained_columns"])
        tables.append(HandTable(name, columns, key, (), references, unique))
    return tables
