"""The tables as SQL: CREATE TABLE statements for SQLite, written by SQLAlchemy."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import (
    CheckConstraint,
    Column,
    Date,
    ForeignKeyConstraint,
    Integer,
    MetaData,
    Numeric,
    PrimaryKeyConstraint,
    String,
    Table,
    UniqueConstraint,
    column,
    literal,
    literal_column,
)
from sqlalchemy.dialects import sqlite
from sqlalchemy.schema import CreateTable

from pravix.design import model
from pravix.relation.types import ColumnType, Kind


def schema(tables: Sequence[model.Table]) -> MetaData:
    """Return the tables as SQLAlchemy schema objects, in the order given."""
    metadata = MetaData()
    for table in tables:
        defaults = {check.column: check.values[0] for check in table.checks if _made(check, "default")}
        columns = [
            Column(
                one.name,
                _type(one.type),
                nullable=one.nullable,
                autoincrement=False,
                server_default=defaults.get(one.name),
            )
            for one in table.columns
        ]
        Table(table.name, metadata, *columns, *_constraints(table, metadata))
    return metadata


def schema_sql(tables: Sequence[model.Table]) -> str:
    """Return the statements that create the tables in SQLite, each table after those it refers to."""
    dialect = sqlite.dialect()
    metadata = schema(tables)
    statements = [
        str(CreateTable(metadata.tables[table.name]).compile(dialect=dialect)).strip() for table in tables
    ]
    lines = [line.rstrip() for line in ";\n\n".join([*statements, ""]).split("\n")]
    return "PRAGMA foreign_keys = ON;\n\n" + "\n".join(lines).rstrip() + "\n"


def _constraints(table: model.Table, metadata: MetaData) -> list[Any]:
    constraints: list[Any] = []
    if table.primary_key:
        constraints.append(PrimaryKeyConstraint(*table.primary_key))
    constraints += [UniqueConstraint(*key) for key in table.keys[1:]]
    constraints += [UniqueConstraint(check.column) for check in table.checks if _made(check, "unique")]
    constraints += [
        ForeignKeyConstraint(
            list(link.columns),
            [metadata.tables[link.table].c[name] for name in link.references],
            ondelete=link.on_delete.upper(),
            onupdate=link.on_update.upper(),
        )
        for link in table.foreign_keys
    ]
    types = {one.name: one.type for one in table.columns}
    return constraints + [
        CheckConstraint(condition)
        for check in table.checks
        if check.made and (condition := _condition(check, types[check.column])) is not None
    ]


def _made(check: model.Check, kind: str) -> bool:
    return check.made and check.kind == kind


def _condition(check: model.Check, found: ColumnType) -> Any:
    """Return the condition of a check; None for a check that is no condition."""
    cell: Any = column(check.column, _type(found))
    if check.kind == "values":
        return cell.in_([literal(value, String()) for value in check.values])
    if check.kind == "pattern":
        shape = "".join("_" if mark in "Aa9" else mark for mark in check.values[0])
        return cell.like(shape)
    if check.kind == "range" and found.kind is Kind.DATE:
        return cell.between(*(literal(value, String()) for value in check.values))
    if check.kind == "range":
        return cell.between(*(literal_column(value) for value in check.values))
    return None


def _type(found: ColumnType) -> Any:
    if found.kind is Kind.INTEGER:
        return Integer()
    if found.kind is Kind.DECIMAL:
        return Numeric(found.digits, found.scale)
    if found.kind is Kind.DATE and found.iso:
        return Date()
    return String(max(found.length, 1))
