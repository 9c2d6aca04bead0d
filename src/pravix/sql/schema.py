"""The tables as SQL: statements for several databases, written by SQLAlchemy's dialects."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import partial
from itertools import chain
from typing import Any, Protocol

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    Column,
    Date,
    DateTime,
    ForeignKeyConstraint,
    Identity,
    Index,
    Integer,
    MetaData,
    Numeric,
    PrimaryKeyConstraint,
    Table,
    Text,
    Time,
    Unicode,
    UniqueConstraint,
    column,
    literal,
)
from sqlalchemy import (
    Sequence as NumberSeries,
)
from sqlalchemy.engine.mock import MockConnection
from sqlalchemy.schema import AddConstraint, CreateIndex
from sqlalchemy.sql.elements import quoted_name

from pravix.databases.database import Database
from pravix.document.model import CheckDocument, ColumnDocument, Document, LinkDocument, TableDocument
from pravix.relation.types import SMALL_DIGITS, ColumnType, Kind, is_number
from pravix.sql.identifiers import Names
from pravix.sql.view import flat_query, views

DAYS_AND_TIMES = (Date, DateTime, Time)
_LONGEST = 4000
_ROWS_AT_ONCE = 200
_LATER = "circular"
SERIES = "row_numbers"
"""The sequence that numbers the rows of all tables, where numbers are shared."""


def schema(document: Document, database: Database) -> MetaData:
    """Return the tables of a design as SQLAlchemy schema objects."""
    metadata = MetaData()
    series = _series(document, metadata, database)
    names = Names(database, [*(table.name for table in document.tables), *views(document)], relations=True)
    for table in document.tables:
        made = Table(
            table.name,
            metadata,
            *(_column(table, entry, series.get(table.name), database) for entry in table.columns),
            *(_rules(table, names, database) if database.keeps_rules else ()),
            comment=table.meaning or None,
            quote=True,
        )
        for link in table.foreign_keys if database.keeps_rules else ():
            if not link.circular or database.adds_references or database.defers:
                made.append_constraint(_reference(link, metadata, database))
    return metadata


def series_of(table: str) -> str:
    """Return the name of the sequence of one table's own."""
    return f"{table}_{SERIES}"


def _series(document: Document, metadata: MetaData, database: Database) -> dict[str, NumberSeries]:
    """Return the sequence that numbers each table, where the database does not number columns by itself."""
    numbered = {table.name: table.rows for table in document.tables if table.surrogate}
    if numbered and document.numbering == "shared" and database.shared_series:
        shared = NumberSeries(SERIES, start=sum(numbered.values()) + 1, metadata=metadata)
        return dict.fromkeys(numbered, shared)
    if database.numbers_itself or not database.keeps_rules:
        return {}
    return {
        name: NumberSeries(series_of(name), start=rows + 1, metadata=metadata, quote=True)
        for name, rows in numbered.items()
    }


def _column(
    table: TableDocument, entry: ColumnDocument, series: NumberSeries | None, database: Database
) -> Column[Any]:
    defaults = {check.column: check.values[0] for check in table.made_checks("default")}
    numbered = entry.name == table.surrogate and (database.numbers_itself or series is not None)
    arguments = [Identity(start=table.rows + 1)] if numbered and series is None else []
    return Column(
        entry.name,
        column_sql_type(entry, database),
        *arguments,
        nullable=entry.nullable,
        autoincrement=numbered and series is None,
        server_default=series.next_value() if numbered and series else defaults.get(entry.name),
        comment=entry.meaning or None,
        quote=True,
    )


def column_sql_type(entry: ColumnDocument, database: Database) -> Any:
    """Return the SQL type of a column of a design; see ``sql_type``."""
    return sql_type(entry.cells, database)


def sql_type(found: ColumnType, database: Database) -> Any:
    """Return the SQL type for the cells of a type.

    Texts are compared letter by letter. Numbers of more digits than a database holds exactly are texts there.
    """
    kind = found.kind
    if kind is Kind.INTEGER:
        return Integer() if found.digits <= SMALL_DIGITS else BigInteger()
    if kind is Kind.DECIMAL and found.digits <= database.exact_digits:
        return Numeric(found.digits, found.scale)
    if found.stored and kind in database.day_types:
        return database.day_types[kind]
    length, collation = max(found.length, 1), database.collation
    return Unicode(length, collation) if length <= _LONGEST else Text(collation=collation)


def beyond(document: Document, database: Database) -> str:
    """Return what a database cannot do exactly with the numbers of a design; nothing where it can do all.

    It holds them as texts, but would round where it computes.
    """
    wide = {
        column.flat: column.digits
        for table in document.tables
        for column in table.columns
        if column.kind is Kind.DECIMAL and column.digits > database.exact_digits
    }
    for entry in (entry for part in document.parts.values() for entry in part.rebuild):
        if entry.is_arithmetic:
            for name in entry.needs:
                if name in wide:
                    most = f"whose numbers may have {wide[name]} digits"
                    return f"{entry.column} is computed from {name}, {most}"
    return ""


