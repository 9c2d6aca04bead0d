"""Texts become dictionary-coded columns, with the help of PyArrow."""

from __future__ import annotations

from array import array
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.texts import Texts

_MANY_VALUES = 10_000
"""From so many different values on a column does not keep each as an object."""

_LARGE = 1 << 31
"""From so many bytes on Arrow's texts are large ones."""

_SPREAD = 4
"""Numbers are looked up in a table of up to so many times as many places."""


def coded_relation(names: Sequence[str], rows: Sequence[Sequence[str]], numbers: Sequence[int]) -> Relation:
    """Return rows of text as a relation; ``numbers`` are the rows' numbers in their source."""
    import pyarrow

    texts = zip(*rows, strict=True) if rows else [()] * len(names)
    columns = []
    for name, cells in zip(names, texts, strict=True):
        try:
            array = text_array(cells)
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


def arrow_cells(cells: Sequence[object], numeric: bool) -> Any | None:
    """Return cells as a database gives them as an Arrow array.

    None where Arrow would not keep each as it is: cells of several types, or texts that are something else;
    and of few, for which it is not worth while to load what Arrow's own way does.
    """
    import pyarrow

    if len(cells) < _MANY_VALUES:
        return None
    try:
        found = pyarrow.array(cells)
    except (pyarrow.ArrowException, OverflowError, UnicodeError):
        return None
    return found if numeric or pyarrow.types.is_string(found.type) else None


def coded_column(name: str, texts: Any) -> Column:
    """Return a chunked Arrow array of strings, coded or not, as a column; blanks and nulls get code 0."""
    from pyarrow import types

    coded = texts.unify_dictionaries() if types.is_dictionary(texts.type) else texts.dictionary_encode()
    chunks = coded.chunks
    if not chunks:
        return Column.from_texts(name, [])
    dictionary = max((chunk.dictionary for chunk in chunks), key=len)
    codes = np.concatenate([_numbers(chunk.indices) for chunk in chunks])
    letters, bounds = _memory(dictionary)
    blanks = np.flatnonzero(bounds[1:] == bounds[:-1])
    if len(blanks):
        (blank,) = blanks.tolist()
        bounds = np.delete(bounds, blank)
        moved = np.arange(len(dictionary) + 1, dtype=np.int32)
        moved[:blank] += 1
        moved[[blank, -1]] = BLANK
        codes = moved[codes]
    else:
        codes += 1
    return Column(name, codes, _few_or_many(Texts(letters, np.concatenate((bounds[:1], bounds)))))


def texts_of(array: Any) -> Sequence[str]:
    """Return the strings of an Arrow array without nulls: few as a list, many in their memory."""
    return _few_or_many(Texts(*_memory(array)))


def _few_or_many(texts: Texts) -> Sequence[str]:
    return texts if len(texts) >= _MANY_VALUES else list(texts)


def _memory(array: Any) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
    """Return the letters of an Arrow array of strings, and where each string begins and the last ends."""
    from pyarrow import types

    _, bounds, data = array.buffers()
    kind = np.int64 if types.is_large_string(array.type) else np.int32
    starts: NDArray[Any] = np.frombuffer(bounds, dtype=kind)[array.offset : array.offset + len(array) + 1]
    letters = np.frombuffer(data, dtype=np.uint8) if data is not None else np.zeros(0, dtype=np.uint8)
    return letters, starts.astype(np.int64)


def _numbers(indices: Any) -> NDArray[np.int32]:
    """Return Arrow's 32-bit integers with -1 for a null."""
    if indices.null_count == 0:
        return numbers_of(indices)
    return np.where(present(indices), numbers_of(indices), -1).astype(np.int32)


def numbers_of(array: Any) -> NDArray[Any]:
    """Return Arrow's whole numbers of 32 or 64 bits, anything for a null, read from memory: its own way loads
    pandas.
    """
    numbers = np.frombuffer(array.buffers()[1] or b"", dtype=f"i{array.type.bit_width // 8}")
    return numbers[array.offset : array.offset + len(array)]


