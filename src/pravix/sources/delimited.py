"""Delimited text becomes a relation: every cell as text, an empty cell a blank.

Two readers share the work. PyArrow reads well-formed text with its header in the first row into
dictionary-coded columns. Python's csv module, slower, reads what needs care: title lines, totals,
blank lines, ragged rows (to name them), huge cells.
"""

from __future__ import annotations

import codecs
import csv
import io
import os
import re
import zlib
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

import numpy as np

from pravix.errors import InputError
from pravix.memory import give_back
from pravix.processors import processors
from pravix.relation.relation import Column, Relation
from pravix.relation.texts import together
from pravix.sources.account import Account, Source
from pravix.sources.arriving import bytes_of, check_readable, display_name
from pravix.sources.coding import coded_column, coded_relation
from pravix.sources.decoding import as_utf8
from pravix.sources.layout import (
    HEAD_ROWS,
    Grid,
    Header,
    Laid,
    find_header,
    laid_out,
    ragged_told,
    units_row,
)
from pravix.sources.left_out import note_row, total_row, typical_fill
from pravix.sources.reading import Reading
from pravix.writing import new_file

if TYPE_CHECKING:
    import gzip

DELIMITERS = {
    ",": "comma",
    ";": "semicolon",
    "\t": "tab",
    "|": "bar",
    ":": "colon",
    "^": "caret",
    "~": "tilde",
}
_HEAD_BYTES = 1 << 16
_TAIL_BYTES = 1 << 13
_TAIL_ROWS = 3
_ENDS = (b"\n", b"\r")
_MOST_BYTES = 1 << 24
"""The two ends of a text are as long as its rows ask, but not longer than this."""

_BLOCK_BYTES = 1 << 22
_BLANK_LINES = (b"\n\n", b"\n\r\n", b"\r\r")
_TOTAL_WORDS = ("total", "sum", "average", "mean", "count", "gesamt")


def read_delimited(path: str, reading: Reading) -> Source:
    """Read a CSV file, gzipped or not, or standard input for ``-``.

    The delimiter, the encoding and the place of the table are found from the text where ``reading``
    does not say them. Raises InputError for what cannot be read, see ``layout`` and ``decoding``. Linear
    in the size of the file, which is held in memory.
    """
    name = display_name(path)
    decoded = as_utf8(bytes_of(path), name, reading.encoding)
    data = decoded.data
    if not data.strip():
        raise InputError(f"{name} is empty", "Give a CSV file with a header row and data rows.")
    first = _head(lambda size: data[:size])
    head = first.decode(errors="ignore")
    delimiter = reading.delimiter or _delimiter(head, whole=len(first) == len(data))
    if len(delimiter) != 1 or delimiter in '"\r\n':
        raise InputError(
            f"the delimiter {delimiter!r} is not one character", "Give one character, for example ';'."
        )
    told = DELIMITERS.get(delimiter, delimiter)
    form = f"{decoded.encoding}, {told} between cells"
    found = None if _needs_care(data, head, delimiter, reading) else _read_fast(data, delimiter)
    if found is not None and not _sums_up(found):
        return Source(found, Account(name, f"{form}, header in row 1", decoded.notes))
    laid = _read_carefully(data, head, delimiter, reading, name)
    if laid.ragged:
        keep_apart(laid, reading, name)
    relation = coded_relation(laid.names, laid.rows, laid.numbers)
    if laid.at_top:
        form += ", header in row 1"
    return Source(relation, Account(name, form, (*decoded.notes, *laid.notes), fillable=laid.fillable))


@dataclass(frozen=True)
class Plainly:
    """How a delimited file with its header in the first row is read by a reader that is told all of it."""

    names: tuple[str, ...]
    delimiter: str
    encoding: str
    lines_above: int
    notes: tuple[str, ...]


_PLAIN_ENCODINGS = {"UTF-8": "utf-8", "utf-8": "utf-8", "UTF-16": "utf-16", "latin_1": "latin-1"}


