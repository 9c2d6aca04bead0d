"""Texts become dictionary-coded columns, with the help of PyArrow."""

from __future__ import annotations

from array import array
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pravix.relation.relation import BLANK, Column, Relation


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


class CodedCells:
    """The cells of a column that come in batches, coded as they come."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._codes = array("i")
        self._known: dict[str, int] = {"": BLANK}

    def __len__(self) -> int:
        return len(self._codes)

    def add(self, texts: Iterable[str]) -> None:
        """Add some cells; the empty text is the blank."""
        known = self._known
        self._codes.extend(known.setdefault(text, len(known)) for text in texts)

    def column(self) -> Column:
        """Return all cells as a column."""
        return Column(self._name, np.frombuffer(self._codes, dtype=np.int32), list(self._known))


def coded_column(name: str, texts: Any) -> Column:
    """Return a chunked Arrow array of strings, coded or not, as a column; blanks and nulls get code 0."""
    from pyarrow import types

    coded = texts.unify_dictionaries() if types.is_dictionary(texts.type) else texts.dictionary_encode()
    chunks = coded.chunks
    if not chunks:
        return Column.from_texts(name, [])
    values: list[str] = max((chunk.dictionary for chunk in chunks), key=len).to_pylist()
    codes = np.concatenate([_numbers(chunk.indices) for chunk in chunks])
    if "" not in values:
        return Column(name, codes + 1, ["", *values])
    blank = values.index("")
    moved = np.arange(len(values) + 1, dtype=np.int32)
    moved[:blank] += 1
    moved[[blank, -1]] = 0
    return Column(name, moved[codes], ["", *values[:blank], *values[blank + 1 :]])


def _numbers(indices: Any) -> NDArray[np.int32]:
    """Return Arrow's 32-bit integers with -1 for a null, read from memory: its own way loads pandas."""
    present, data = indices.buffers()
    span = slice(indices.offset, indices.offset + len(indices))
    numbers = np.frombuffer(data, dtype=np.int32)[span]
    if indices.null_count == 0:
        return numbers
    bits = np.unpackbits(np.frombuffer(present, dtype=np.uint8), bitorder="little")[span]
    return np.where(bits, numbers, -1).astype(np.int32)


def text_array(texts: Sequence[str]) -> Any:
    """Return texts as an Arrow array, laid in memory here: Arrow's own way loads pandas."""
    import pyarrow

    data = "".join(texts).encode()
    sizes = np.fromiter(map(len, texts), dtype=np.int32, count=len(texts))
    if len(data) != int(sizes.sum()):
        sizes = np.fromiter((len(text.encode()) for text in texts), dtype=np.int32, count=len(texts))
    offsets = np.concatenate(([0], np.cumsum(sizes))).astype(np.int32)
    buffers = [None, pyarrow.py_buffer(offsets), pyarrow.py_buffer(data)]
    return pyarrow.Array.from_buffers(pyarrow.utf8(), len(texts), buffers)


def numbered_texts(parts: Sequence[Any]) -> NDArray[np.int32]:
    """Return a number for each text of some arrays, one after the other; the same for equal texts."""
    import pyarrow

    chunks = pyarrow.chunked_array(parts, pyarrow.utf8()).dictionary_encode().chunks
    return np.concatenate([np.zeros(0, np.int32), *(_numbers(chunk.indices) for chunk in chunks)])


def code_array(codes: NDArray[np.int32]) -> Any:
    """Return codes as an Arrow array."""
    import pyarrow

    data = pyarrow.py_buffer(np.ascontiguousarray(codes))
    return pyarrow.Array.from_buffers(pyarrow.int32(), len(codes), [None, data])
