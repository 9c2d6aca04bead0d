"""Tables as CSV."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Sequence
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from pravix.design.model import Table
from pravix.errors import InputError
from pravix.folder.harmless import harmless
from pravix.folder.table_format import Row, TableFormat
from pravix.relation.texts import Texts, together
from pravix.sources.coding import code_array, text_array

if TYPE_CHECKING:
    import pyarrow

LONGEST_CELL = 1 << 31
_ROWS_AT_ONCE = 100_000
_BYTES_AT_ONCE = 2 << 20
_SPECIAL = re.compile('[,"\r\n]')


class CSVFormat(TableFormat):
    """UTF-8, comma, header in the first row, an empty cell for a blank."""

    ending = ".csv"
    told = "The CSV files are UTF-8 with commas; the first row names the columns, an empty cell is a blank."

    def write(self, table: Table, path: Path, safe_cells: bool = False) -> None:
        """As said there: each different cell of a column is quoted once; Arrow puts the rows together."""
        from pyarrow import compute

        columns = table.rows.columns
        ends = [","] * (len(columns) - 1) + ["\n"]
        written = [
            text_array(_ended(_quoted(column.values, len(columns) == 1, safe_cells), end))
            for column, end in zip(columns, ends, strict=True)
        ]
        nothing = text_array([""])[0]
        with path.open("wb") as file:
            header = io.StringIO(newline="")
            names = table.column_names
            csv.writer(header, lineterminator="\n").writerow(map(harmless, names) if safe_cells else names)
            file.write(header.getvalue().encode())
            for start in range(0, table.rows.row_count, _ROWS_AT_ONCE):
                codes = [code_array(column.codes[start : start + _ROWS_AT_ONCE]) for column in columns]
                lines = compute.binary_join_element_wise(*map(compute.take, written, codes), nothing)
                _, offsets, data = lines.buffers()
                size = np.frombuffer(offsets, np.int32)[lines.offset + len(lines)]
                file.write(memoryview(data)[:size])

    def rows(self, path: Path, width: int) -> Iterator[Row]:
        """As said there."""
        with path.open(encoding="utf-8", newline="") as file:
            csv.field_size_limit(LONGEST_CELL)
            reader = csv.reader(file)
            next(reader, None)
            for row in reader:
                if len(row) != width:
                    raise InputError(
                        f"{path.name}, line {reader.line_num}: {len(row)} cells where the table has "
                        f"{width} columns",
                        "Write the folder again.",
                    )
                yield [cell or None for cell in row]

    def batches(self, path: Path, width: int) -> Iterator[pyarrow.RecordBatch]:
        """As said there: as Arrow reads them, and from where it cannot as Python does, or names the line."""
        import pyarrow
        from pyarrow import csv as arrow_csv

        places, given = [str(place) for place in range(width)], 0
        try:
            with arrow_csv.open_csv(
                path,
                arrow_csv.ReadOptions(
                    column_names=places, skip_rows_after_names=1, block_size=_BYTES_AT_ONCE
                ),
                arrow_csv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
                arrow_csv.ConvertOptions(
                    column_types=dict.fromkeys(places, pyarrow.string()),
                    null_values=[""],
                    strings_can_be_null=True,
                ),
            ) as found:
                for batch in found:
                    given += batch.num_rows
                    yield batch
            return
        except pyarrow.ArrowInvalid:
            rows = islice(self.rows(path, width), given, None)
        while some := list(islice(rows, _ROWS_AT_ONCE)):
            cells = [pyarrow.array(column, pyarrow.string()) for column in zip(*some, strict=True)]
            yield pyarrow.record_batch(cells, names=places)


def _ended(cells: Sequence[str], end: str) -> Sequence[str]:
    return cells.ended(end) if isinstance(cells, Texts) else [cell + end for cell in cells]


def _quoted(values: Sequence[str], alone: bool, safe_cells: bool) -> Sequence[str]:
    """Return cells as a CSV file has them; a blank ``alone`` in its row is seen by its quotes."""
    if safe_cells:
        values = list(map(harmless, values))
    if _SPECIAL.search(together(values)):
        values = ['"' + cell.replace('"', '""') + '"' if _SPECIAL.search(cell) else cell for cell in values]
    return ['""', *values[1:]] if alone else values
