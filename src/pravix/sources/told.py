"""Values of databases and of columnar files as texts: every digit, every part of a second."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from math import isfinite
from typing import Any

import numpy as np

from pravix.sources.workbook import cell_text

_MIDNIGHT = " 00:00:00"


def cell_told(cell: Any) -> str:
    """Return a value of a database as a text: every digit, every second, JSON for what has parts."""
    if cell.__class__ is str:
        return str(cell)
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return _number(Decimal(repr(cell))) if isfinite(cell) else str(cell)
    if isinstance(cell, Decimal):
        return _number(cell)
    if isinstance(cell, datetime):
        return cell.isoformat(" ")
    if isinstance(cell, date | time):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return cell_text(cell) if cell == timedelta(seconds=round(cell.total_seconds())) else str(cell)
    if isinstance(cell, bytes | bytearray | memoryview):
        return bytes(cell).hex()
    if isinstance(cell, dict | list | tuple):
        return json.dumps(cell, ensure_ascii=False, default=cell_told)
    return str(cell)


def _number(number: Decimal) -> str:
    if not number.is_finite():
        return str(number).lower()
    text = f"{number:f}"
    return text.removesuffix(".0") if text.endswith(".0") else text


def arrow_texts(cells: Any) -> Any:
    """Return an array of Arrow, in chunks, as one of texts; what is no number is a blank.

    A moment at midnight is its day, one with a time zone is told in that of Greenwich. Linear; each different
    value is told once.
    """
    import pyarrow
    from pyarrow import types

    if types.is_dictionary(cells.type):
        cells = cells.cast(cells.type.value_type)
    if types.is_string(cells.type) or types.is_large_string(cells.type) or types.is_null(cells.type):
        return cells.cast(pyarrow.string())
    coded = cells.dictionary_encode().unify_dictionaries()
    chunks = []
    for chunk in coded.chunks:
        texts = pyarrow.array(_told(chunk.dictionary), pyarrow.string())
        chunks.append(pyarrow.DictionaryArray.from_arrays(chunk.indices, texts).cast(pyarrow.string()))
    return pyarrow.chunked_array(chunks, pyarrow.string())


def _told(values: Any) -> Iterator[str]:
    from pyarrow import string, timestamp, types

    kind = values.type
    if types.is_timestamp(kind):
        in_greenwich = values if kind.tz is None else values.cast(timestamp(kind.unit, "UTC"))
        return _moments(in_greenwich.cast(string()).to_pylist())
    if types.is_time(kind):
        return map(_without_zeros, values.cast(string()).to_pylist())
    if types.is_float32(kind) or types.is_float16(kind):
        return _floats(map(np.float32, values.to_pylist()))
    if types.is_floating(kind):
        return _floats(values.to_pylist())
    return map(cell_told, values.to_pylist())


def _floats(numbers: Iterable[Any]) -> Iterator[str]:
    """Yield the shortest texts that tell these numbers apart from others of their width."""
    for number in numbers:
        if number != number:
            yield ""
        else:
            yield _number(Decimal(str(number))) if isfinite(number) else str(number)


def _moments(texts: Iterable[str]) -> Iterator[str]:
    for text in texts:
        told = _without_zeros(text.removesuffix("Z"))
        yield f"{told}+00:00" if text.endswith("Z") else told.removesuffix(_MIDNIGHT)


def _without_zeros(text: str) -> str:
    """Return a time without zeros after its last part of a second."""
    return text.rstrip("0").rstrip(".") if "." in text else text
