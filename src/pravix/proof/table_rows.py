"""The rows of a table's file, batch after batch, as columns of texts: all that a proof reads of a folder."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Mapping, Sequence
from decimal import Decimal
from itertools import islice
from typing import Any

import pyarrow
from pyarrow import compute, parquet
from pyarrow import csv as arrow_csv

from pravix.document.design_file import check_plain
from pravix.document.model import TableDocument
from pravix.errors import InputError
from pravix.folder.csv_format import LONGEST_CELL
from pravix.folder.harmless import harmless
from pravix.folder.reader import Folder
from pravix.sources.coding import text_array
from pravix.wording import counted, shortened

ROWS_AT_ONCE = 200_000
_BYTES_AT_ONCE = 16 << 20

Texts = Any
"""A column of cells: an Arrow array of large texts, in which the empty one is a blank."""

Batch = Mapping[str, Texts]
"""Some rows: the cells of each column, by the name of the column."""


BLANK = text_array([""]).cast(pyarrow.large_string())[0]
"""The cell that is a blank."""


def texts(cells: Sequence[str]) -> Texts:
    """Return cells as a column."""
    return pyarrow.array(cells, pyarrow.large_string())


class TableRows:
    """The rows of a table as its file has them; memory for one batch.

    ``broken`` tells, once they were read, what is wrong with the file: its header, rows of another width,
    and their number. Rows of another width are left out.
    """

    def __init__(self, folder: Folder, table: TableDocument) -> None:
        self._path = folder.path / table.file
        self._names = table.column_names
        self._wanted = table.rows
        self.file = table.file
        self.count = 0
        self.broken: list[str] = []

    def batches(self) -> Iterator[Batch]:
        """Yield the rows in their order. Raises InputError where the file cannot be read."""
        self.count, self.broken = 0, []
        try:
            check_plain(self._path)
            for columns in self._of_parquet() if self._path.suffix == ".parquet" else self._of_csv():
                batch = dict(zip(self._names, columns, strict=True))
                self.count += len(columns[0])
                yield batch
        except (OSError, UnicodeDecodeError, csv.Error, pyarrow.ArrowException) as error:
            reason = getattr(error, "strerror", None) or str(error).splitlines()[0]
            raise InputError(f"{self.file} in {self._path.parent} cannot be read: {reason}") from None
        if self.count != self._wanted:
            self.broken.append(f"{self.file} holds {counted(self.count, 'row')}, not {self._wanted:,}")

    def line(self, row: int) -> int:
        """Return the line of the file at which a row begins, counted from 0. Reads what is before it."""
        if self._path.suffix == ".parquet":
            return row + 2
        with self._path.open(encoding="utf-8", newline="") as file:
            reader = csv.reader(file)
            next(reader, None)
            line, met = reader.line_num, 0
            for cells in reader:
                if len(cells) == len(self._names):
                    if met == row:
                        break
                    met += 1
                line = reader.line_num
        return line + 1

    def _of_csv(self) -> Iterator[list[Texts]]:
        """Yield the columns of each batch: as Arrow reads them, and from where it cannot as Python does."""
        self._see_header()
        given = 0
        places = [str(place) for place in range(len(self._names))]
        try:
            with arrow_csv.open_csv(
                self._path,
                arrow_csv.ReadOptions(
                    column_names=places, skip_rows_after_names=1, block_size=_BYTES_AT_ONCE
                ),
                arrow_csv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
                arrow_csv.ConvertOptions(column_types=dict.fromkeys(places, pyarrow.large_string())),
            ) as found:
                for batch in found:
                    given += batch.num_rows
                    yield batch.columns
        except pyarrow.ArrowInvalid:
            yield from self._of_csv_by_rows(given)

    def _see_header(self) -> None:
        with self._path.open(encoding="utf-8", newline="") as file:
            csv.field_size_limit(LONGEST_CELL)
            header: list[str] = next(csv.reader(file), [])
        if header not in (self._names, list(map(harmless, self._names))):
            told = shortened(", ".join(self._names))
            self.broken.append(f"{self.file}, line 1: the columns are not {told}")

    def _of_csv_by_rows(self, given: int) -> Iterator[list[Texts]]:
        """Yield the columns after the rows that were given already."""
        with self._path.open(encoding="utf-8", newline="") as file:
            reader = csv.reader(file)
            next(reader, None)
            rows = islice(self._of_width(reader), given, None)
            while some := list(islice(rows, ROWS_AT_ONCE)):
                yield list(map(texts, zip(*some, strict=True)))

    def _of_width(self, reader: Any) -> Iterator[list[str]]:
        line = reader.line_num
        for row in reader:
            if len(row) == len(self._names):
                yield row
            else:
                told, wanted = counted(len(row), "cell"), counted(len(self._names), "column")
                self.broken.append(f"{self.file}, line {line + 1}: {told} where the table has {wanted}")
            line = reader.line_num

    def _of_parquet(self) -> Iterator[list[Texts]]:
        with parquet.ParquetFile(self._path) as found:
            names = found.schema_arrow.names
            if names not in (self._names, list(map(harmless, self._names))):
                told = shortened(", ".join(self._names))
                self.broken.append(f"{self.file}: the columns are not {told}")
            if len(names) == len(self._names):
                for batch in found.iter_batches(ROWS_AT_ONCE):
                    yield list(map(_written, batch.columns))


def _written(cells: Any) -> Texts:
    """Return a column of a Parquet file as a CSV file would have it: a decimal with all its places."""
    if pyarrow.types.is_dictionary(cells.type):
        cells = cells.dictionary_decode()
    if not (pyarrow.types.is_integer(cells.type) or pyarrow.types.is_string(cells.type)):
        coded = cells.dictionary_encode()
        told = [
            f"{cell:f}" if isinstance(cell, Decimal) else str(cell) for cell in coded.dictionary.to_pylist()
        ]
        cells = texts(told).take(coded.indices)
    return compute.fill_null(cells.cast(pyarrow.large_string()), BLANK)
