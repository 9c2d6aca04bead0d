"""Files that are to be landed: how DuckDB reads them, and what is to be known of them before."""

from __future__ import annotations

import os
from dataclasses import dataclass
from glob import glob
from pathlib import Path

from pravix.engines.lines import Lines
from pravix.errors import InputError
from pravix.sources.arriving import check_readable, display_name
from pravix.sources.delimited import DELIMITERS, Plainly, read_plainly
from pravix.sources.reading import Reading
from pravix.wording import counted, shortened

_PACKED = 8
_CELL_BYTES = 30
_TIMES_IN_MEMORY = 6


@dataclass(frozen=True)
class File:
    """A file, or the files of a folder or a pattern, with how DuckDB reads them and how many ``bytes`` they
    would be as plain text.

    ``plainly`` says how a text is read, ``lines`` are those of one that is neither packed nor in wide
    characters.
    """

    name: str
    form: str
    reader: str
    bytes: int
    first_row: int
    notes: tuple[str, ...] = ()
    plainly: Plainly | None = None
    lines: Lines | None = None

    @property
    def names(self) -> tuple[str, ...]:
        """What the header of a text says; its rows may be the header again, or blank."""
        return () if self.plainly is None else self.plainly.names

    def reader_of_lines(self, path: str) -> str:
        """Return how DuckDB reads a file of some of the lines, passing over what is no row."""
        assert self.plainly is not None
        return _read_csv(path, self.plainly, 0, ", ignore_errors = true")


def fits(size: int, memory: int) -> bool:
    """Whether a file of so many bytes as plain text fits into so many of ``memory``, about."""
    return size * _TIMES_IN_MEMORY <= memory


def parquet_files(path: str) -> list[str]:
    """Return the Parquet files that a path, a folder or a pattern names, in order."""
    if os.path.isdir(path):
        found = [str(one) for one in sorted(Path(path).rglob("*.parquet"))]
    elif any(mark in path for mark in "*?["):
        found = sorted(glob(path))
    else:
        check_readable(path)
        found = [path]
    if not found:
        raise InputError(
            f"{path} holds no Parquet files", "Give a file, a folder or a pattern like 'in/*.parquet'."
        )
    return found


def parquet_file(path: str) -> File:
    """Return what is to be known of Parquet files before they are landed."""
    import pyarrow
    from pyarrow import parquet, types

    files, name = parquet_files(path), display_name(path)
    cells = 0
    try:
        for one in files:
            found = parquet.ParquetFile(one)
            cells += found.metadata.num_rows * found.metadata.num_columns
            for field in found.schema_arrow:
                if types.is_nested(field.type):
                    raise InputError(
                        f"{name}: column {shortened(field.name)} is nested", "Give flat records."
                    )
                if types.is_duration(field.type):
                    told = f"{name}: column {shortened(field.name)} holds durations"
                    raise InputError(told, "Allow more memory (--memory), or write them as numbers or texts.")
    except (pyarrow.ArrowException, OSError) as error:
        raise InputError(f"{name} is not a readable Parquet file: {str(error)[:80]}") from None
    listed = ", ".join(map(literal, files))
    form = "Parquet" if len(files) == 1 else f"Parquet, {counted(len(files), 'file')}"
    return File(name, form, f"read_parquet([{listed}])", cells * _CELL_BYTES, 1)


def text_file(path: str, reading: Reading) -> File:
    """Return what is to be known of a delimited file before it is landed."""
    told = read_plainly(path, reading)
    mark = DELIMITERS.get(told.delimiter, told.delimiter)
    form = f"{told.encoding.upper()}, {mark} between cells, header in row 1"
    lines = None if _packed(path) or told.encoding == "utf-16" else Lines(path, told.lines_above)
    reader = _read_csv(path, told, told.lines_above)
    return File(display_name(path), form, reader, text_bytes(path), 2, told.notes, told, lines)


def text_bytes(path: str) -> int:
    """Return how many bytes a delimited file is as plain text, about."""
    return os.path.getsize(path) * (_PACKED if _packed(path) else 1)


def _packed(path: str) -> bool:
    return path.lower().endswith(".gz")


def _read_csv(path: str, told: Plainly, above: int, more: str = "") -> str:
    """Return how DuckDB reads delimited text: every cell as a text, a blank one as the empty text."""
    names = [literal(str(place)) for place in range(len(told.names))]
    columns = ", ".join(f"{name}: 'VARCHAR'" for name in names)
    return (
        f"read_csv({literal(path)}, header = false, skip = {above}, auto_detect = false, "
        f"delim = {literal(told.delimiter)}, quote = '\"', escape = '\"', "
        f"encoding = {literal(told.encoding)}, null_padding = false, strict_mode = true, "
        f"columns = {{{columns}}}, force_not_null = [{', '.join(names)}]{more})"
    )


def literal(text: str) -> str:
    """Return a text as a literal of SQL."""
    return "'" + text.replace("'", "''") + "'"