def read_plainly(path: str, reading: Reading) -> Plainly:
    """Return how a file that is too large for memory is read, as its first lines tell.

    Raises InputError where they are not plain: then the file must be read into memory.
    """
    name = display_name(path)
    head_bytes = _first_lines(path)
    decoded = as_utf8(head_bytes, name, reading.encoding)
    head = decoded.data.decode()
    delimiter = reading.delimiter or _delimiter(head, whole=False)
    hint = "Give it more memory (--memory), or make it plain: one header row, then the rows, in UTF-8."
    if _needs_care(decoded.data, head, delimiter, reading) or _ends_in_totals(
        _last_lines(path, decoded.encoding), head, delimiter
    ):
        raise InputError(f"{name} needs to be read with care, and does not fit into memory", hint)
    encoding = _PLAIN_ENCODINGS.get(decoded.encoding)
    if encoding is None or head_bytes.startswith(codecs.BOM_UTF16_BE):
        raise InputError(f"{name} is in {decoded.encoding}, and does not fit into memory", hint)
    names, length = _first_record(decoded.data, delimiter)
    return Plainly(
        tuple(one.strip() for one in names),
        delimiter,
        encoding,
        len(re.findall(rb"\r\n|\n|\r", decoded.data[:length])),
        decoded.notes,
    )


def _head(first: Callable[[int], bytes]) -> bytes:
    """Return the ``first`` bytes of a text: so many that the rows are among them that are looked at."""

    def rows(text: bytes) -> int:
        outside = text.split(b'"')[::2]
        return max(sum(part.count(end) for part in outside) for end in _ENDS)

    size = _HEAD_BYTES
    while len(head := first(size)) == size < _MOST_BYTES and rows(head) <= HEAD_ROWS:
        size *= 4
    return head


def _tail(last: Callable[[int], bytes]) -> str:
    """Return the ``last`` rows of a text, some of them whole."""
    size = _TAIL_BYTES
    while len(tail := last(size)) == size < _MOST_BYTES and max(map(tail.count, _ENDS)) <= _TAIL_ROWS:
        size *= 4
    return tail[tail.find(b"\n") + 1 :].decode(errors="replace")


def _first_lines(path: str) -> bytes:
    """Return the first lines of a file, gzipped or not, all of them whole."""
    import gzip

    check_readable(path)
    try:
        with open(path, "rb") as file:
            packed = file.read(2) == b"\x1f\x8b"
        with gzip.open(path) if packed else open(path, "rb") as file:
            data = _head(lambda size: _from(file, 0, size))
    except (OSError, EOFError, zlib.error) as error:
        raise InputError(f"{display_name(path)} cannot be read: {error}") from None
    if data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        text = data.decode("utf-16", errors="ignore")
        return data[:2] + text[: text.rfind("\n") + 1].encode("utf-16-le" if data[0] == 0xFF else "utf-16-be")
    return data[: data.rfind(b"\n") + 1] or data


def _last_lines(path: str, encoding: str) -> str:
    """Return the last lines of a file; none of one that is packed, or in wide characters."""
    with open(path, "rb") as file:
        if file.read(2) == b"\x1f\x8b" or encoding == "UTF-16":
            return ""
        end = os.path.getsize(path)
        return _tail(lambda size: _from(file, max(0, end - size), size))


def _from(file: BinaryIO | gzip.GzipFile, place: int, size: int) -> bytes:
    file.seek(place)
    return file.read(size)


def keep_apart(laid: Laid, reading: Reading, name: str) -> None:
    """Write rows of another width into the file asked for; raise InputError where none is."""
    widths = [(number, len(cells)) for number, cells in laid.ragged]
    told = ragged_told(widths, len(laid.names), name)
    if reading.ragged is None:
        raise InputError(
            told, "Look there for a delimiter in an unquoted cell, or let --ragged FILE keep such rows apart."
        )
    with (
        new_file(Path(reading.ragged), fresh=True) as made,
        made.open("w", encoding="utf-8", newline="") as file,
    ):
        writer = csv.writer(file, lineterminator="\n")
        writer.writerows([["row"], *([number, *cells] for number, cells in laid.ragged)])
    count = len(laid.ragged)
    laid.notes.append(f"{count:,} ragged {'row' if count == 1 else 'rows'} kept apart in {reading.ragged}")


