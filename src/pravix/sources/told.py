"""Values of databases and of columnar files as texts: every digit that is sure, every part of a second."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from itertools import compress
from math import isfinite
from typing import Any

import numpy as np

from pravix.sources.workbook import cell_text
from pravix.wording import joined, shortened

_MIDNIGHT = " 00:00:00"
SURE_DIGITS = {"double": 15, "float": 6, "halffloat": 3}
"""How many digits of any number a floating-point number of a kind of Arrow's holds."""


def cell_told(cell: Any) -> str:
    """Return a value of a database as a text: every digit, every second, JSON for what has parts."""
    if cell.__class__ is str:
        text: str = cell
        return text
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


def arrow_texts(cells: Any) -> tuple[Any, bool]:
    """Return an array of Arrow, in chunks, as one of texts, and whether its numbers had more digits.

    Floating-point numbers are told with as many digits as they are sure of (``SURE_DIGITS``), what is no
    number is a blank. Moments are days where all of them are midnights; those with a time zone are told in
    that of Greenwich. Linear; each different value is told once.
    """
    import pyarrow
    from pyarrow import types

    if types.is_dictionary(cells.type):
        cells = cells.cast(cells.type.value_type)
    if types.is_string(cells.type) or types.is_large_string(cells.type) or types.is_null(cells.type):
        return cells.cast(pyarrow.string()), False
    chunks = cells.dictionary_encode().unify_dictionaries().chunks
    if not chunks:
        return pyarrow.chunked_array([], pyarrow.string()), False
    told, rounded = _told(chunks[0].dictionary)  # That of all chunks: they were unified.
    texts = pyarrow.array(told, pyarrow.string())
    dense = [
        pyarrow.DictionaryArray.from_arrays(chunk.indices, texts).cast(pyarrow.string()) for chunk in chunks
    ]
    return pyarrow.chunked_array(dense, pyarrow.string()), rounded


def _told(values: Any) -> tuple[list[str], bool]:
    from pyarrow import string, timestamp, types

    kind = values.type
    if types.is_timestamp(kind):
        in_greenwich = values if kind.tz is None else values.cast(timestamp(kind.unit, "UTC"))
        return _moments(in_greenwich.cast(string()).to_pylist()), False
    if types.is_time(kind):
        return list(map(_without_zeros, values.cast(string()).to_pylist())), False
    if types.is_floating(kind):
        return _floats(values.to_pylist(), SURE_DIGITS[str(kind)])
    return list(map(cell_told, values.to_pylist())), False


def _floats(numbers: Sequence[float], digits: int) -> tuple[list[str], bool]:
    """Return numbers with so many digits, and whether some have more."""
    sure = [f"{number:.{digits}g}" for number in numbers]
    kind = np.float64 if digits == SURE_DIGITS["double"] else np.float32
    finite = [isfinite(number) for number in numbers]
    pairs = zip(compress(sure, finite), compress(numbers, finite), strict=True)
    rounded = any(kind(text) != number for text, number in pairs)
    told = [_number(Decimal(text)) if is_so else text for text, is_so in zip(sure, finite, strict=True)]
    return ["" if text == "nan" else text for text in told], rounded


def _moments(texts: Sequence[str]) -> list[str]:
    told = [_without_zeros(text.removesuffix("Z")) for text in texts]
    if any(text.endswith("Z") for text in texts):
        return [f"{one}+00:00" for one in told]
    days = all(one.endswith(_MIDNIGHT) for one in told)
    return [one.removesuffix(_MIDNIGHT) for one in told] if days else told


def _without_zeros(text: str) -> str:
    """Return a time without zeros after its last part of a second."""
    return text.rstrip("0").rstrip(".") if "." in text else text


def digits_told(columns: Sequence[str]) -> list[str]:
    """Return the note about columns whose numbers have more digits than are told, where there are such."""
    names = joined([shortened(name) for name in columns])
    return [f"numbers of {names} are told with the digits that they are sure of"] if columns else []
