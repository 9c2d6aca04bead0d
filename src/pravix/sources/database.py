"""A table or a query of a database becomes a relation."""

from __future__ import annotations

import re
from typing import Any

from pravix.errors import InputError
from pravix.sources.account import Account, Source
from pravix.sources.coding import coded_relation
from pravix.sources.connecting import connected
from pravix.sources.reading import Reading
from pravix.sources.workbook import texts
from pravix.wording import joined, shortened

_URL = re.compile(r"[a-z][a-z0-9+]*://", re.IGNORECASE)


def is_url(source: str) -> bool:
    """Return whether a source is the URL of a database and no path."""
    return _URL.match(source) is not None


def read_database(url: str, reading: Reading) -> Source:
    """Read a table (``reading.table``) or the result of a query (``reading.query``).

    ``url`` is a SQLAlchemy URL; its password never appears in a message. Rows are numbered from 1 in
    the order in which the database gives them.
    """
    from sqlalchemy import MetaData, Table, inspect, select, text
    from sqlalchemy.exc import SQLAlchemyError

    database = connected(url)
    name, engine = database.name, database.engine
    try:
        with engine.connect() as connection:
            if reading.query is not None:
                statement: Any = text(reading.query)
            else:
                tables = inspect(connection).get_table_names()
                if reading.table not in tables:
                    raise _no_table(name, reading.table, tables)
                statement = select(Table(reading.table, MetaData(), autoload_with=connection))
            result = connection.execute(statement)
            names, rows = list(result.keys()), texts(result.fetchall())
    except SQLAlchemyError as error:
        raise InputError(f"{name} cannot be read: {database.reason(error)}") from None
    finally:
        engine.dispose()
    if not rows:
        raise InputError(f"{name} gives no rows", "Choose a table or a query with rows.")
    if len(set(names)) < len(names) or not all(names):
        raise InputError(
            f"{name} gives columns without names of their own", "Name them in the query with AS."
        )
    relation = coded_relation(names, rows, range(1, len(rows) + 1))
    return Source(relation, Account(name, f"table {reading.table}" if reading.query is None else "query"))


def _no_table(name: str, wanted: str | None, tables: list[str]) -> InputError:
    hint = f"Its tables: {joined([shortened(table) for table in tables[:20]]) or 'none'}."
    if wanted is None:
        return InputError(f"{name} is a database: say which table with --table", hint)
    return InputError(f"{name} has no table {shortened(wanted)}", hint)