def flags_of(array: Any) -> NDArray[np.bool_]:
    """Return Arrow's truth values, of which none is null, as above."""
    return _bits(array, array.buffers()[1])


def present(array: Any) -> NDArray[np.bool_]:
    """Return which cells of an Arrow array are no nulls, as above."""
    if array.null_count == 0:
        return np.ones(len(array), dtype=np.bool_)
    return _bits(array, array.buffers()[0])


def _bits(array: Any, buffer: Any) -> NDArray[np.bool_]:
    bits = np.unpackbits(np.frombuffer(buffer or b"", dtype=np.uint8), bitorder="little")
    return bits[array.offset : array.offset + len(array)].astype(np.bool_)


def text_array(texts: Sequence[str]) -> Any:
    """Return texts as an Arrow array, laid in memory here: Arrow's own way loads pandas."""
    import pyarrow

    if isinstance(texts, Texts):
        start, stop = texts.bounds[[0, -1]]
        bounds, data = texts.bounds - start, pyarrow.py_buffer(texts.data[start:stop])
    else:
        letters = "".join(texts).encode()
        sizes = np.fromiter(map(len, texts), dtype=np.int64, count=len(texts))
        if len(letters) != int(sizes.sum()):
            sizes = np.fromiter((len(text.encode()) for text in texts), dtype=np.int64, count=len(texts))
        bounds, data = np.concatenate((np.zeros(1, np.int64), np.cumsum(sizes))), pyarrow.py_buffer(letters)
    large = bool(bounds[-1] >= _LARGE)
    offsets = bounds.astype(np.int64 if large else np.int32)
    kind = pyarrow.large_utf8() if large else pyarrow.utf8()
    return pyarrow.Array.from_buffers(kind, len(texts), [None, pyarrow.py_buffer(offsets), data])


def numbered_texts(parts: Sequence[Any]) -> NDArray[np.int32]:
    """Return a number for each text of some arrays, one after the other; the same for equal texts.

    The numbers are dense from 0. Of many texts those that are whole numbers are told apart by these.
    """
    if sum(map(len, parts)) < _MANY_VALUES:
        return _encoded(parts)
    read = [Texts(*_memory(part)).plain_numbers() for part in parts]
    plain = np.concatenate([some for _, some in read])
    ranks, count = _ranked(np.concatenate([numbers[some] for numbers, some in read]))
    result = np.empty(len(plain), dtype=np.int32)
    result[plain] = ranks
    rest = [
        part.take(code_array(np.flatnonzero(~some).astype(np.int32))) if some.any() else part
        for part, (_, some) in zip(parts, read, strict=True)
        if not some.all()
    ]
    result[~plain] = _encoded(rest) + count
    return result


def _encoded(parts: Sequence[Any]) -> NDArray[np.int32]:
    import pyarrow

    chunks = pyarrow.chunked_array(parts, pyarrow.utf8()).dictionary_encode().chunks
    return np.concatenate([np.zeros(0, np.int32), *(_numbers(chunk.indices) for chunk in chunks)])


def _ranked(numbers: NDArray[np.int64]) -> tuple[NDArray[np.int32], int]:
    """Return the place of each number among the different ones, and how many these are."""
    if not len(numbers):
        return np.zeros(0, np.int32), 0
    least, width = int(numbers.min()), int(numbers.max()) - int(numbers.min()) + 1
    if width > _SPREAD * len(numbers):
        values, ranks = np.unique(numbers, return_inverse=True)
        return ranks.astype(np.int32), len(values)
    there = np.zeros(width, dtype=np.bool_)
    there[numbers - least] = True
    places = np.cumsum(there, dtype=np.int32) - 1
    return places[numbers - least], int(places[-1]) + 1


