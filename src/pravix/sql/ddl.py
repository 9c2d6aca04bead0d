"""A design read from the SQL that creates it, in any of the usual dialects."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from pravix.design.by_hand import HandColumn, HandReference, HandTable
from pravix.errors import InputError
from pravix.wording import shortened

_FOR_CLIENTS = re.compile(
    r"^COPY [^\n]* FROM stdin;\n.*?^\\\.$|^[ \t]*GO[ \t]*;?[ \t]*$|^\\[^\n]*$",
    re.MULTILINE | re.DOTALL | re.IGNORECASE,
)
"""What is for the client and no SQL: GO for SQL Server's, commands and rows that pg_dump writes for psql."""

_DIALECTS = ("postgres", "mysql", "sqlite", "tsql", "oracle", "duckdb", "snowflake")


@dataclass
class _Made:
    """A table as far as the statements have told of it."""

    name: str
    columns: dict[str, HandColumn] = field(default_factory=dict)
    key: tuple[str, ...] = ()
    unique: list[tuple[str, ...]] = field(default_factory=list)
    references: list[HandReference] = field(default_factory=list)


def tables_of_ddl(text: str, place: str) -> list[HandTable]:
    """Return the tables that a script creates, with what later statements add to them.

    The dialect is the one in which most statements are understood. Statements about anything else are passed
    over. Raises InputError where no dialect understands the script, or it creates no table.
    """
    made: dict[str, _Made] = {}
    for statement in _statements(text, place):
        _read(statement, made)
    if not made:
        raise InputError(f"{place} creates no table", "Give a script with CREATE TABLE.")
    known = {one.name: one for one in made.values()}
    return [_finished(one, known, place) for one in made.values()]


def _statements(text: str, place: str) -> list[Any]:
    """Return the statements in the dialect that leaves fewest of them as mere words."""
    import logging

    import sqlglot
    from sqlglot import errors, exp

    logging.getLogger("sqlglot").setLevel(logging.ERROR)
    best: tuple[int, list[Any]] | None = None
    wrong: Exception | None = None
    text = _FOR_CLIENTS.sub(lambda found: ";" + "\n" * found[0].count("\n"), text)
    for dialect in _DIALECTS:
        try:
            found = [one for one in sqlglot.parse(text, read=dialect) if one is not None]
        except (errors.SqlglotError, RecursionError) as error:
            wrong = wrong or error
            continue
        words = sum(isinstance(one, exp.Command) for one in found)
        if best is None or words < best[0]:
            best = words, found
    if best is None:
        first = getattr(wrong, "errors", None) or [{}]
        line = first[0].get("line")
        where = f"{place}, line {line}" if line else place
        near = str(first[0].get("highlight") or "").strip()
        told = f": near {shortened(near)}" if near else ""
        raise InputError(
            f"{where} is no SQL that is understood{told}", "Give the statements that create tables."
        )
    return best[1]


def _read(statement: Any, made: dict[str, _Made]) -> None:
    from sqlglot import exp

    if (
        isinstance(statement, exp.Create)
        and isinstance(statement.this, exp.Schema)
        and statement.kind == "TABLE"
    ):
        name = _name(statement.this.this)
        table = made[name.lower()] = _Made(name)
        for part in statement.this.expressions:
            _add(part, table)
    elif isinstance(statement, exp.Create) and statement.kind == "INDEX" and statement.args.get("unique"):
        index = statement.this
        found = made.get(_name(index.args["table"]).lower()) if index.args.get("table") else None
        columns = [column.name for column in index.find_all(exp.Column)]
        if found is not None and columns and not index.find(exp.Where):
            found.unique.append(tuple(columns))
    elif isinstance(statement, exp.Alter):
        found = made.get(_name(statement.this).lower())
        for action in statement.args.get("actions", ()):
            for part in action.expressions if isinstance(action, exp.AddConstraint) else [action]:
                if found is not None:
                    _add(part, found)


def _add(part: Any, table: _Made) -> None:
    """Add a column, a key or a reference to a table; checks and the rest say nothing about its form."""
    from sqlglot import exp

    if isinstance(part, exp.Constraint):
        for one in part.expressions:
            _add(one, table)
    elif isinstance(part, exp.ColumnDef):
        _add_column(part, table)
    elif isinstance(part, exp.PrimaryKey):
        table.key = tuple(_names(part.expressions))
    elif isinstance(part, exp.UniqueColumnConstraint) and isinstance(part.this, exp.Schema):
        table.unique.append(tuple(_names(part.this.expressions)))
    elif isinstance(part, exp.ForeignKey) and part.args.get("reference"):
        table.references.append(_reference(tuple(_names(part.expressions)), part.args["reference"]))


def _add_column(part: Any, table: _Made) -> None:
    from sqlglot import exp

    kinds = [one.kind for one in part.constraints]
    required = any(
        isinstance(one, exp.NotNullColumnConstraint) and not one.args.get("allow_null") for one in kinds
    )
    leads = any(isinstance(one, exp.PrimaryKeyColumnConstraint) for one in kinds)
    told = part.kind.sql().lower() if part.kind is not None else ""
    table.columns[part.name.lower()] = HandColumn(part.name, told, not (required or leads))
    if leads:
        table.key = (part.name,)
    for one in kinds:
        if isinstance(one, exp.UniqueColumnConstraint):
            table.unique.append((part.name,))
        elif isinstance(one, exp.Reference):
            table.references.append(_reference((part.name,), one))


def _reference(columns: tuple[str, ...], reference: Any) -> HandReference:
    from sqlglot import exp

    there = reference.this
    if isinstance(there, exp.Schema):
        return HandReference(columns, _name(there.this), tuple(_names(there.expressions)))
    return HandReference(columns, _name(there), ())


def _finished(made: _Made, known: dict[str, _Made], place: str) -> HandTable:
    """Return a table whose columns are called everywhere as they were created."""

    def called(names: Iterable[str], table: _Made) -> tuple[str, ...]:
        return tuple(
            table.columns[one.lower()].name if one.lower() in table.columns else one for one in names
        )

    key = called(made.key, made)
    columns = tuple(
        HandColumn(one.name, one.type, one.nullable and one.name not in key) for one in made.columns.values()
    )
    by_small = {name.lower(): table for name, table in known.items()}
    references = []
    for link in made.references:
        there = by_small.get(link.table.lower())
        named = there.name if there is not None else link.table
        parts = called(link.key or (there.key if there is not None else ()), there or made)
        references.append(HandReference(called(link.columns, made), named, parts, elsewhere=there is None))
    unique = dict.fromkeys(called(one, made) for one in made.unique)
    return HandTable(made.name, columns, key, (), tuple(references), tuple(unique), place)


def _name(table: Any) -> str:
    """Return a table's name, with its schema where one is given."""
    return f"{table.db}.{table.name}" if table.db else str(table.name)


def _names(parts: Sequence[Any]) -> Iterator[str]:
    return (str(part.name) for part in parts)