def held_otherwise(document: Document, database: Database) -> tuple[str, ...]:
    """Return a note for all that a database holds otherwise than the design says.

    That is each column of numbers that it would round, and that is a text there, and each reference by which
    it cannot delete or change rows along, or that it cannot check.
    """
    if not database.keeps_rules:
        return (f"{database.name} keeps no keys, references and checks: the tables are made without them",)
    most = database.exact_digits
    texts = [
        f"{table.name}.{column.name} is a text there: its numbers may have {column.digits} digits, and "
        f"{database.name} keeps {most}"
        for table in document.tables
        for column in table.columns
        if column.kind is Kind.DECIMAL and column.digits > most
    ]
    along = [
        f"{database.name} deletes and changes nothing along: rows of {link.references.table} stay as "
        f"they are while rows of {table.name} refer to them"
        for table in document.tables
        for link in table.foreign_keys
        if not database.acts_on_references and {link.on_delete, link.on_update} - {"restrict"}
    ]
    circles = [
        f"{table.name} refers to itself in a circle, which {database.name} cannot check: "
        f"{', '.join(link.columns)} is no reference there"
        for table in document.tables
        for link in table.foreign_keys
        if link.circular and not (database.adds_references or database.defers)
    ]
    return (*texts, *along, *circles)


def _rules(table: TableDocument, names: Names, database: Database) -> list[Any]:
    return [*_constraints(table, database), *_indexes(table, names, database)]


def _constraints(table: TableDocument, database: Database) -> list[Any]:
    constraints: list[Any] = []
    if table.primary_key:
        constraints.append(PrimaryKeyConstraint(*table.primary_key))
    constraints += [UniqueConstraint(*key) for key in table.candidate_keys[1:]]
    constraints += [UniqueConstraint(check.column) for check in table.made_checks("unique")]
    entries = {entry.name: entry for entry in table.columns}
    conditions = (_condition(check, entries[check.column], database) for check in table.checks if check.made)
    return constraints + [CheckConstraint(condition) for condition in conditions if condition is not None]


def _reference(link: LinkDocument, metadata: MetaData, database: Database) -> ForeignKeyConstraint:
    """Return a reference; its table must have been made, for it may refer to itself."""
    there = metadata.tables[link.references.table].c
    return ForeignKeyConstraint(
        link.columns,
        [there[name] for name in link.references.columns],
        ondelete=_action(link.on_delete, database),
        onupdate=_action(link.on_update, database),
        deferrable=True if link.circular and database.defers else None,
        initially="DEFERRED" if link.circular and database.defers else None,
        info={_LATER: link.circular},
    )


def _action(rule: str, database: Database) -> str:
    return rule.upper() if rule != "restrict" and database.acts_on_references else "NO ACTION"


def _condition(check: CheckDocument, entry: ColumnDocument, database: Database) -> Any:
    """Return the condition of a check; None for one that is no condition, or on numbers held as texts."""
    found = column_sql_type(entry, database)
    cell: Any = column(quoted_name(check.column, quote=True), found)
    if check.kind == "values":
        return cell.in_([literal(value, Unicode()) for value in check.values])
    if check.kind == "pattern":
        return cell.like("".join("_" if mark in "Aa9" else mark for mark in check.values[0]))
    if check.kind == "range" and isinstance(found, DAYS_AND_TIMES):
        return cell.between(*(literal(value, Unicode()) for value in check.values))
    if check.kind == "range" and isinstance(found, Integer | Numeric):
        number = int if isinstance(found, Integer) else Decimal
        return cell.between(*(literal(number(value), found) for value in check.values))
    return None


def _indexes(table: TableDocument, names: Names, database: Database) -> list[Index]:
    """Return an index for each reference whose columns do not lead a key, which has one of its own."""
    keys = [table.primary_key, *table.candidate_keys[1:]]
    wanted = dict.fromkeys(tuple(link.columns) for link in table.foreign_keys)
    return [
        Index(names.free(f"ix_{table.name}_{'_'.join(columns)}"), *columns)
        for columns in wanted
        if not any(tuple(key[: len(columns)]) == columns for key in keys)
    ]


@dataclass(frozen=True)
class Statements:
    """The statements that make a design in a database, in the order in which they can be carried out.

    ``references`` are those by which rows refer in a circle: they are made when the rows are in.
    """

    tables: tuple[str, ...]
    indexes: tuple[str, ...]
    references: tuple[str, ...]
    views: tuple[str, ...]

    def __iter__(self) -> Iterator[str]:
        yield from (*self.tables, *self.indexes, *self.references, *self.views)


