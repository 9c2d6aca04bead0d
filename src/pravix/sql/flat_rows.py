"""A flat table where it lives as it stands in statements that fill tables from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import column, func, select, text
from sqlalchemy import table as table_clause
from sqlalchemy.sql.elements import quoted_name
from sqlalchemy.types import NullType, String

from pravix.databases.database import Database
from pravix.engines.adaptor import adaptor_for
from pravix.engines.flat import Flat
from pravix.engines.tables import without_words
from pravix.sources.reading import Reading
from pravix.sql.filling import FlatRows


def flat_rows(flat: Flat, repaired: Mapping[str, tuple[Any, ...]], database: Database) -> FlatRows:
    """Return the rows of a flat table as SQL of a database, with columns that repairs in place gave."""
    number = None if flat.numbered is None else flat.numbered + flat.first_row
    return _written(flat.source, {**flat.told, **repaired}, database, number)


def _written(
    source: Any, told: Mapping[str, tuple[Any, ...]], database: Database, number: Any = None
) -> FlatRows:
    def written(expression: Any) -> str:
        return str(expression.compile(dialect=database.dialect, compile_kwargs={"literal_binds": True}))

    def cell(expression: Any) -> str:
        textual = isinstance(expression.type, String | NullType)
        return written(func.nullif(expression, "") if textual else expression)

    cells = {name: cell(expressions[0]) for name, expressions in told.items()}
    _, _, named = written(select(text("1")).select_from(source)).partition("FROM ")
    return FlatRows(named.strip(), cells, None if number is None else f"({written(number)})")


def rows_by_name(reading: Reading, names: Sequence[str], database: Database) -> FlatRows:
    """Return the rows of a table, or of one in a schema (``schema.table``), of which only the names are
    known, with the words for no value as wished.
    """
    table = reading.table or ""
    schema, dot, name = table.partition(".")
    if not dot:
        schema, name = "", table
    adaptor = adaptor_for(database.name).written()
    columns: list[Any] = [column(quoted_name(one, quote=True)) for one in names]
    known = adaptor.named(
        table_clause(
            quoted_name(name, quote=True),
            *columns,
            schema=quoted_name(schema, quote=True) if schema else None,
        )
    )
    told = {one: (adaptor.bytewise(func.trim(adaptor.as_text(known.c[one]))),) for one in names}
    for one, words in reading.blank_words(names, table).items():
        told[one] = (adaptor.bytewise(without_words(told[one][0], words)),)
    return _written(known, told, database)