def _delimiter(head: str, whole: bool) -> str:
    """Return the delimiter under which most of the first records are equally wide, and widest."""
    _raise_field_limit()

    def fit(delimiter: str) -> tuple[float, int]:
        widths = list(map(len, _rows(head, delimiter, HEAD_ROWS + 1)))
        widths = widths[:HEAD_ROWS] if whole or len(widths) < 3 else widths[: min(HEAD_ROWS, len(widths) - 1)]
        if not widths or max(widths) == 1:
            return 0.0, 0
        usual = max(set(widths), key=lambda width: (widths.count(width), width))
        return (widths.count(usual) / len(widths) if usual > 1 else 0.0), usual

    best = max(DELIMITERS, key=lambda delimiter: (round(fit(delimiter)[0], 1), fit(delimiter)[1]))
    return best if fit(best)[0] else ","


def _needs_care(data: bytes, head: str, delimiter: str, reading: Reading) -> bool:
    """Whether the text holds what the fast reader would not see, as far as its two ends tell."""
    wishes = (reading.header, reading.last_row, reading.fill, reading.ragged, reading.skip)
    if any(wish is not None for wish in wishes) or reading.number_names:
        return True
    if (
        _spaced_quotes(head, delimiter)
        or any(pair in head.encode() for pair in _BLANK_LINES)
        or data[:1] in b"\r\n"
        or data.count(b'"') % 2 == 1
    ):
        return True
    rows = _rows(head, delimiter, HEAD_ROWS)
    names = [cell.strip() for cell in rows[0]]
    first_line = data.partition(b"\n")[0]
    if (
        data.count(b"\n" + first_line + b"\n")
        or units_row([cell.strip() for cell in rows[1]] if len(rows) > 1 else [], rows[2:])
        or len(rows) < HEAD_ROWS
        or len(set(names)) < len(names)
        or not all(names)
        or find_header(rows) != Header(0, 0)
    ):
        return True
    return _ends_in_totals(_tail(lambda size: data[-size:]), head, delimiter)


def _ends_in_totals(tail: str, head: str, delimiter: str) -> bool:
    """Whether the last lines hold totals or notes, where the first ones tell how full a row is."""
    rows = _rows(head, delimiter, HEAD_ROWS)
    last = [row for row in csv.reader(io.StringIO(tail, newline=""), delimiter=delimiter) if row]
    typical = typical_fill(rows[1:])
    return any(total_row(row, typical) or note_row(row, typical) for row in last)


def _rows(text: str, delimiter: str, most: int) -> list[list[str]]:
    """Return the first rows of a text that are not empty."""
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    return list(islice(filter(None, rows), most))


def _spaced_quotes(head: str, delimiter: str) -> bool:
    """Whether quotes are opened after a space, so that the space is no part of the cell."""
    return (
        re.search(rf'(?:^|{re.escape(delimiter)}) +"[^"\n]*" *(?:{re.escape(delimiter)}|\r?$)', head, re.M)
        is not None
    )


def _sums_up(relation: Relation) -> bool:
    """Whether some row looks like a total, so that the layout must be looked at row by row."""
    rows = relation.row_count
    for column in relation.columns[:2]:
        text = together(column.values).lower()
        if not any(word in text for word in _TOTAL_WORDS):
            continue
        for code, value in enumerate(column.values):
            if total_row([value], 2.0):
                typical = sum(other.blanks < rows / 2 for other in relation.columns)
                row = [other.text(int(np.argmax(column.codes == code))) for other in relation.columns]
                if total_row(row, typical):
                    return True
    return False


