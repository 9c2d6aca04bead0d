"""Proofs of small folders, read as large ones are."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow
import pytest

from pravix.document.row_hashes import Form, RowHasher, RowHashes, of_arrays
from pravix.proof import held, repeats, table_rows


def in_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    """Let a proof read a few rows at once, and let what must wait do so in a file."""
    for module in (held, table_rows):
        monkeypatch.setattr(module, "ROWS_AT_ONCE", 7)
    monkeypatch.setattr(table_rows, "_BYTES_AT_ONCE", 512)
    monkeypatch.setattr(repeats, "_AT_ONCE", 16)


def of_rows(rows: Sequence[Sequence[object]], forms: Sequence[Form]) -> RowHashes:
    """The hashes of rows as a database gives them."""
    return RowHasher(forms).hashes(rows)


def of_cells(columns: Sequence[Sequence[str]], forms: Sequence[Form]) -> RowHashes:
    """The hashes of rows whose texts are given column by column."""
    return of_arrays([pyarrow.array(texts, pyarrow.large_string()) for texts in columns], forms)
