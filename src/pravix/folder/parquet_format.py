"""Tables as Parquet, typed where a cell comes back to the letter."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from pravix.design.model import Table
from pravix.errors import InputError
from pravix.folder.harmless import harmless
from pravix.folder.table_format import Row, TableFormat
from pravix.sources.coding import code_array

if TYPE_CHECKING:
    import pyarrow

_DIGITS = 38
_ROWS_AT_ONCE = 100_000


class ParquetFormat(TableFormat):
    """Whole numbers, decimals, days and times as such where all their cells are written alike; else texts."""

    ending = ".parquet"
    told = "The Parquet files have numbers, days and times where all are written alike; null is a blank."

    def write(self, table: Table, path: Path, safe_cells: bool = False) -> None:
        """As said there."""
        import pyarrow
        from pyarrow import parquet

        columns = []
        for column in table.rows.columns:
            values = list(map(harmless, column.values)) if safe_cells else list(column.values)
            texts = pyarrow.array([None, *values[1:]], pyarrow.string())  # The first stands for the blank.
            columns.append(_typed(texts).take(code_array(column.codes)))
        names = [harmless(name) if safe_cells else name for name in table.column_names]
        parquet.write_table(pyarrow.table(columns, names=names), path)

    def rows(self, path: Path, width: int) -> Iterator[Row]:
        """As said there."""
        for batch in self.batches(path, width):
            yield from map(list, zip(*(column.to_pylist() for column in batch.columns), strict=True))

    def batches(self, path: Path, width: int) -> Iterator[pyarrow.RecordBatch]:
        """As said there."""
        import pyarrow
        from pyarrow import parquet

        try:
            with parquet.ParquetFile(path) as found:
                columns = found.schema_arrow.names
                if len(columns) != width:
                    told = f"{path.name}: {len(columns)} columns where the table has {width}"
                    raise InputError(told, "Write the folder again.")
                places = [str(place) for place in range(width)]
                for batch in found.iter_batches(_ROWS_AT_ONCE):
                    texts = [_to_the_second(column).cast(pyarrow.string()) for column in batch.columns]
                    yield pyarrow.record_batch(texts, names=places)
        except pyarrow.ArrowException as error:
            raise OSError(str(error).splitlines()[0]) from None


def _to_the_second(column: pyarrow.Array) -> pyarrow.Array:
    """Return moments and times as they were written: the file keeps thousandths, of which there are none."""
    import pyarrow
    from pyarrow import types

    if types.is_timestamp(column.type):
        return column.cast(pyarrow.timestamp("s"))
    return column.cast(pyarrow.time32("s")) if types.is_time32(column.type) else column


def _typed(texts: pyarrow.Array) -> pyarrow.Array:
    """Return texts as the narrowest type from which each comes back as it is written."""
    import pyarrow

    cells = [cell for cell in texts.to_pylist() if cell]
    places = max((len(cell.partition(".")[2]) for cell in cells), default=0)
    digits = max((len(cell) for cell in cells), default=0)
    wanted = [pyarrow.int64(), pyarrow.date32(), pyarrow.timestamp("s"), pyarrow.time32("s")]
    if 0 < places <= digits <= _DIGITS:
        wanted.insert(1, pyarrow.decimal128(digits, places))
    for kind in wanted:
        try:
            typed = texts.cast(kind)
        except pyarrow.ArrowException:
            continue
        if typed.cast(pyarrow.string()).equals(texts):
            return typed
    return texts
