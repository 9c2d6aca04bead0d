"""Texts become dictionary-coded columns, with the help of PyArrow."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from pravix.relation.relation import Column, Relation


def coded_relation(names: Sequence[str], rows: Sequence[Sequence[str]], numbers: Sequence[int]) -> Relation:
    """Return rows of text as a relation; ``numbers`` are the rows' numbers in their source."""
    import pyarrow

    texts = zip(*rows, strict=True) if rows else [()] * len(names)
    columns = []
    for name, cells in zip(names, texts, strict=True):
        try:
            array = pyarrow.array(cells, pyarrow.string())
        except UnicodeEncodeError:
            columns.append(Column.from_texts(name, cells))
            continue
        columns.append(coded_column(name, pyarrow.chunked_array([array])))
    return Relation(tuple(columns), np.array(numbers, dtype=np.int64))


def coded_column(name: str, texts: Any) -> Column:
    """Return a chunked Arrow array of strings as a column; blanks and nulls get code 0."""
    chunks = texts.dictionary_encode().chunks
    if not chunks:
        return Column.from_texts(name, [])
    values: list[str] = max((chunk.dictionary for chunk in chunks), key=len).to_pylist()
    parts = [chunk.indices.fill_null(-1).to_numpy(zero_copy_only=False) for chunk in chunks]
    codes = np.concatenate(parts).astype(np.int32, copy=False)
    if "" not in values:
        return Column(name, codes + 1, ["", *values])
    blank = values.index("")
    moved = np.arange(len(values) + 1, dtype=np.int32)
    moved[:blank] += 1
    moved[[blank, -1]] = 0
    return Column(name, moved[codes], ["", *values[:blank], *values[blank + 1 :]])
