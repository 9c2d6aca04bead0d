"""A table or a query of a database becomes a relation."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.relation.types import is_number
from pravix.sources.account import Account, Source
from pravix.sources.coding import CodedCells
from pravix.sources.connecting import connected
from pravix.sources.reading import Reading
from pravix.sources.told import cell_told
from pravix.wording import joined, shortened

if TYPE_CHECKING:
    from sqlalchemy import Inspector

_ROWS_AT_ONCE = 20_000
_STREAMED = {"stream_results": True, "max_row_buffer": _ROWS_AT_ONCE}


@dataclass(frozen=True)
class FoundTable:
    """A table or a view of a database, in a schema where one was named."""

    schema: str | None
    name: str
    view: bool


def found_table(inspected: Inspector, wanted: str | None, name: str) -> FoundTable:
    """Return a table or view; ``schema.table`` names both. Raises InputError where there is none.

    ``name`` is that of the database for the message.
    """
    tables, views = inspected.get_table_names(), inspected.get_view_names()
    if wanted in tables or wanted in views:
        return FoundTable(None, str(wanted), wanted not in tables)
    schema, dot, inside = (wanted or "").partition(".")
    if dot and schema in inspected.get_schema_names() and inspected.has_table(inside, schema):
        return FoundTable(schema, inside, inside in inspected.get_view_names(schema))
    hint = f"Its tables: {joined([shortened(one) for one in [*tables, *views][:20]]) or 'none'}."
    if wanted is None:
        raise InputError(f"{name} is a database: say which table with --table", hint)
    raise InputError(f"{name} has no table {shortened(wanted)}", hint)


def tables_there(url: str) -> list[str]:
    """Return the names of the tables and views of a database. Raises InputError where it cannot be opened."""
    from sqlalchemy import inspect

    database = connected(url)
    try:
        with database.engine.connect() as connection:
            inspected = inspect(connection)
            return [*inspected.get_table_names(), *inspected.get_view_names()]
    finally:
        database.engine.dispose()


def read_database(url: str, reading: Reading) -> Source:
    """Read a table (``reading.table``) or the result of a query (``reading.query``).

    ``url`` is a SQLAlchemy URL; its password never appears in a message. Rows are numbered from 1 in
    the order in which the database gives them; they come in batches, and only their codes are kept.
    """
    from sqlalchemy import MetaData, Table, inspect, select, text
    from sqlalchemy.exc import SQLAlchemyError

    database = connected(url)
    name, engine, kind = database.name, database.engine, database.kind
    try:
        with engine.connect() as connection:
            if reading.query is not None:
                statement: Any = text(reading.query)
            else:
                found = found_table(inspect(connection), reading.table, name)
                named = Table(found.name, MetaData(), schema=found.schema, quote=True)
                if kind is not None and not kind.tells_columns:
                    statement = select(text("*")).select_from(named)
                else:
                    inspect(connection).reflect_table(named, None)
                    scales = [getattr(column.type, "scale", None) or 0 for column in named.columns]
                    exactly = list(named.columns) if kind is None else kind.read_as(named.columns)
                    statement = select(*exactly)
            result = connection.execute(statement, execution_options=_STREAMED)
            names = list(map(str, result.keys()))
            columns = [CodedCells(name) for name in names]
            padding = kind is not None and not kind.keeps_places and reading.query is None
            for part in result.partitions(_ROWS_AT_ONCE):
                for place, cells in enumerate(zip(*part, strict=True)):
                    texts = map(cell_told, cells)
                    scale = scales[place] if padding else 0
                    columns[place].add((padded(text, scale) for text in texts) if scale else texts)
    except SQLAlchemyError as error:
        raise InputError(f"{name} cannot be read: {database.reason(error)}") from None
    finally:
        engine.dispose()
    if not columns or not len(columns[0]):
        raise InputError(f"{name} gives no rows", "Choose a table or a query with rows.")
    if len(set(names)) < len(names) or not all(names):
        raise InputError(
            f"{name} gives columns without names of their own", "Name them in the query with AS."
        )
    numbers = np.arange(1, len(columns[0]) + 1, dtype=np.int64)
    relation = Relation(tuple(one.column() for one in columns), numbers)
    return Source(relation, Account(name, f"table {reading.table}" if reading.query is None else "query"))


def padded(cell: str, scale: int) -> str:
    """Return a number with the places that its column was declared with: SQLite gives 17.5 for 17.50."""
    whole, _, part = cell.partition(".")
    if not scale or len(part) > scale or not is_number(cell):
        return cell
    return f"{whole}.{part.ljust(scale, '0')}"
