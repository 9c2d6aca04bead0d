"""Delimited text becomes a relation: every cell as text, an empty cell a blank.

Two readers share the work. PyArrow reads well-formed text into dictionary-coded columns. Python's
csv module, slower, reads what needs care: blank lines, ragged rows (to name them), huge cells.
"""

from __future__ import annotations

import csv
import io
import os
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from pravix.errors import InputError
from pravix.relation.relation import Column, Relation
from pravix.sources.account import DELIMITER_NAMES, Account, Source
from pravix.sources.decoding import as_utf8
from pravix.wording import counted, joined, shortened

_HEAD_BYTES = 1 << 16
_HEAD_RECORDS = 100
_NAMED_ROWS = 3


def read_delimited(path: str) -> Source:
    """Read a CSV file with one header row.

    The delimiter (comma, semicolon, tab or bar) and the encoding are found from the text. Raises
    InputError for a file that is missing, a folder, empty, without data rows, not text, ragged, or
    that has blank or equal header names. Linear in the size of the file, which is held in memory.
    """
    name = os.path.basename(path)
    data, encoding = as_utf8(_bytes_of(path), name)
    if not data.strip():
        raise InputError(f"{name} is empty", "Give a CSV file with a header row and data rows.")
    delimiter = _delimiter(data)
    names, body = _header(data, delimiter, name)
    found = None if _needs_care(data, body) else _read_fast(data[body:], delimiter, names)
    blank_lines = 0
    if found is None:
        found, blank_lines = _read_carefully(data, delimiter, names, name)
    if found.row_count == 0:
        raise InputError(f"{name} holds a header and no data rows", "Give a file with at least one data row.")
    return Source(found, Account(name, encoding, delimiter, blank_lines))


def _bytes_of(path: str) -> bytes:
    try:
        with open(path, "rb") as file:
            return file.read()
    except FileNotFoundError:
        raise InputError(f"there is no file {path}", "Check the name and the folder.") from None
    except IsADirectoryError:
        raise InputError(f"{path} is a folder, not a file", "Give one of the files in it.") from None
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}") from None


def _delimiter(data: bytes) -> str:
    """Return the delimiter under which most of the first records are as wide as the first one."""
    head = data[:_HEAD_BYTES].decode("utf-8", errors="ignore")

    def fit(delimiter: str) -> tuple[float, int]:
        widths = []
        for record in csv.reader(io.StringIO(head, newline=""), delimiter=delimiter):
            if record:
                widths.append(len(record))
            if len(widths) == _HEAD_RECORDS:
                break
        if len(data) > _HEAD_BYTES and len(widths) > 1:
            widths.pop()
        if not widths or widths[0] == 1:
            return 0.0, 0
        return sum(width == widths[0] for width in widths) / len(widths), widths[0]

    _raise_field_limit()
    return max(DELIMITER_NAMES, key=fit)


def _header(data: bytes, delimiter: str, name: str) -> tuple[list[str], int]:
    """Return the column names and the offset of the byte after the header."""
    length = 0

    def lines() -> Iterator[str]:
        nonlocal length
        for line in io.TextIOWrapper(io.BytesIO(data), encoding="utf-8", newline=""):
            length += len(line.encode())
            yield line

    names = next(record for record in csv.reader(lines(), delimiter=delimiter))
    if not names:
        raise InputError(
            f"{name}, row 1 is blank where the header should be", "Delete the lines above the header."
        )
    for place, column in enumerate(names, 1):
        if not column.strip():
            raise InputError(
                f"{name}, row 1: column {place} of {len(names)} has no name",
                "Give every column a name in the header.",
            )
    for place, column in enumerate(names, 1):
        if column in names[: place - 1]:
            first = names.index(column) + 1
            raise InputError(
                f"{name}, row 1: columns {first} and {place} are both named {shortened(column)}",
                "Give every column a name of its own in the header.",
            )
    return names, length


