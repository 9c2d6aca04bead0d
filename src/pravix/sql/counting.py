"""The counts of a design whose flat rows stay elsewhere: every table and every step, counted in all rows
there.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.design.model import Design, Step, Table
from pravix.document.design_document import table_document
from pravix.document.model import TableDocument
from pravix.document.rebuilding import rebuild_document
from pravix.engines.flat import Flat
from pravix.errors import InputError
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.rebuilt import FromChild
from pravix.relation.relation import Relation
from pravix.relation.types import Kind
from pravix.sql.filling import FlatRows, against_formula, row_queries
from pravix.sql.flat_rows import flat_rows


@dataclass(frozen=True)
class _Counted:
    """All rows of a table of a design: how many they are is all that is known of them."""

    row_count: int

    def size(self, columns: Collection[str], filled: Collection[str] = ()) -> int:
        """Raise LookupError: only the rows here are grouped."""
        raise LookupError(columns, filled)

    def filled(self, columns: Collection[str]) -> int:
        """Raise LookupError: only the rows here are looked at."""
        raise LookupError(columns)

    def exceptions(self, determinant: Collection[str], dependent: str) -> tuple[int, int]:
        """Raise LookupError: only the rows here are looked at."""
        raise LookupError(determinant, dependent)


@dataclass(frozen=True)
class _Tables:
    """What is to be known of a design to fill its tables."""

    tables: Sequence[TableDocument]
    main: str
    entries: Sequence[FromChild]

    @property
    def by_name(self) -> Mapping[str, TableDocument]:
        """The tables by their names."""
        return {table.name: table for table in self.tables}

    def children(self) -> Iterator[FromChild]:
        """Yield the columns that come back from child tables."""
        yield from self.entries


def recounted(design: Design, flat: Flat, originals: Flat) -> Design:
    """Return a design made from some rows with the counts of all, which are in ``flat``, repaired.

    Cost: a pass over all rows for each table and each step, made where they are.
    """
    kind = database(flat.place.adaptor.name)
    tables = tuple(table_document(table, design.tables, ()) for table in design.tables)
    rebuilt = rebuild_document(design)
    entries = [one for one in rebuilt if isinstance(one, FromChild)]
    made = {name: told for name, told in flat.told.items() if name not in originals.told and len(told) == 1}
    rows = flat_rows(originals, made, kind)
    _check_independent(tables, flat)
    known = _Tables(tables, design.main, entries)
    for entry in rebuilt:
        if isinstance(entry, Formula):
            _check_formula(known, entry, kind, rows, flat)
    queries = row_queries(known, kind, rows)
    counts = {name: int(flat.place.run(query)[0][0]) for name, query in queries}

    def counted(step: Step) -> Step:
        known = set(step.determinant) <= set(flat.told)
        before = flat.filled(step.determinant) if known else step.stored_before
        return replace(step, stored_before=before, stored_now=counts.get(step.to_table, step.stored_now))

    return replace(
        design,
        tables=tuple(_with_count(table, counts[table.name], sum(counts.values())) for table in design.tables),
        steps=tuple(map(counted, design.steps)),
        untaken=tuple(map(counted, design.untaken)),
        proof=replace(design.proof, rejoined_rows=flat.row_count),
    )


def _check_formula(known: _Tables, entry: Formula, kind: Database, rows: FlatRows, flat: Flat) -> None:
    """Raise InputError where a formula that holds in the rows drawn does not hold in all."""
    query = against_formula(known, entry, kind, rows)
    if query is None:
        return  # It is computed from what is computed itself: the proof of the tables says whether it holds.
    wrong = int(flat.place.run(query)[0][0] or 0)
    if wrong:
        raise InputError(
            f"{entry.column} is not {entry} in {wrong:,} of {flat.row_count:,} rows, though in all that were "
            "drawn",
            f'Keep it as it is: pravix repair SOURCE --keep "computed: {entry.column}"',
        )


def _check_independent(tables: Sequence[TableDocument], flat: Flat) -> None:
    """Raise InputError where two lists that are independent in the rows drawn are not so in all rows."""
    by_name = {table.name: table for table in tables}
    for table in tables:
        if table.independent_of:
            other = by_name[table.independent_of]
            one, two = set(table.flat_columns()), set(other.flat_columns())
            made = flat.product(one & two, [two - one, one - two])
            if made != flat.row_count:
                raise InputError(
                    f"{other.name} and {table.name} would give {made:,} rows, not {flat.row_count:,}: their "
                    "lists are independent in the rows that were drawn only",
                    "Decompose without --until 4nf, or allow more memory: --memory",
                )


def _with_count(table: Table, count: int, numbers: int) -> Table:
    """Return a table with the count of its rows, and room for so many ``numbers`` where rows are numbered."""
    digits = len(str(numbers))
    columns = tuple(
        replace(column, type=replace(column.type, length=digits, digits=digits))
        if column.source is None and column.stands_for is None and column.type.kind is Kind.INTEGER
        else column
        for column in table.columns
    )
    rows = Relation(table.rows.columns, table.rows.row_numbers, _Counted(count))
    return replace(table, columns=columns, rows=rows)