def _read_fast(data: bytes, delimiter: str) -> Relation | None:
    """Return the records of well-formed text; None where one is ragged, blank, or has too big a cell."""
    import pyarrow
    from pyarrow import csv as arrow_csv

    names, start = _first_record(data, delimiter)
    labels = [str(place) for place in range(len(names))]
    small = len(data) < _BLOCK_BYTES  # Coded while it is read: what codes texts need not be loaded.
    kind = pyarrow.dictionary(pyarrow.int32(), pyarrow.string()) if small else pyarrow.string()
    parts: list[list[Any]] = [[] for _ in labels]
    repeating: list[bool] = []

    with ThreadPoolExecutor(processors()) as threads:
        try:
            for batch in arrow_csv.open_csv(
                pyarrow.BufferReader(pyarrow.py_buffer(data).slice(start)),
                arrow_csv.ReadOptions(column_names=labels, block_size=_BLOCK_BYTES),
                arrow_csv.ParseOptions(
                    delimiter=delimiter, newlines_in_values=b'"' in data, ignore_empty_lines=False
                ),
                arrow_csv.ConvertOptions(
                    column_types=dict.fromkeys(labels, kind), strings_can_be_null=False, check_utf8=False
                ),
            ):
                cells = batch.columns
                if not small:
                    repeating = repeating or list(threads.map(_repeats, cells))
                    cells = threads.map(_coded_where, cells, repeating)
                for part, one in zip(parts, cells, strict=True):
                    part.append(one)
        except pyarrow.ArrowInvalid:
            return None
        give_back()
        rows = sum(map(len, parts[0]))
        laid = np.empty((rows, len(names)), dtype=np.int32, order="F")

        def whole(place: int) -> Column:
            chunks, parts[place] = pyarrow.chunked_array(parts[place]), []
            column = coded_column(names[place].strip(), chunks)
            laid[:, place] = column.codes
            return replace(column, codes=laid[:, place])

        columns = tuple(threads.map(whole, range(len(names))))
    pyarrow.default_memory_pool().release_unused()
    if _has_blank_row(columns, rows):
        return None
    return Relation(columns, np.arange(2, rows + 2, dtype=np.int64))


def _has_blank_row(columns: Sequence[Column], rows: int) -> bool:
    """Return whether some row has cells of spaces or nothing only; few values are looked at first."""
    blank = np.ones(rows, dtype=np.bool_)
    for column in sorted(columns, key=lambda column: len(column.values)):
        blanks = [code for code, value in enumerate(column.values) if not value or value.isspace()]
        blank &= np.isin(column.codes, blanks)
        if not blank.any():
            return False
    return True


def _repeats(cells: Any) -> bool:
    """Return whether most cells hold a value that others hold too, so that they are less when coded."""
    return 2 * len(cells.dictionary_encode().dictionary) < len(cells)


def _coded_where(cells: Any, repeating: bool) -> Any:
    return cells.dictionary_encode() if repeating else cells


def _first_record(data: bytes, delimiter: str) -> tuple[list[str], int]:
    """Return the first record, and the offset of the byte after it."""
    length = 0

    def lines() -> Iterator[str]:
        nonlocal length
        for line in io.TextIOWrapper(io.BytesIO(data), encoding="utf-8", newline=""):
            length += len(line.encode())
            yield line

    return next(csv.reader(lines(), delimiter=delimiter)), length


def _read_carefully(data: bytes, head: str, delimiter: str, reading: Reading, name: str) -> Laid:
    """Read record by record and find the table among them."""
    _raise_field_limit()
    text = io.TextIOWrapper(io.BytesIO(data), encoding="utf-8", newline="")
    spaced = _spaced_quotes(head, delimiter)
    reader = csv.reader(text, delimiter=delimiter, skipinitialspace=spaced)
    rows: list[list[str]] = []
    last_line = started = 0
    for record in reader:
        rows.append(record)
        started, last_line = last_line, reader.line_num
    if data.count(b'"') % 2 == 1:
        _check_quotes(rows, started, last_line, name)
    return laid_out(Grid(rows, range(1, len(rows) + 1)), reading, name)


def _check_quotes(rows: Sequence[Sequence[str]], started: int, last_line: int, name: str) -> None:
    """Raise InputError where the last record looks like the rest of the file behind an open quote."""
    if last_line - started > 1 or any("\n" in cell for cell in rows[-1]):
        raise InputError(
            f"{name}: a quote is opened and never closed, likely in row {len(rows)} (line {started + 1})",
            "Close the quote, or double it if it belongs to the value.",
        )


def _raise_field_limit() -> None:
    """Let a cell be as long as the file; the csv module's own limit is 128 KiB."""
    csv.field_size_limit(1 << 31)
