"""The tables of a design as classes of SQLAlchemy, in a Python file that makes and reads the same schema."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from keyword import iskeyword
from textwrap import indent
from typing import Any

from sqlalchemy import CheckConstraint, Column, ForeignKeyConstraint, Index, MetaData, Table, UniqueConstraint
from sqlalchemy.types import TypeEngine

from pravix.databases.database import Database
from pravix.design.naming import free_name
from pravix.document.model import Document
from pravix.sql.schema import schema

_IMPORTED = (
    *(
        "BigInteger",
        "CheckConstraint",
        "Column",
        "Date",
        "DateTime",
        "ForeignKeyConstraint",
        "Identity",
        "Index",
    ),
    *("Integer", "Numeric", "PrimaryKeyConstraint", "Sequence", "Table", "Text", "Time", "Unicode"),
    *("UniqueConstraint", "text"),
)


def models(document: Document, database: Database) -> str:
    """Return a Python file with a class for each table: its columns, keys, references, checks and indexes."""
    metadata = schema(document, database)
    told = f"The tables of {', '.join(document.parts) or 'the design'}, for {database.name}."
    parts, taken = list[str](), ["Base", "DeclarativeBase", *_IMPORTED]
    for table in document.tables:
        taken.append(free_name(_class_name(table.name), taken))
        parts.append(_class(taken[-1], metadata.tables[table.name], table.meaning, metadata, database))
    body = "\n\n".join(parts)
    imported = "".join(f"    {name},\n" for name in _IMPORTED if re.search(rf"\b{name}\(", body))
    own = sorted({type(one.type).__name__ for one in _of_dialects(metadata)})
    from_dialect = f"from sqlalchemy.dialects.{database.module} import {', '.join(own)}\n" if own else ""
    return (
        f'"""{_plain(told)}"""\n\nfrom sqlalchemy import (\n{imported})\n{from_dialect}'
        f"from sqlalchemy.orm import DeclarativeBase\n\n\nclass Base(DeclarativeBase):\n    pass\n\n\n{body}"
    )


def _of_dialects(metadata: MetaData) -> Iterator[Column[Any]]:
    """Yield the columns whose types are a database's own."""
    for table in metadata.tables.values():
        yield from (one for one in table.columns if ".dialects." in type(one.type).__module__)


def _class(name: str, table: Table, meaning: str, metadata: MetaData, database: Database) -> str:
    entries = [*(_column(column) for column in table.columns), *_constraints(table, database)]
    entries.append("quote=True")
    if table.comment:
        entries.append(f"comment={table.comment!r}")
    body = "".join(f"    {entry},\n" for entry in entries)
    made = f"__table__ = Table(\n    {str(table.name)!r},\n    Base.metadata,\n{body})"
    told = f'    """{_plain(meaning)}"""\n\n' if meaning else ""
    return f"class {name}(Base):\n{told}{indent(made, '    ')}\n"


def _column(column: Column[object]) -> str:
    more = []
    if column.identity is not None:
        more.append(f"Identity(start={column.identity.start})")
    elif column.server_default is not None:
        default = column.server_default
        series = getattr(getattr(default, "arg", None), "sequence", None)
        if series is not None:
            text = f"Sequence({series.name!r}, start={series.start}).next_value()"
        else:
            text = repr(str(getattr(default, "arg", "")))
        more.append(f"server_default={text}")
    if not column.nullable:
        more.append("nullable=False")
    if column.identity is None:
        more.append("autoincrement=False")
    more.append("quote=True")
    if column.comment:
        more.append(f"comment={column.comment!r}")
    return f"Column({', '.join([repr(str(column.name)), _type(column.type), *more])})"


def _type(found: TypeEngine[object]) -> str:
    return re.sub(r"\w+=None, |, \w+=None|\w+=None", "", repr(found))


def _constraints(table: Table, database: Database) -> Iterator[str]:
    if len(table.primary_key):
        yield f"PrimaryKeyConstraint({_names(column.name for column in table.primary_key)})"
    for one in sorted(table.constraints, key=lambda one: one._creation_order):
        if isinstance(one, UniqueConstraint):
            yield f"UniqueConstraint({_names(column.name for column in one.columns)})"
        elif isinstance(one, CheckConstraint):
            condition = one.sqltext.compile(dialect=database.dialect, compile_kwargs={"literal_binds": True})
            yield f"CheckConstraint(text({_without_binds(str(condition))!r}))"
        elif isinstance(one, ForeignKeyConstraint):
            yield _reference(one)
    for index in sorted(table.indexes, key=lambda one: str(one.name)):
        yield _index(index)


def _reference(one: ForeignKeyConstraint) -> str:
    there = [f"{element.column.table.name}.{element.column.name}" for element in one.elements]
    more = [f"{key}={value!r}" for key in ("ondelete", "onupdate") if (value := getattr(one, key))]
    if one.deferrable:
        more += ["deferrable=True", f"initially={one.initially!r}"]
    return f"ForeignKeyConstraint({', '.join([repr(list(one.column_keys)), repr(there), *more])})"


def _index(index: Index) -> str:
    return f"Index({str(index.name)!r}, {_names(column.name for column in index.columns)})"


def _names(names: Iterable[object]) -> str:
    return ", ".join(repr(str(name)) for name in names)


def _without_binds(condition: str) -> str:
    """Return a condition in which no colon is taken for a parameter."""
    return condition.replace("%%", "%").replace(":", "\\:")


def _class_name(table: str) -> str:
    words = re.findall(r"\w+", table.replace("_", " "))
    name = "".join(word[:1].upper() + word[1:] for word in words) or "Table"
    return f"{name}_" if not name.isidentifier() or iskeyword(name) else name


def _plain(text: str) -> str:
    """Return a text that can stand in a docstring."""
    return " ".join(text.replace("\\", " ").replace('"', "'").split())