def whole_numbers(texts: Sequence[str]) -> NDArray[np.int64]:
    """Return the numbers that texts of up to 18 digits stand for."""
    import pyarrow

    numbers = text_array(texts).cast(pyarrow.int64())
    return np.frombuffer(numbers.buffers()[1], dtype=np.int64)[: len(texts)]


def decimal_numbers(texts: Sequence[str]) -> NDArray[np.float64]:
    """Return the doubles next to the numbers that texts stand for."""
    import pyarrow

    numbers = text_array(texts).cast(pyarrow.float64())
    return np.frombuffer(numbers.buffers()[1], dtype=np.float64)[: len(texts)]


class Numbering:
    """The different values that occur in some columns, each with one number wherever it occurs.

    ``numbers`` lists those of one column after the other. Linear in the different values.
    """

    def __init__(self, columns: Iterable[Column]) -> None:
        parts = [text_array([])]
        self._places: dict[Column, slice] = {}
        end = 0
        for one in dict.fromkeys(column.same_values for column in columns):
            parts.append(text_array(one.present_values))
            self._places[one] = slice(end, end + len(parts[-1]))
            end += len(parts[-1])
        self.numbers = numbered_texts(parts)
        self._count = int(self.numbers.max(initial=-1)) + 1

    def covers(self, columns: Iterable[Column]) -> bool:
        """Return whether the values of all these columns are numbered."""
        return all(column.same_values in self._places for column in columns)

    def place(self, column: Column) -> slice:
        """Return where the numbers of a column are, in the order of its codes."""
        return self._places[column.same_values]

    def of(self, column: Column) -> NDArray[np.int32]:
        """Return the numbers of the values of a column."""
        return self.numbers[self.place(column)]

    def by_row(self, column: Column) -> NDArray[np.int32]:
        """Return the number of the value of each row of a column; -1 for a blank."""
        by_code = np.full(len(column.values), -1, dtype=np.int32)
        by_code[column.present_codes] = self.of(column)
        return by_code[column.codes]

    def common(self, one: Column, other: Column) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Return where the values that two of the columns have in common are among those of each. Linear."""
        here, there = self.of(one), self.of(other)
        known = np.full(self._count, -1, dtype=np.intp)
        known[there] = np.arange(len(there))
        found = known[here]
        shared = np.flatnonzero(found >= 0)
        return shared, found[shared]

    def counted(self, columns: Sequence[Column]) -> Callable[[Column], NDArray[np.int64]]:
        """Return what counts, for one of the columns, how many values it has in common with each of some.

        Linear in how many columns each of its values is in.
        """
        sizes = [len(self.of(column)) for column in columns]
        numbers = np.concatenate([self.numbers[:0], *map(self.of, columns)])
        places = np.repeat(np.arange(len(columns), dtype=np.int32), sizes)
        held = np.bincount(numbers, minlength=self._count).astype(np.int32)
        holder = np.empty(self._count, dtype=np.int32)
        holder[numbers] = places
        shared = (held > 1)[numbers]
        holders = places[shared][np.argsort(numbers[shared])]
        ends = np.cumsum(np.where(held > 1, held, 0), dtype=np.int32)

        def counts(column: Column) -> NDArray[np.int64]:
            mine = self.of(column)
            alone = np.bincount(holder[mine[held[mine] == 1]], minlength=len(columns))
            mine = mine[held[mine] > 1]
            times = held[mine]
            starts = np.repeat(ends[mine] - np.cumsum(times), times)
            return alone + np.bincount(holders[np.arange(len(starts)) + starts], minlength=len(columns))

        return counts


def code_array(codes: NDArray[Any], given: NDArray[np.bool_] | None = None) -> Any:
    """Return whole numbers as an Arrow array, with a null where none is ``given``."""
    import pyarrow

    kind = pyarrow.from_numpy_dtype(codes.dtype)
    bits = None if given is None else pyarrow.py_buffer(np.packbits(given, bitorder="little"))
    data = pyarrow.py_buffer(np.ascontiguousarray(codes))
    return pyarrow.Array.from_buffers(kind, len(codes), [bits, data])
