"""The tables as SQL: statements for several databases, written by SQLAlchemy's dialects."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import groupby
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    Column,
    Date,
    ForeignKeyConstraint,
    Identity,
    Index,
    Integer,
    MetaData,
    Numeric,
    PrimaryKeyConstraint,
    Table,
    Text,
    Unicode,
    UniqueConstraint,
    column,
    create_mock_engine,
    literal,
    literal_column,
)
from sqlalchemy import (
    Sequence as NumberSeries,
)
from sqlalchemy.sql.elements import quoted_name

from pravix.handover.dialects import Database
from pravix.handover.joining import TableDocument
from pravix.handover.opened import Folder
from pravix.handover.view import flat_query, views
from pravix.relation.types import Kind

_SMALL_DIGITS = 9
_LONGEST = 4000
_ROWS_AT_ONCE = 200
SERIES = "row_numbers"
"""The sequence that numbers the rows of all tables, where numbers are shared."""

_WITH_SERIES = ("postgresql", "sqlserver")


def schema(document: Mapping[str, Any], database: Database) -> MetaData:
    """Return the tables of a design as SQLAlchemy schema objects."""
    metadata = MetaData()
    shared = document["numbering"] == "shared" and database.name in _WITH_SERIES
    surrogates = [table for table in document["tables"] if table.get("surrogate")]
    first = sum(table["rows"] for table in surrogates) + 1
    series = NumberSeries(SERIES, start=first, metadata=metadata) if shared and surrogates else None
    for table in document["tables"]:
        Table(
            table["name"],
            metadata,
            *(_column(table, entry, series, database.collation) for entry in table["columns"]),
            *_constraints(table, metadata),
            *_indexes(table),
            comment=table.get("meaning"),
            quote=True,
        )
    return metadata


def _column(
    table: TableDocument, entry: Mapping[str, Any], series: NumberSeries | None, collation: str | None
) -> Column[Any]:
    defaults = {check["column"]: check["values"][0] for check in _made(table, "default")}
    numbered = entry["name"] == table.get("surrogate")
    arguments = [Identity(start=table["rows"] + 1)] if numbered and series is None else []
    return Column(
        entry["name"],
        column_sql_type(entry, collation),
        *arguments,
        nullable=entry["nullable"],
        autoincrement=numbered and series is None,
        server_default=series.next_value() if numbered and series else defaults.get(entry["name"]),
        comment=entry.get("meaning"),
        quote=True,
    )


def column_sql_type(entry: Mapping[str, Any], collation: str | None = None) -> Any:
    """Return the SQL type of a column of a design; texts get a collation where one is given."""
    kind = Kind(entry["kind"])
    if kind is Kind.INTEGER:
        return Integer() if entry["digits"] <= _SMALL_DIGITS else BigInteger()
    if kind is Kind.DECIMAL:
        return Numeric(entry["digits"], entry["scale"])
    if kind is Kind.DATE and entry["iso"]:
        return Date()
    length = max(entry["length"], 1)
    return Unicode(length, collation) if length <= _LONGEST else Text(collation=collation)


def _made(table: TableDocument, kind: str) -> list[Mapping[str, Any]]:
    return [check for check in table["checks"] if check["made"] and check["kind"] == kind]


def _constraints(table: TableDocument, metadata: MetaData) -> list[Any]:
    constraints: list[Any] = []
    if table["primary_key"]:
        constraints.append(PrimaryKeyConstraint(*table["primary_key"]))
    constraints += [UniqueConstraint(*key) for key in table["candidate_keys"][1:]]
    constraints += [UniqueConstraint(check["column"]) for check in _made(table, "unique")]
    constraints += [
        ForeignKeyConstraint(
            link["columns"],
            [metadata.tables[link["references"]["table"]].c[name] for name in link["references"]["columns"]],
            ondelete=_action(link["on_delete"]),
            onupdate=_action(link["on_update"]),
        )
        for link in table["foreign_keys"]
    ]
    entries = {entry["name"]: entry for entry in table["columns"]}
    conditions = (_condition(check, entries[check["column"]]) for check in table["checks"] if check["made"])
    return constraints + [CheckConstraint(condition) for condition in conditions if condition is not None]


def _action(rule: str) -> str:
    return rule.upper() if rule != "restrict" else "NO ACTION"


def _condition(check: Mapping[str, Any], entry: Mapping[str, Any]) -> Any:
    """Return the condition of a check; None for a check that is no condition."""
    found = column_sql_type(entry)
    cell: Any = column(quoted_name(check["column"], quote=True), found)
    if check["kind"] == "values":
        return cell.in_([literal(value, Unicode()) for value in check["values"]])
    if check["kind"] == "pattern":
        return cell.like("".join("_" if mark in "Aa9" else mark for mark in check["values"][0]))
    if check["kind"] == "range" and isinstance(found, Date):
        return cell.between(*(literal(value, Unicode()) for value in check["values"]))
    if check["kind"] == "range":
        return cell.between(*(literal_column(value) for value in check["values"]))
    return None


def _indexes(table: TableDocument) -> list[Index]:
    """Return an index for each reference whose columns do not lead a key, which has one of its own."""
    keys = [table["primary_key"], *table["candidate_keys"][1:]]
    wanted = dict.fromkeys(tuple(link["columns"]) for link in table["foreign_keys"])
    return [
        Index(f"ix_{table['name']}_{'_'.join(columns)}"[:60], *columns)
        for columns in wanted
        if not any(tuple(key[: len(columns)]) == columns for key in keys)
    ]


def schema_statements(document: Mapping[str, Any], database: Database) -> list[str]:
    """Return the statements that create tables, indexes, comments and the flat views, in order."""
    statements: list[str] = []

    def keep(statement: Any, *_: Any, **__: Any) -> None:
        text = str(statement.compile(dialect=database.dialect))
        statements.append("\n".join(line.rstrip() for line in text.strip().splitlines()))

    engine = create_mock_engine(f"{database.dialect.name}://", keep)
    schema(document, database).create_all(engine, checkfirst=False)
    made = [
        f"CREATE VIEW {database.quoted(name)} AS\n{flat_query(part, database)}"
        for name, part in views(document).items()
    ]
    return [*_indexes_in_order(statements), *made]


def _indexes_in_order(statements: Sequence[str]) -> list[str]:
    """Return the statements with those that make the indexes of one table in the order of their names."""
    found: list[str] = []
    for is_index, group in groupby(statements, key=lambda text: text.startswith("CREATE INDEX")):
        together = list(group)
        found += sorted(together) if is_index else together
    return found


def insert_statements(folder: Folder, database: Database) -> Iterator[str]:
    """Yield INSERT statements for all rows, table by table in an order in which they can be loaded."""
    for table in folder.tables:
        name = database.quoted(table["name"])
        columns = ", ".join(database.quoted(entry["name"]) for entry in table["columns"])
        numbers = [isinstance(column_sql_type(entry), Integer | Numeric) for entry in table["columns"]]
        by_hand = database.name == "sqlserver" and table.get("surrogate")
        by_hand = by_hand and folder.document["numbering"] != "shared"
        if by_hand:
            yield f"SET IDENTITY_INSERT {name} ON"
        for rows in _batches(folder.rows(table)):
            values = ",\n  ".join(_row(row, numbers, database) for row in rows)
            yield f"INSERT INTO {name} ({columns}) VALUES\n  {values}"
        if by_hand:
            yield f"SET IDENTITY_INSERT {name} OFF"


def _batches(rows: Iterable[Sequence[str | None]]) -> Iterator[list[Sequence[str | None]]]:
    batch: list[Sequence[str | None]] = []
    for row in rows:
        batch.append(row)
        if len(batch) == _ROWS_AT_ONCE:
            yield batch
            batch = []
    if batch:
        yield batch


def _row(row: Sequence[str | None], numbers: Sequence[bool], database: Database) -> str:
    cells = [
        "NULL" if cell is None else cell if number else database.text(cell)
        for cell, number in zip(row, numbers, strict=True)
    ]
    return f"({', '.join(cells)})"


def script(statements: Iterable[str], database: Database) -> Iterator[str]:
    """Yield statements as the lines of a script that the database's own client runs."""
    if database.name == "sqlite":
        yield "PRAGMA foreign_keys = ON;\n\n"
    for statement in statements:
        yield f"{statement};\n{'GO' if database.name == 'sqlserver' else ''}\n"
