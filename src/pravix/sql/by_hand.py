"""The SQL of a design made by hand: types as it says, as the rows of a file have them, or for short texts."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from sqlalchemy import (
    Column,
    Constraint,
    ForeignKeyConstraint,
    MetaData,
    PrimaryKeyConstraint,
    Table,
    UniqueConstraint,
)
from sqlalchemy.schema import CreateTable
from sqlalchemy.types import UserDefinedType

from pravix.databases.database import Database
from pravix.design.by_hand import HandColumn, HandTable
from pravix.design.typed import roomy, said_type
from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.relation.types import ColumnType, Kind, column_type
from pravix.sql.schema import sql_type
from pravix.wording import meant, shortened

_UNKNOWN = ColumnType(Kind.TEXT, 50)
_WORDS = re.compile(r"[A-Za-z][A-Za-z0-9 ]*(\(\s*\d+\s*(,\s*\d+\s*)?\))?")


class _AsWritten(UserDefinedType[object]):
    """A type in the words of the design."""

    cache_ok = True

    def __init__(self, told: str) -> None:
        self.told = told

    def get_col_spec(self, **options: Any) -> str:
        """Return the words."""
        return self.told


def statements_by_hand(
    tables: Sequence[HandTable], database: Database, rows: Relation | None = None
) -> Iterator[str]:
    """Yield a CREATE TABLE for each table, those first that others refer to.

    A column that has no type in the design has that of the column of its name in ``rows``, with room. Raises
    InputError where a reference names no table or column, a type is none, or tables refer in a circle.
    """
    metadata = MetaData()
    for table in tables:
        _check(table, {one.name: one for one in tables})
    for table in _in_order(tables):
        made = Table(table.name, metadata, quote=True)
        types = _types(table, metadata, database, rows)
        for one in table.columns:
            nullable = one.nullable and one.name not in table.primary_key
            made.append_column(
                Column(one.name, types[one.name], nullable=nullable, autoincrement=False, quote=True)
            )
        if database.keeps_rules:
            for rule in _rules(table, metadata):
                made.append_constraint(rule)
        told = str(CreateTable(made).compile(dialect=database.dialect)).strip()
        yield re.sub(r" +\n", "\n", told)


def _in_order(tables: Sequence[HandTable]) -> list[HandTable]:
    waiting, found = list(tables), list[HandTable]()
    while waiting:
        left = {table.name for table in waiting}
        ready = [one for one in waiting if not ({link.table for link in one.references} - {one.name}) & left]
        if not ready:
            named = ", ".join(shortened(table.name) for table in waiting)
            raise InputError(f"{named} refer to each other in a circle", "Which row can be entered first?")
        found += ready
        waiting = [one for one in waiting if one not in ready]
    return found


def _types(table: HandTable, metadata: MetaData, database: Database, rows: Relation | None) -> dict[str, Any]:
    """Return the type of each column: the one it is given, that of what it refers to, or what is found."""
    keys = table.primary_key, *table.unique
    keyed = {name: max(len(key) for key in keys if name in key) for key in keys for name in key}
    ends = {
        name: (link.table, key)
        for link in table.references
        for name, key in zip(link.columns, link.key, strict=True)
    }
    found: dict[str, Any] = {}
    for one in sorted(table.columns, key=lambda one: one.name in ends):
        there, key = ends.get(one.name, ("", ""))
        outside = there and there != table.name
        referred: Any = metadata.tables[there].c[key].type if outside else found.get(key)
        found[one.name] = _said(one, table, database) or referred or _found(one, rows, database, keyed)
    return found


def _rules(table: HandTable, metadata: MetaData) -> Iterator[Constraint]:
    columns = metadata.tables[table.name].c
    if table.primary_key:
        yield PrimaryKeyConstraint(*(columns[name] for name in table.primary_key))
    for key in table.unique:
        yield UniqueConstraint(*(columns[name] for name in key))
    for link in table.references:
        yield ForeignKeyConstraint(link.columns, [metadata.tables[link.table].c[name] for name in link.key])


def _said(column: HandColumn, table: HandTable, database: Database) -> Any:
    """Return the type that the design gives a column; None where it gives none."""
    told = column.type.strip()
    if not told:
        return None
    try:
        return sql_type(said_type(told), database)
    except InputError:
        if _WORDS.fullmatch(told):
            return _AsWritten(told)
        raise InputError(
            f"{table.place}: {shortened(told)} is no type", "Say text(40), for example."
        ) from None


def _found(column: HandColumn, rows: Relation | None, database: Database, keyed: Mapping[str, int]) -> Any:
    if rows is not None and column.name in rows.names:
        return sql_type(roomy(column_type(rows.column(column.name)), keyed.get(column.name, 0)), database)
    return sql_type(_UNKNOWN, database)


def _check(table: HandTable, known: Mapping[str, HandTable]) -> None:
    """Raise InputError where a reference of a table finds no table or no columns."""
    for link in table.references:
        there = known.get(link.table)
        if there is None:
            raise InputError(
                f"{table.place}: there is no table {shortened(link.table)}",
                f"{meant(link.table, list(known))}The tables are {', '.join(known)}.",
            )
        lacking = [name for name in link.key if name not in there.names]
        if lacking or len(link.key) != len(link.columns):
            told = f"has no {shortened(lacking[0])}" if lacking else "is referred to by as many columns"
            raise InputError(f"{table.place}: {there.name} {told}", f"It has {', '.join(there.names)}.")
