"""The statements that fill the tables of a design from the flat table, where it is: INSERT ... SELECT.

Each table takes the different combinations of its flat columns, in every role that it has; lists are split
and families put one under the other. Numbers that were added are looked up by what they stand for. So the
tables are filled in their order, each after those that it refers to.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

from sqlalchemy import String

from pravix.databases.database import Database
from pravix.databases.number import Number
from pravix.document.model import ColumnDocument, LinkDocument, PartDocument, TableDocument
from pravix.first_normal_form.families import RebuiltMember
from pravix.first_normal_form.lists import RebuiltList
from pravix.first_normal_form.rebuilt import FromChild, Rebuilt
from pravix.relation.types import MOST_PLACES, Kind
from pravix.sql.schema import column_sql_type

_WIDE = f"DECIMAL(38, {MOST_PLACES})"


@dataclass(frozen=True)
class FlatRows:
    """The flat rows in a database: what stands in FROM, and each column of the design as a text there.

    A blank is NULL. ``number`` is the number of a row in its file, where it has one.
    """

    sql: str
    cells: Mapping[str, str]
    number: str | None = None

    def numbered(self, column: str) -> FlatRows:
        """Return the rows with their number as one more column.

        Rows without one are numbered in the order of all of their cells: rows that cannot be told apart by
        these need not be. So they get the same numbers in every statement.
        """
        if self.number is not None:
            return FlatRows(self.sql, {**self.cells, column: self.number})
        names = {name: f"n{n}" for n, name in enumerate(self.cells)}
        listed = ", ".join(f"{cell} AS {names[name]}" for name, cell in self.cells.items())
        order = ", ".join(self.cells.values())
        number = f"ROW_NUMBER() OVER (ORDER BY {order}) AS n"
        cells = {name: f"r.{short}" for name, short in names.items()}
        return FlatRows(f"(SELECT {listed}, {number} FROM {self.sql}) r", {**cells, column: "r.n"})


@dataclass
class _Looked:
    """Tables joined to look numbers up: the joins, the hidden columns that they need, the numbers."""

    joins: list[str] = field(default_factory=list)
    hidden: dict[str, str] = field(default_factory=dict)
    numbers: dict[str, str] = field(default_factory=dict)


def fill_statements(document: Fillable, database: Database, flat: FlatRows) -> Iterator[str]:
    """Yield the statements that fill all tables, in their order."""
    filling = _Filling(document, database, flat)
    for table in document.tables:
        columns = ", ".join(map(database.quoted, table.column_names))
        begin, end = (database.numbering_by_hand(table.name, on) for on in (True, False))
        if table.surrogate and begin:
            yield begin
        yield f"INSERT INTO {database.quoted(table.name)} ({columns})\n{filling.rows(table)}"
        if table.surrogate and end:
            yield end


def row_queries(document: Fillable, database: Database, flat: FlatRows) -> Iterator[tuple[str, str]]:
    """Yield for each table the query for how many rows it gets."""
    filling = _Filling(document, database, flat)
    for table in document.tables:
        yield table.name, f"SELECT COUNT(*) FROM (\n{filling.counted(table)}\n) s"


class Fillable(Protocol):
    """A design as far as filling its tables needs it, as a document gives it."""

    @property
    def tables(self) -> Sequence[TableDocument]:
        """The tables, each after those that it refers to."""
        ...

    @property
    def main(self) -> str:
        """The table that holds a key of the file."""
        ...

    @property
    def by_name(self) -> Mapping[str, TableDocument]:
        """The tables by their names."""
        ...

    def children(self) -> Iterator[FromChild]:
        """Yield the columns that come back from child tables."""
        ...


def against_formula(document: Fillable, entry: Rebuilt, database: Database, flat: FlatRows) -> str | None:
    """Return the query for how many flat rows have another value than a formula gives; None where it is
    computed from what no table holds.
    """
    needed = {
        flat_name: table.column(own).scale
        for table in document.tables
        for role in table.role_names
        for flat_name, own in table.flat_columns(role).items()
    }
    if not set(entry.needs) <= needed.keys():
        return None
    filling = _Filling(document, database, flat)
    cells = [filling.typed_as(name, flat.cells[name]) for name in entry.needs]
    listed = ", ".join(f"{cell} AS a{n}" for n, cell in enumerate(cells))
    numbers = [Number(f"s.a{n}", needed[name]) for n, name in enumerate(entry.needs)]
    value, cell = entry.sql(numbers, database), flat.cells[entry.column]
    if entry.is_arithmetic:
        value, cell = (database.typed(one, Kind.DECIMAL, _WIDE) for one in (value, cell))
    else:
        value, cell = database.as_text(value), database.as_text(cell)
    same = f"{value} = s.c OR ({value} IS NULL AND s.c IS NULL)"
    return (
        f"SELECT SUM(CASE WHEN {same} THEN 0 ELSE 1 END)\n"
        f"FROM (SELECT {listed}, {cell} AS c FROM {flat.sql}) s"
    )


def table_query(document: Fillable, table: TableDocument, database: Database, flat: FlatRows) -> str:
    """Return the query for the rows of a table: every cell a text, but the numbers that were added."""
    return _Filling(document, database, flat, as_texts=True).rows(table)


class _Filling:
    def __init__(
        self, document: Fillable, database: Database, flat: FlatRows, as_texts: bool = False
    ) -> None:
        self._as_texts = as_texts
        self._document = document
        self._database = database
        main = document.by_name[document.main]
        number = next((name for name in main.flat_columns() if name not in flat.cells), None)
        self._flat = flat if number is None else flat.numbered(number)
        self._quoted = database.quoted
        self._once = any(table.independent_of for table in document.tables)

    def counted(self, table: TableDocument) -> str:
        """Return the query whose rows are as many as those of a table."""
        return self.different(table, self._looked_up(table))

    def rows(self, table: TableDocument) -> str:
        """Return the query for the rows of a table, its columns in their order."""
        looked = self._looked_up(table)
        inner = self.different(table, looked)
        if not looked.joins and not table.surrogate:
            return inner
        listed = []
        for column in table.columns:
            if column.name == table.surrogate:
                order = ", ".join(f"s.{self._quoted(name)}" for name in self._ordering(table, looked))
                listed.append(f"ROW_NUMBER() OVER (ORDER BY {order}) AS {self._quoted(column.name)}")
            else:
                listed.append(looked.numbers.get(column.name, f"s.{self._quoted(column.name)}"))
        joins = "".join(f"\n{one}" for one in looked.joins)
        return f"SELECT {', '.join(listed)}\nFROM (\n{inner}\n) s{joins}"

    def _ordering(self, table: TableDocument, looked: _Looked) -> list[str]:
        own = [name for name in table.natural_key if name not in looked.numbers]
        return [*own, *looked.hidden] or [self._direct(table)[0].name]

    def different(self, table: TableDocument, looked: _Looked) -> str:
        """Return the query for the different combinations of the flat columns of a table, in all roles."""
        parts = [self._in_role(table, role, looked) for role in table.role_names]
        return "\nUNION\n".join(parts)

    def _in_role(self, table: TableDocument, role: str, looked: _Looked) -> str:
        flat = {own: name for name, own in table.flat_columns(role).items()}
        source = self._source(table)
        wanted = {
            column.name: self._typed(column, source.cells[flat[column.name]])
            for column in self._direct(table)
        }
        wanted |= {
            name: self._typed(self._described(column), source.cells[column])
            for name, column in looked.hidden.items()
        }
        listed = ",\n  ".join(f"{sql} AS {self._quoted(name)}" for name, sql in wanted.items())
        filled = [source.cells[flat[name]] for name in table.natural_key if name in flat]
        if table.apart_from:
            any_filled = " OR ".join(
                f"{source.cells[flat[c.name]]} IS NOT NULL" for c in self._set_apart(table)
            )
            filled = [*filled, f"({any_filled})"]
        conditions = [one if one.startswith("(") else f"{one} IS NOT NULL" for one in filled]
        if table.part_of:
            facts = [column for column in self._parted(table) if column in source.cells]
            conditions.append(f"({' OR '.join(f'{source.cells[one]} IS NOT NULL' for one in facts)})")
        where = f"\nWHERE {' AND '.join(conditions)}" if conditions else ""
        distinct = "DISTINCT" if self._once or table.name != self._document.main else ""
        return f"SELECT {distinct}\n  {listed}\nFROM {source.sql}{where}"

    def _direct(self, table: TableDocument) -> list[ColumnDocument]:
        """Return the columns that hold flat columns."""
        return [column for column in table.columns if column.flat is not None]

    def _set_apart(self, table: TableDocument) -> list[ColumnDocument]:
        return [column for column in self._direct(table) if column.name not in table.primary_key]

    def _typed(self, column: ColumnDocument, cell: str) -> str:
        """Return a cell in the type of its column."""
        kind = column_sql_type(column, self._database)
        if isinstance(kind, String) or self._as_texts:
            return cell
        return self._database.typed(cell, column.kind, str(kind.compile(dialect=self._database.dialect)))

    def typed_as(self, flat: str, cell: str) -> str:
        """Return a cell in the type of the column that stands for a flat one."""
        return self._typed(self._described(flat), cell)

    def _described(self, flat: str) -> ColumnDocument:
        """Return a column of some table that stands for a flat one."""
        for table in self._document.tables:
            for role in table.role_names:
                own = table.flat_columns(role).get(flat)
                if own is not None:
                    return table.column(own)
        raise KeyError(flat)

    def _looked_up(self, table: TableDocument) -> _Looked:
        """Return how the numbers are found by which a table refers to others."""
        looked = _Looked()
        for link in table.foreign_keys:
            (name, *more) = link.columns
            if (
                not more
                and not link.by_values
                and table.column(name).flat is None
                and name != table.surrogate
            ):
                role = link.role or ""
                looked.numbers[name] = self._number(link, role, looked)
        return looked

    def _number(self, link: LinkDocument, role: str, looked: _Looked) -> str:
        """Join the table that a link leads to; return the expression of its number."""
        other = self._document.by_name[link.references.table]
        role = role if other.roles else ""
        flat = {own: name for name, own in other.flat_columns(role).items()}
        alias = f"p{len(looked.joins)}"
        pairs = []
        for name in other.natural_key:
            if name in flat:
                hidden = next((one for one, of in looked.hidden.items() if of == flat[name]), None)
                if hidden is None:
                    hidden = f"h{len(looked.hidden)}"
                    looked.hidden[hidden] = flat[name]
                pairs.append((name, f"s.{self._quoted(hidden)}"))
            else:
                inner = next(one for one in other.foreign_keys if one.columns == (name,))
                pairs.append((name, self._number(inner, inner.role or role, looked)))
                alias = f"p{len(looked.joins)}"
        on = " AND ".join(f"{alias}.{self._quoted(name)} = {cell}" for name, cell in pairs)
        looked.joins.append(f"LEFT JOIN {self._quoted(other.name)} {alias} ON {on}")
        return f"{alias}.{self._quoted(link.references.columns[0])}"

    def _source(self, table: TableDocument) -> FlatRows:
        """Return the flat rows, or for a table of parts these with their parts."""
        if not table.part_of:
            return self._flat
        entries = [one for one in self._document.children() if one.bundle == table.part_of]
        lists = [one for one in entries if isinstance(one, RebuiltList)]
        child = next(one for one in self._document.tables if one.part_of == table.part_of and one.repairs)
        position = child.column(entries[0].position).flat or entries[0].position
        if lists:
            return self._with_items(lists[0], position)
        return self._with_members([one for one in entries if isinstance(one, RebuiltMember)], position)

    def _parted(self, table: TableDocument) -> list[str]:
        return list(
            dict.fromkeys(one.fact for one in self._document.children() if one.bundle == table.part_of)
        )

    def _with_items(self, entry: RebuiltList, position: str) -> FlatRows:
        cell = self._flat.cells[entry.column]
        if entry.last:
            cell = f"REPLACE({cell}, {self._database.text(entry.last)}, {self._database.text(entry.mark)})"
        joined, item, place = self._database.with_items(self._flat.sql, cell, entry.mark)
        return FlatRows(
            joined, {**self._flat.cells, entry.fact: f"NULLIF(TRIM({item}), '')", position: place}
        )

    def _with_members(self, entries: Sequence[RebuiltMember], position: str) -> FlatRows:
        by_place: dict[int, dict[str, str]] = {}
        for one in entries:
            by_place.setdefault(one.at, {})[one.fact] = self._flat.cells[one.column]
        facts = list(dict.fromkeys(one.fact for one in entries))
        quoted = self._quoted
        needed = {name: f"c{n}" for n, name in enumerate(self._flat.cells)}
        parts = []
        for at, members in sorted(by_place.items()):
            listed = [f"{self._flat.cells[name]} AS {quoted(alias)}" for name, alias in needed.items()]
            listed += [f"{members.get(fact, 'NULL')} AS {quoted(f'f{n}')}" for n, fact in enumerate(facts)]
            parts.append(f"SELECT {at} AS place, {', '.join(listed)} FROM {self._flat.sql}")
        cells = {name: f"m.{quoted(alias)}" for name, alias in needed.items()}
        cells |= {fact: f"m.{quoted(f'f{n}')}" for n, fact in enumerate(facts)}
        return FlatRows(f"(\n{' UNION ALL '.join(parts)}\n) m", {**cells, position: "m.place"})


@dataclass(frozen=True)
class GivenBack:
    """A query that compares flat rows with a view: it gives a row for each that is alike, or for each kind of
    rows that comes more often on one side.
    """

    query: str
    alike: bool

    def complaint(self, view: str, given: int, found: int, wanted: int) -> str:
        """Return what is wrong where the view has ``given`` rows, the query ``found`` ones, and the flat
        table ``wanted``; nothing where every row is given back.
        """
        if given == wanted and found == (wanted if self.alike else 0):
            return ""
        alike = f"of which {found:,} are" if self.alike else f"but {found:,} kinds of rows are not"
        return f"the view {view} gives {given:,} rows, {alike} those of the flat table, which has {wanted:,}"


def rows_given_back(document: PartDocument, database: Database, flat: FlatRows, view: str) -> GivenBack:
    """Return the query that says whether a view gives back the flat rows.

    Each is looked for by what identifies it, which no two rows of the view share. Where nothing identifies a
    row, the two sides are counted together, which costs more.
    """
    names = document.source.columns
    kinds = dict(zip(names, document.flat.kinds, strict=True))
    called = {name: database.quoted(document.view_columns.get(name, name)) for name in names}
    ours = [comparable_sql(flat.cells[name], kinds[name], database) for name in names]
    theirs = [comparable_sql(f"v.{called[name]}", kinds[name], database) for name in names]
    columns = [database.quoted(f"c{n}") for n in range(len(names))]
    here = ",\n  ".join(f"{sql} AS {column}" for sql, column in zip(ours, columns, strict=True))
    key = document.row_key.columns if document.row_key is not None else ()
    if key and set(key) <= set(names):
        pairs = [(f"f.{column}", other) for column, other in zip(columns, theirs, strict=True)]
        filling = _Filling(document, database, flat)
        keyed = {name: f"k{n}" for n, name in enumerate(key)}
        here += "".join(
            f", {filling.typed_as(name, flat.cells[name])} AS {alias}" for name, alias in keyed.items()
        )
        on = " AND ".join(f"f.{alias} = v.{called[name]}" for name, alias in keyed.items())
        same = "\n  AND ".join(
            f"({one} = {other} OR ({one} IS NULL AND {other} IS NULL))" for one, other in pairs
        )
        return GivenBack(
            f"SELECT 1 AS one FROM (SELECT {here} FROM {flat.sql}) f\n"
            f"JOIN {database.quoted(view)} v ON {on}\nWHERE {same}",
            alike=True,
        )
    there = ",\n  ".join(f"{sql} AS {column}" for sql, column in zip(theirs, columns, strict=True))
    both = (
        f"SELECT 1 AS one, {here} FROM {flat.sql}\nUNION ALL\n"
        f"SELECT -1 AS one, {there} FROM {database.quoted(view)} v"
    )
    return GivenBack(
        f"SELECT SUM(one) AS more FROM (\n{both}\n) b GROUP BY {', '.join(columns)} HAVING SUM(one) <> 0",
        alike=False,
    )


def comparable_sql(cell: str, kind: Kind, database: Database) -> str:
    """Return a cell as it is compared: a number by its value, all else as a text."""
    if kind.numeric:
        return database.typed(cell, Kind.DECIMAL, _WIDE)
    return database.as_text(cell) if kind in (Kind.DATE, Kind.MOMENT, Kind.TIME) else cell
