"""The rows of a file as its design sees them: cells as they are compared, repairs made again."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import overload

import numpy as np
import pyarrow
from numpy.typing import NDArray

from pravix.document.model import DesignDocument, TableDocument
from pravix.errors import InputError
from pravix.first_normal_form.formula import Formula
from pravix.folder.reader import Folder
from pravix.proof.files import flat_rows
from pravix.relation.grouping import first_positions, group_numbers, groups_by
from pravix.relation.relation import BLANK, Codes, Column, Positions, Relation
from pravix.relation.texts import Span, Texts
from pravix.relation.types import Kind, comparable
from pravix.sources.coding import arrow_cells, coded_column, numbers_of, present
from pravix.wording import counted, joined, shortened


@dataclass(frozen=True)
class ArrivedRow:
    """One row: its number, its cells as they were read, and its values by column of the repaired rows."""

    number: int
    cells: tuple[str, ...]
    values: Mapping[str, str]


@dataclass(frozen=True, eq=False)
class ArrivedRows(Sequence[ArrivedRow]):
    """Rows by columns, of which each is made when it is asked for.

    ``cells`` are those that were read, ``values`` those of the repaired rows as they are compared.
    """

    cells: Relation
    values: Relation

    @classmethod
    def of(cls, cells: Relation, values: Iterable[Mapping[str, str]]) -> ArrivedRows:
        """Return rows of which the values are given row by row; what one lacks is blank."""
        told = list(values)
        names = list(dict.fromkeys(name for one in told for name in one))
        columns = (Column.from_texts(name, [one.get(name, "") for one in told]) for name in names)
        return cls(cells, Relation(tuple(columns), cells.row_numbers))

    def __len__(self) -> int:
        return self.cells.row_count

    @overload
    def __getitem__(self, place: int) -> ArrivedRow: ...

    @overload
    def __getitem__(self, place: Span) -> ArrivedRows: ...

    def __getitem__(self, place: int | Span) -> ArrivedRow | ArrivedRows:
        if isinstance(place, slice):
            return self.take(np.arange(len(self))[place])
        cells = tuple(column.text(place) for column in self.cells.columns)
        values = {column.name: column.text(place) for column in self.values.columns}
        return ArrivedRow(int(self.numbers[place]), cells, values)

    def __iter__(self) -> Iterator[ArrivedRow]:
        names = self.values.names
        rows = zip(self.numbers.tolist(), self.cells.rows(), self.values.rows(), strict=True)
        for number, cells, values in rows:
            yield ArrivedRow(number, cells, dict(zip(names, values, strict=True)))

    @property
    def numbers(self) -> NDArray[np.int64]:
        """The number of each row."""
        return self.cells.row_numbers

    def take(self, positions: Positions) -> ArrivedRows:
        """Return the rows at ``positions``, in that order."""
        return ArrivedRows(self.cells.take(positions), self.values.take(positions))

    def different(self, names: Collection[str]) -> list[int]:
        """Return the positions of the first rows with each combination of cells in some columns.

        Cells count as they were read, and those of the repaired rows as they are compared.
        """
        known = self.cells.names
        told = [(self.cells if name in known else self.values).column(name).codes for name in names]
        return [*map(int, first_positions(group_numbers(told, len(self))))]

    def numbered(self, numbers: Collection[int], others: bool = False) -> ArrivedRows:
        """Return the rows that have one of some numbers, or all ``others``."""
        known = np.isin(self.numbers, np.fromiter(numbers, np.int64, len(numbers)))
        return self.take(np.flatnonzero(known != others))


def arrived_rows(document: DesignDocument, relation: Relation, name: str) -> ArrivedRows:
    """Return the rows of a new file. Raises InputError where it has not the columns of the design's file.

    Linear in the cells, and in the different combinations of those that are repaired.
    """
    check_columns(document, relation.names, name)
    cells = relation.project(document.source.columns)
    pairs = zip(cells.columns, document.flat.kinds, strict=True)
    compared = tuple(_compared(column.name, column.codes, column.values, kind) for column, kind in pairs)
    return ArrivedRows(cells, _repaired(document, Relation(compared, cells.row_numbers)))


def _compared(name: str, codes: Codes, values: Sequence[object], kind: Kind) -> Column:
    """Return a column of values as they are compared: one code for those that are equal."""
    if isinstance(values, Texts) and not kind.numeric:
        return Column(name, codes, values)
    known: dict[str, int] = {"": BLANK}
    told = (comparable(value, kind.numeric) for value in values)
    table = np.array([known.setdefault(text, len(known)) for text in told], np.int32)
    return Column(name, table[codes], list(known))


def _repaired(document: DesignDocument, relation: Relation) -> Relation:
    """Return rows with the columns that repairs make of others, made once for each combination of these."""
    entries = [entry for entry in document.rebuild if not isinstance(entry, Formula)]
    if not entries:
        return relation
    used = {name for entry in entries for name in (entry.column, *entry.needs)}
    names = [name for name in relation.names if name in used]
    groups = groups_by(relation, names)
    made = []
    for row in relation.project(names).take(first_positions(groups)).rows():
        values = dict(zip(names, row, strict=True))
        for entry in entries:
            entry.replay(values)
        made.append(values)
    columns = {column.name: column for column in relation.columns}
    for name in dict.fromkeys(name for values in made for name in values):
        column = Column.from_texts(name, [values.get(name, "") for values in made])
        columns[name] = Column(name, column.codes[groups], column.values)
    return Relation(tuple(columns.values()), relation.row_numbers)


def check_columns(document: DesignDocument, names: Sequence[str], name: str) -> None:
    """Raise InputError where a new file has not the columns of the design's file."""
    wanted = document.source.columns
    lacking = [column for column in wanted if column not in names]
    more = [column for column in names if column not in wanted]
    if lacking or more:
        told = [f"lacks {joined([shortened(one) for one in lacking])}"] if lacking else []
        told += (
            [f"has {counted(len(more), 'column')} more: {joined([shortened(one) for one in more])}"]
            if more
            else []
        )
        raise InputError(
            f"{name} is no file of this design: it {joined(told)}", "Give a file with the same columns."
        )