def schema_statements(document: Document, database: Database, filled: bool = False) -> Statements:
    """Return the statements that create tables with their comments, then indexes, then the flat views.

    With ``filled`` the tables are filled before references are made: all of them may come that late.
    """
    metadata = schema(document, database)
    compiled: list[tuple[Any, str]] = []
    every = filled and database.checks_references_at_once
    later = [AddConstraint(one) for one in _later(metadata, every)] if database.adds_references else []

    def told(statement: Any) -> str:
        text = str(statement.compile(dialect=database.dialect))
        return "\n".join(line.rstrip() for line in text.strip().splitlines())

    def keep(statement: Any, *_: Any, **__: Any) -> None:
        compiled.append((statement, told(statement)))

    engine = MockConnection(database.dialect, keep)
    metadata.create_all(engine, checkfirst=False)
    indexes = [(str(one.element.table), text) for one, text in compiled if isinstance(one, CreateIndex)]
    order = [table.name for table in document.tables]
    made = [
        f"CREATE VIEW {database.quoted(name)} AS\n{flat_query(part, database)}"
        for name, part in views(document).items()
    ]
    return Statements(
        tuple(text for one, text in compiled if not isinstance(one, CreateIndex)),
        tuple(text for _, text in sorted(indexes, key=lambda one: (order.index(one[0]), one[1]))),
        tuple(map(told, later)),
        tuple(made),
    )


def _later(metadata: MetaData, every: bool) -> list[ForeignKeyConstraint]:
    """Return the references that are made when the rows are in: those in circles, or ``every`` one."""
    return [
        one
        for table in metadata.sorted_tables
        for one in table.foreign_key_constraints
        if every or one.info.get(_LATER, False)
    ]


class FilledTables(Protocol):
    """A design as a document with the rows of its tables, as a folder gives them."""

    @property
    def document(self) -> Document:
        """The design."""
        ...

    @property
    def tables(self) -> Sequence[TableDocument]:
        """Its tables."""
        ...

    def rows(self, table: TableDocument) -> Iterable[Sequence[str | None]]:
        """Return the rows of a table, None for a blank."""
        ...


def insert_statements(folder: FilledTables, database: Database) -> Iterator[str]:
    """Yield INSERT statements for all rows, table by table in an order in which they can be loaded."""
    for table in folder.tables:
        name = database.quoted(table.name)
        columns = ", ".join(database.quoted(entry.name) for entry in table.columns)
        types = [column_sql_type(entry, database) for entry in table.columns]
        written = [_literals(found, database) for found in types]
        numbered = bool(table.surrogate) and folder.document.numbering != "shared"
        begin, end = (database.numbering_by_hand(table.name, on) for on in (True, False))
        if numbered and begin:
            yield begin
        for rows in _batches(folder.rows(table)):
            values = ",\n  ".join(_row(row, written) for row in rows)
            yield f"INSERT INTO {name} ({columns}) VALUES\n  {values}"
        if numbered and end:
            yield end


def _batches(rows: Iterable[Sequence[str | None]]) -> Iterator[list[Sequence[str | None]]]:
    batch: list[Sequence[str | None]] = []
    for row in rows:
        batch.append(row)
        if len(batch) == _ROWS_AT_ONCE:
            yield batch
            batch = []
    if batch:
        yield batch


def _literals(kind: Any, database: Database) -> Callable[[str], str]:
    """Return how the cells of a column of a type are written."""
    if isinstance(kind, Integer | Numeric):
        return lambda cell: cell if is_number(cell) else database.text(cell)
    if isinstance(kind, DAYS_AND_TIMES) and not database.reads_dates:
        return partial(database.day_literal, str(kind.compile(database.dialect)))
    return database.text


def _row(row: Sequence[str | None], written: Sequence[Callable[[str], str]]) -> str:
    cells = ["NULL" if cell is None else told(cell) for cell, told in zip(row, written, strict=True)]
    return f"({', '.join(cells)})"


def script(statements: Iterable[str], database: Database) -> Iterator[str]:
    """Yield statements as the lines of a script that the database's own client runs."""
    yield from database.script_head
    for statement in statements:
        yield f"{statement};\n{database.batch_end}\n"


def whole_script(folder: FilledTables, database: Database, rows: bool) -> Iterator[str]:
    """Yield the script that makes the tables of a folder that fits a database, with its ``rows`` if wished.

    Views come last, when the rows are in.
    """
    made = schema_statements(folder.document, database)
    filled = insert_statements(folder, database) if rows else iter(())
    steps = chain(made.tables, made.indexes, filled, made.references, made.views)
    if rows and database.defers and not database.adds_references and _in_circles(folder.document):
        steps = chain(["BEGIN"], steps, ["COMMIT"])
    yield from script(steps, database)


def _in_circles(document: Document) -> bool:
    return any(link.circular for table in document.tables for link in table.foreign_keys)