def _needs_care(data: bytes, body: int) -> bool:
    """Whether the text holds what the fast reader would not report: blank lines, an open quote."""
    rest = data[max(body - 2, 0) :]
    blank_line = any(pair in rest for pair in (b"\n\n", b"\n\r\n", b"\r\r"))
    return blank_line or data.count(b'"') % 2 == 1 or not data[body:]


def _read_fast(body: bytes, delimiter: str, names: Sequence[str]) -> Relation | None:
    """Return the records of well-formed text; None where a record is ragged or a cell is too big."""
    import pyarrow
    from pyarrow import csv as arrow_csv

    labels = [str(place) for place in range(len(names))]
    coded = pyarrow.dictionary(pyarrow.int32(), pyarrow.string())
    try:
        table = arrow_csv.read_csv(
            pyarrow.BufferReader(body),
            arrow_csv.ReadOptions(column_names=labels),
            arrow_csv.ParseOptions(
                delimiter=delimiter, newlines_in_values=b'"' in body, ignore_empty_lines=False
            ),
            arrow_csv.ConvertOptions(column_types=dict.fromkeys(labels, coded), strings_can_be_null=False),
        )
    except pyarrow.ArrowInvalid:
        return None
    table = table.unify_dictionaries().combine_chunks()
    columns = tuple(_column(name, table.column(place)) for place, name in enumerate(names))
    return Relation(columns, np.arange(2, table.num_rows + 2, dtype=np.int64))


def _column(name: str, chunked: Any) -> Column:
    """Return a dictionary-coded Arrow column with the blank moved to code 0."""
    if chunked.num_chunks == 0:
        return Column.from_texts(name, [])
    array = chunked.chunk(0)
    values: list[str] = array.dictionary.to_pylist()
    codes = array.indices.to_numpy(zero_copy_only=False).astype(np.int32, copy=False)
    if "" not in values:
        return Column(name, codes + 1, ["", *values])
    blank = values.index("")
    moved = np.arange(len(values), dtype=np.int32)
    moved[:blank] += 1
    moved[blank] = 0
    return Column(name, moved[codes], ["", *values[:blank], *values[blank + 1 :]])


def _read_carefully(data: bytes, delimiter: str, names: Sequence[str], name: str) -> tuple[Relation, int]:
    """Read record by record; return the relation and the number of blank lines left out."""
    _raise_field_limit()
    reader = csv.reader(io.TextIOWrapper(io.BytesIO(data), encoding="utf-8", newline=""), delimiter=delimiter)
    numbers: list[int] = []
    rows: list[list[str]] = []
    ragged: list[tuple[int, int]] = []
    blank_lines = 0
    last_line = 0
    next(reader)
    number = 1
    for number, record in enumerate(reader, 2):
        if not record:
            blank_lines += 1
        elif len(record) != len(names):
            ragged.append((number, len(record)))
        else:
            numbers.append(number)
            rows.append(record)
        last_line, started = reader.line_num, last_line
    if data.count(b'"') % 2 == 1:
        raise InputError(
            f"{name}: a quote is opened and never closed, most likely in row {number} (line {started + 1})",
            "Close the quote, or double it if it belongs to the value.",
        )
    if ragged:
        raise InputError(
            _ragged(ragged, len(names), name),
            "Look there for a delimiter in an unquoted cell or a missing cell.",
        )
    relation = Relation.from_rows(names, rows)
    return Relation(relation.columns, np.array(numbers, dtype=np.int64)), blank_lines


def _ragged(ragged: Sequence[tuple[int, int]], expected: int, name: str) -> str:
    told = joined([f"row {number} has {counted(width, 'field')}" for number, width in ragged[:_NAMED_ROWS]])
    more = (
        f"; {counted(len(ragged) - _NAMED_ROWS, 'more row')} like that" if len(ragged) > _NAMED_ROWS else ""
    )
    return f"{name}: {told} where the header has {expected}{more}"


def _raise_field_limit() -> None:
    """Let a cell be as long as the file; the csv module's own limit is 128 KiB."""
    csv.field_size_limit(1 << 31)