def stored_rows(folder: Folder) -> ArrivedRows:
    """Return the rows that a folder holds, joined and put together again; they are numbered from 1.

    Raises InputError where a file cannot be read, or a key or a reference does not hold.
    """
    document = folder.design
    batches = list(flat_rows(folder))
    columns = []
    for name, kind in zip(document.source.columns, document.flat.kinds, strict=True):
        parts = [batch[name].cast(pyarrow.string()) for batch in batches]
        column = coded_column(name, pyarrow.chunked_array(parts, pyarrow.string()))
        columns.append(_compared(name, column.codes, column.values, kind))
    told = Relation(tuple(columns), np.arange(1, len(columns[0].codes) + 1))
    return ArrivedRows(told, _repaired(document, told))


def rows_of_view(document: DesignDocument, rows: Sequence[Sequence[object]]) -> ArrivedRows:
    """Return the flat rows that a database gives; they are numbered from 1."""
    names, kinds = document.source.columns, document.flat.kinds
    cells = zip(*rows, strict=True) if rows else [() for _ in names]
    columns = tuple(_given(*one) for one in zip(names, cells, kinds, strict=True))
    told = Relation(columns, np.arange(1, len(rows) + 1))
    return ArrivedRows(told, _repaired(document, told))


def _given(name: str, cells: Sequence[object], kind: Kind) -> Column:
    """Return a column of cells that a database gave as they are compared."""
    found = arrow_cells(cells, kind.numeric)
    if found is None:
        known: dict[object, int] = {}
        codes = np.fromiter((known.setdefault(cell, len(known)) for cell in cells), np.int32, len(cells))
        return _compared(name, codes, list(known), kind)
    coded = found.dictionary_encode()
    values = [*coded.dictionary.to_pylist(), None]
    codes = np.where(present(coded.indices), numbers_of(coded.indices), len(values) - 1)
    return _compared(name, codes, values, kind)


def part_rows(document: DesignDocument, row: ArrivedRow, bundle: str) -> list[dict[str, str]]:
    """Return the parts that a row has of a list or family: the position and the facts by flat column."""
    cells = dict(zip(document.source.columns, row.cells, strict=True))
    found: dict[int, dict[str, str]] = {}
    for entry in document.children():
        child = document.by_name[entry.table]
        if (child.part_of or entry.table) != bundle:
            continue
        position = child.column(entry.position).flat or entry.position
        for place, fact in entry.parts(cells[entry.column]):
            found.setdefault(place, {position: str(place)})[entry.fact] = fact
    return list(found.values())


def bundle_of(document: DesignDocument, table: TableDocument, role: str) -> str:
    """Return the list or family whose parts a table holds in a role; nothing for what the rows say."""
    if table.repairs is not None or table.part_of:
        return table.part_of or table.name
    columns = set(table.flat_columns(role)) if role else set[str]()
    known = (child.of for child in document.made_parts if columns and columns <= {*child.columns})
    return next(known, "")
