"""The tables of a folder read and held against what its design says of each: all that needs no join."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from decimal import Decimal
from pathlib import Path
from typing import Any

from pyarrow import ArrowException, parquet

from pravix.document.design_file import check_plain
from pravix.document.model import CheckDocument, ColumnDocument, LinkDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.csv_format import LONGEST_CELL
from pravix.folder.harmless import harmless
from pravix.folder.reader import Folder
from pravix.proof.rejoining import Cells, Key, keys_of
from pravix.relation.types import Kind, fits, shape
from pravix.wording import counted, joined, shortened


@dataclass(frozen=True)
class CheckedTable:
    """The cells of a table by column, the lines of its rows in the file, and what is not as it should be."""

    file: str
    cells: Mapping[str, Cells]
    lines: list[int]
    broken: list[str] = field(default_factory=list)


def checked_tables(folder: Folder) -> dict[str, CheckedTable]:
    """Read all tables of a folder and check each: names, counts, types, blanks, keys, checks, references.

    Raises InputError where a file cannot be read. Linear in the cells.
    """
    tables: dict[str, CheckedTable] = {}
    for table in folder.tables:
        found = tables[table.name] = _read(folder, table)
        found.broken.extend(_of_columns(table, found))
        found.broken.extend(_of_keys(table, found))
        for link in table.foreign_keys:
            found.broken.extend(_of_link(table, found, link, tables, folder))
    return tables


def _written(cell: object) -> str:
    """Return a cell of a Parquet file as a CSV file would have it."""
    if cell is None:
        return ""
    return f"{cell:f}" if isinstance(cell, Decimal) else str(cell)


class _ParquetLines:
    """The rows of a Parquet file as a CSV reader would give them: the header is line 1."""

    def __init__(self, path: Path) -> None:
        found = parquet.read_table(path)
        cells = (column.to_pylist() for column in found.columns)
        columns = [list(map(_written, column)) for column in cells]
        self._rows = iter([found.column_names, *map(list, zip(*columns, strict=True))])
        self.line_num = 0

    def __iter__(self) -> Iterator[list[str]]:
        return self

    def __next__(self) -> list[str]:
        self.line_num += 1
        return next(self._rows)


@contextmanager
def _lines(path: Path) -> Iterator[Any]:
    """Give a reader of the rows of a file, with the number of the line that was read last."""
    if path.suffix == ".parquet":
        yield _ParquetLines(path)
        return
    with path.open(encoding="utf-8", newline="") as file:
        csv.field_size_limit(LONGEST_CELL)
        yield csv.reader(file)


def _read(folder: Folder, table: TableDocument) -> CheckedTable:
    """Read the rows as they stand; those of another width are told and left out."""
    names, broken = table.column_names, []
    rows, lines = [], []
    try:
        check_plain(folder.path / table.file)
        with _lines(folder.path / table.file) as reader:
            header: list[str] = next(reader, [])
            line = reader.line_num
            if header not in (names, list(map(harmless, names))):
                broken.append(f"{table.file}, line 1: the columns are not {shortened(', '.join(names))}")
            for row in reader:
                if len(row) == len(names):
                    rows.append(row)
                    lines.append(line + 1)
                else:
                    width = counted(len(row), "cell")
                    wanted = counted(len(names), "column")
                    broken.append(f"{table.file}, line {line + 1}: {width} where the table has {wanted}")
                line = reader.line_num
    except (OSError, UnicodeDecodeError, csv.Error, ArrowException) as error:
        reason = getattr(error, "strerror", None) or error
        raise InputError(f"{table.file} in {folder.path} cannot be read: {reason}") from None
    if len(rows) != table.rows:
        broken.append(f"{table.file} holds {counted(len(rows), 'row')}, not {table.rows:,}")
    columns = [list(column) for column in zip(*rows, strict=True)] or [[] for _ in names]
    return CheckedTable(table.file, dict(zip(names, columns, strict=True)), lines, broken)


def _of_columns(table: TableDocument, found: CheckedTable) -> Iterator[str]:
    """Yield the first cell of each column that its type, its blanks or one of its checks does not allow."""
    for column in table.columns:
        name, cells = column.name, found.cells[column.name]
        made = [_checked(check, column) for check in table.checks if check.made]
        tests = [_typed(column), *(test for test in made if test is not None)]
        wrong = {cell for cell in set(cells) if cell and not all(test(cell) for test in tests)}
        if not column.nullable:
            wrong |= {""} & set(cells)
        if wrong:
            at = next(place for place, cell in enumerate(cells) if cell in wrong)
            told = shortened(cells[at]) or "a blank"
            yield f"{found.file}, line {found.lines[at]}: {told} cannot stand in {name}"


_Test = Callable[[str], bool]


def _typed(column: ColumnDocument) -> _Test:
    """Return the test of a column's type: its kind, and the room for it."""
    kind, digits, scale, length = column.kind, column.digits, column.scale, column.length

    def holds(cell: str) -> bool:
        if not fits(kind, cell, column.iso):
            return False
        if kind is Kind.DECIMAL:
            whole, _, part = cell.lstrip("-").partition(".")
            return len(part) <= scale and len(whole) <= max(digits - scale, 1)
        return len(cell.lstrip("-")) <= digits if kind is Kind.INTEGER else len(cell) <= length

    return holds


def _checked(check: CheckDocument, column: ColumnDocument) -> _Test | None:
    """Return the test of a check on one column; None where it is on another one, or on no single cell."""
    values = check.values
    if check.column != column.name:
        return None
    if check.kind == "values":
        return set(values).__contains__
    if check.kind == "pattern":
        return lambda cell: shape(cell) == values[0]
    if check.kind == "range":
        least, most = values
        if column.kind.numeric:
            return lambda cell: Decimal(least) <= Decimal(cell) <= Decimal(most)
        return lambda cell: least <= cell <= most
    return None


def _of_keys(table: TableDocument, found: CheckedTable) -> Iterator[str]:
    """Yield for each key, and each column that is to differ in every row, the first row that repeats it."""
    unique = [(check.column,) for check in table.made_checks("unique")]
    for key in [table.primary_key, *table.candidate_keys, *unique]:
        seen: dict[Key, int] = {}
        if not key and len(found.lines) > 1:
            yield f"{found.file} holds {len(found.lines):,} rows, and can hold one only"
        for line, cells in zip(found.lines, keys_of(table, found.cells, key) if key else [], strict=False):
            if all(cells) and seen.setdefault(cells, line) != line:
                told = joined([f"{name} {shortened(cell)}" for name, cell in zip(key, cells, strict=True)])
                yield f"{found.file}, line {line}: {told} stands in line {seen[cells]} already"
                break


def _of_link(
    table: TableDocument,
    found: CheckedTable,
    link: LinkDocument,
    tables: Mapping[str, CheckedTable],
    folder: Folder,
) -> Iterator[str]:
    """Yield the first row whose reference finds nothing."""
    other = folder.table(link.references.table)
    there = set(keys_of(other, tables[other.name].cells, link.references.columns))
    for line, cells in zip(found.lines, keys_of(table, found.cells, link.columns), strict=True):
        if all(cells) and cells not in there:
            told = joined([shortened(cell) for cell in cells])
            key = " and ".join(link.references.columns)
            yield f"{found.file}, line {line}: {told} is no {key} of {other.name}"
            return
