"""Marks of rows: hashes by which the rows that tables must give back are known again.

A mark of many rows does not depend on their order: it is the sum of their hashes. (Source: D. Clarke,
S. Devadas, M. van Dijk, B. Gassend and G. E. Suh, "Incremental multiset hash functions and their application
to memory integrity checking", ASIACRYPT 2003.)
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from decimal import Decimal
from hashlib import blake2b
from typing import Any

_BYTES = 16
_BLOCK_BYTES = 4
_MOST_BLOCKS = 10_000


def rows_mark(rows: Iterable[Sequence[object]], types: Sequence[str]) -> str:
    """Return a mark of rows as a multiset; ``types`` says which columns hold numbers, as design.json does.

    Numbers count by their value, so that a database that stores 15.50 as 15.5 gives the same mark.
    Linear in the cells.
    """
    total = sum(_row_number(row, types, _BYTES) for row in rows)
    return f"{total % 2 ** (8 * _BYTES):032x}"


def block_marks(rows: Sequence[Sequence[object]], types: Sequence[str]) -> dict[str, Any]:
    """Return short marks of blocks of rows in their order, by which a changed row is found again.

    A block is one row, or more where there are more than ``_MOST_BLOCKS`` rows. Linear in the cells.
    """
    size = -(-len(rows) // _MOST_BLOCKS) or 1
    return {"block_rows": size, "blocks": block_list(rows, types, size)}


def block_list(rows: Sequence[Sequence[object]], types: Sequence[str], size: int) -> list[str]:
    """Return the marks of blocks of ``size`` rows."""
    sums = [
        sum(_row_number(row, types, _BLOCK_BYTES) for row in rows[start : start + size])
        for start in range(0, len(rows), size)
    ]
    return [f"{total % 2 ** (8 * _BLOCK_BYTES):08x}" for total in sums]


def _row_number(row: Sequence[object], types: Sequence[str], size: int) -> int:
    """Return a hash of a row of so many bytes, as a number."""
    cells = [plain(cell, kind) for cell, kind in zip(row, types, strict=True)]
    text = json.dumps(cells, ensure_ascii=False).encode(errors="surrogatepass")
    return int.from_bytes(blake2b(text, digest_size=size).digest())


def plain(cell: object, kind: str) -> str:
    """Return a cell in the form in which it is compared: numbers by value, a blank as no text."""
    if cell is None or cell == "":
        return ""
    try:
        if kind == "integer":
            return str(int(cell) if isinstance(cell, float | Decimal) else int(str(cell)))
        return repr(float(str(cell))) if kind.startswith("decimal") else str(cell)
    except ValueError:
        return str(cell)
