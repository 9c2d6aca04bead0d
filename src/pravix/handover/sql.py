"""The tables as SQL: CREATE TABLE statements for SQLite, written by SQLAlchemy."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import (
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
)
from sqlalchemy.dialects import sqlite
from sqlalchemy.schema import CreateTable

from pravix.design import model
from pravix.relation.types import ColumnType, Kind


def schema(tables: Sequence[model.Table]) -> MetaData:
    """Return the tables as SQLAlchemy schema objects, in the order given."""
    metadata = MetaData()
    for table in tables:
        columns = [
            Column(column.name, _type(column.type), nullable=column.nullable, autoincrement=False)
            for column in table.columns
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
    constraints += [
        ForeignKeyConstraint(
            list(link.columns), [metadata.tables[link.table].c[column] for column in link.references]
        )
        for link in table.foreign_keys
    ]
    return constraints


def _type(found: ColumnType) -> Any:
    if found.kind is Kind.INTEGER:
        return Integer()
    if found.kind is Kind.DECIMAL:
        return Numeric(found.digits, found.scale)
    if found.kind is Kind.DATE and found.iso:
        return Date()
    return String(max(found.length, 1))
