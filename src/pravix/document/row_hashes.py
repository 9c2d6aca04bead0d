"""Marks of rows: hashes by which the rows that tables must give back are known again.

A mark of many rows does not depend on their order: it is the sum of their hashes. (Source: D. Clarke,
S. Devadas, M. van Dijk, B. Gassend and G. E. Suh, "Incremental multiset hash functions and their application
to memory integrity checking", ASIACRYPT 2003.) The hash of a row is a polynomial of the hashes of its cells,
as that of a text is one of its letters (see ``pravix.relation.hashes``). It finds accidents, not forgeries.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from enum import Enum
from hashlib import blake2b
from threading import Lock
from typing import TYPE_CHECKING, Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from pravix.kernels.mixing import MULTIPLIER
from pravix.processors import processors
from pravix.relation.hashes import stirred
from pravix.relation.relation import Codes, Column, Relation
from pravix.relation.texts import Texts
from pravix.relation.types import NUMBER, Kind, comparable, is_number
from pravix.sources.coding import arrow_cells, decimal_numbers, numbers_of, present, texts_of

if TYPE_CHECKING:
    import pyarrow

_LANES = 2
_ROWS_AT_ONCE = 100_000
_SEEDS = (0x243F6A8885A308D3, 0x13198A2E03707344)
_MOST_BLOCKS = 10_000
_BLOCK_MASK = np.uint64(0xFFFFFFFF)
_INT64 = re.compile(r"-?(?:0|[1-9][0-9]{0,17})")
_NUMBER_LINES = re.compile(rf"(?:{NUMBER.pattern}\n)*+")
_INT64_DIGITS = 18
_DOUBLE_DIGITS = 15
_MOST_PLACES = 19
_SHORT = 24
_WORD = 8


class Form(Enum):
    """By what the cells of a column count."""

    WHOLE = "the value of a whole number"
    DECIMAL = "the value of a decimal number"
    TEXT = "the text"


def by_value(kinds: Iterable[Kind]) -> list[Form]:
    """Return the forms under which numbers count by their exact value."""
    known = {Kind.INTEGER: Form.WHOLE, Kind.DECIMAL: Form.DECIMAL}
    return [known.get(kind, Form.TEXT) for kind in kinds]


def by_text(kinds: Iterable[Kind]) -> list[Form]:
    """Return the forms under which every cell counts by its text."""
    return [Form.TEXT for _ in kinds]


Hashes = NDArray[np.uint64]
"""For each row (or value) two numbers of 64 bits."""


@dataclass(frozen=True, eq=False)
class RowHashes:
    """The hashes of rows, in their order."""

    hashes: Hashes

    @property
    def mark(self) -> str:
        """The mark of the rows as a multiset: 128 bits as hexadecimal digits."""
        return _written(self.hashes.sum(axis=0, dtype=np.uint64))

    def blocks(self, size: int) -> list[str]:
        """Return short marks of blocks of ``size`` rows."""
        if len(self.hashes) == 0:
            return []
        low = self.hashes[:, 0] & _BLOCK_MASK
        sums = np.add.reduceat(low, np.arange(0, len(low), size)) & _BLOCK_MASK
        return [f"{int(total):08x}" for total in sums]

    def block_size(self) -> int:
        """Return how many rows a block has, so that there are not too many blocks."""
        return -(-len(self.hashes) // _MOST_BLOCKS) or 1


def of_relation(relation: Relation, forms: Sequence[Form]) -> RowHashes:
    """Return the hashes of a relation's rows; ``forms`` says by what the cells of each column count.

    Numbers count by their value, so that a database that stores 15.50 as 15.5 gives the same. Linear, and
    worked out once for each relation, whichever thread asks first.
    """
    with _HASHING:
        return _once_of_relation(relation, forms)


_HASHING = Lock()


def _once_of_relation(relation: Relation, forms: Sequence[Form]) -> RowHashes:
    known = _KNOWN_ROWS.setdefault(relation, {})
    if tuple(forms) not in known:
        starts = range(0, max(relation.row_count, 1), _ROWS_AT_ONCE)
        with ThreadPoolExecutor(processors() if len(starts) > 1 else 1) as threads:
            dictionaries = list(threads.map(_of_column, relation.columns, forms))

            def part(start: int) -> Hashes:
                codes = [column.codes[start : start + _ROWS_AT_ONCE] for column in relation.columns]
                return _folded(dictionaries, codes, min(_ROWS_AT_ONCE, relation.row_count - start))

            known[tuple(forms)] = RowHashes(np.concatenate(list(threads.map(part, starts))))
    return known[tuple(forms)]


_KNOWN_ROWS: WeakKeyDictionary[Relation, dict[tuple[Form, ...], RowHashes]] = WeakKeyDictionary()
_KNOWN: WeakKeyDictionary[Column, dict[Form, Hashes]] = WeakKeyDictionary()


def _of_column(column: Column, form: Form) -> Hashes:
    """Return the hashes of a column's dictionary, worked out once for each column."""
    known = _KNOWN.setdefault(column, {})
    if form not in known:
        known[form] = _of_values(column.values, form)
    return known[form]


class RowHasher:
    """Hashes batches of rows as a database gives them.

    ``count`` tells how many rows there were.
    """

    def __init__(self, forms: Sequence[Form]) -> None:
        self.count = 0
        self._forms = forms
        self._total = np.zeros(_LANES, dtype=np.uint64)

    @property
    def mark(self) -> str:
        """The mark of all rows of the batches."""
        return _written(self._total)

    def add(self, other: RowHasher) -> None:
        """Count the rows that another has hashed as well."""
        self._total += other._total
        self.count += other.count

    def hashes(self, rows: Sequence[Sequence[object]]) -> RowHashes:
        """Return the hashes of a batch of rows: numbers, dates, decimals, texts, None. Linear."""
        return self._counted(_combined(map(_of_cells, zip(*rows, strict=True), self._forms), len(rows)))

    def hash_columns(self, columns: Sequence[pyarrow.Array]) -> RowHashes:
        """Return the hashes of a batch that has its values column by column. Linear in the cells."""
        return self._counted(of_arrays(columns, self._forms))

    def _counted(self, found: RowHashes) -> RowHashes:
        self._total += found.hashes.sum(axis=0, dtype=np.uint64)
        self.count += len(found.hashes)
        return found


def of_arrays(columns: Sequence[pyarrow.Array], forms: Sequence[Form]) -> RowHashes:
    """Return the hashes of rows whose values are given as Arrow arrays, column by column. Linear."""
    return _combined(map(_of_array, columns, forms), len(columns[0]))


def _of_cells(cells: Sequence[object], form: Form) -> Hashes:
    """Return the hashes of a column's cells, worked out once for each value."""
    values = arrow_cells(cells, form in (Form.WHOLE, Form.DECIMAL))
    if values is not None:
        return _of_array(values, form)
    known: dict[object, int] = {}
    codes = np.fromiter((known.setdefault(cell, len(known)) for cell in cells), np.intp, len(cells))
    return _of_values(list(known), form)[codes]


def _of_array(values: pyarrow.Array, form: Form) -> Hashes:
    """Return the hashes of an Arrow array: of short numbers at once, of others once for each value."""
    from pyarrow import types

    if form is Form.WHOLE and types.is_signed_integer(values.type):
        return _of_bits(numbers_of(values.cast("int64")), ~present(values))
    if form is Form.DECIMAL and types.is_decimal128(values.type) and values.type.precision <= _DOUBLE_DIGITS:
        halves = np.frombuffer(values.buffers()[1], np.int64).reshape(-1, 2)
        whole = halves[values.offset : values.offset + len(values), 0]
        return _of_bits(whole / 10.0**values.type.scale, ~present(values))  # Rounded correctly, as a text is.
    coded = values.dictionary_encode()
    kind = coded.dictionary.type
    as_texts = form is Form.TEXT and (types.is_string(kind) or types.is_large_string(kind))
    different = texts_of(coded.dictionary) if as_texts else coded.dictionary.to_pylist()
    hashes = np.concatenate([_of_values(different, form), _of_values([None], form)])
    return hashes[np.where(present(coded.indices), numbers_of(coded.indices), len(different))]


def _written(total: NDArray[np.uint64]) -> str:
    return "".join(f"{int(lane):016x}" for lane in total)


def _of_values(values: Sequence[object], form: Form) -> Hashes:
    """Return the hashes of different values.

    Numbers count by their exact value: those of up to 15 digits, which a double tells apart, by the bits of
    that double (whole ones by their own), those of more by the digits. All else counts by its text.
    """
    if form is Form.TEXT:
        if isinstance(values, Texts):
            return _of_texts(values)
        return _of_texts([comparable(value, numeric=False) for value in values])
    if isinstance(values, Texts):
        bits = _many_numbers(values, form)
    else:
        bits = _whole_numbers(values) if form is Form.WHOLE else _short_numbers(values)
    if bits is not None:
        return _of_bits(*bits)
    texts = [comparable(value, numeric=True) for value in values]
    found = _of_texts(texts)
    number = int if form is Form.WHOLE else float
    short = [place for place, text in enumerate(texts) if _is_short(text, form)]
    if short:
        numbers = np.array([number(texts[place]) for place in short])
        found[short] = _of_bits(numbers, np.zeros(len(short), dtype=np.bool_))
    return found


def _many_numbers(values: Texts, form: Form) -> tuple[NDArray[Any], NDArray[np.bool_]] | None:
    """Return the texts of many numbers as an array, as below, the first of which is blank or a number too."""
    blank = values.lengths == 0
    if form is Form.WHOLE:
        numbers, plain = values.plain_numbers()
        return (numbers, blank) if (plain | blank).all() else None
    first = int(blank[:1].sum())
    filled = values[first:]
    if int(filled.lengths.max(initial=0)) > _DOUBLE_DIGITS:
        return None
    text = filled.lines
    if text.count("\n") != len(filled) or _NUMBER_LINES.fullmatch(text) is None:
        return None
    return np.concatenate((np.zeros(first), decimal_numbers(filled))), blank


def _is_short(text: str, form: Form) -> bool:
    """Whether the text is a number that its bits tell apart from all others."""
    if not is_number(text):
        return False
    if form is Form.WHOLE:
        return "." not in text and len(text) <= _INT64_DIGITS
    return len(text.lstrip("-0.").replace(".", "")) <= _DOUBLE_DIGITS


def _whole_numbers(values: Sequence[Any]) -> tuple[NDArray[Any], NDArray[np.bool_]] | None:
    """Return whole numbers or their texts as an array, and which are blank; None for anything else."""
    blank = np.array([value is None or value == "" for value in values], dtype=np.bool_)
    numbers = [value or 0 for value in values] if blank.any() else values
    texts = [value for value in numbers if value.__class__ is str]
    if not all(map(_INT64.fullmatch, texts)) or not {value.__class__ for value in numbers} <= {str, int}:
        return None
    try:
        found = np.array(list(map(int, numbers)), np.int64)
    except OverflowError:
        return None
    return (found, blank) if (np.abs(found) < 10**_INT64_DIGITS).all() else None


def _short_numbers(values: Sequence[Any]) -> tuple[NDArray[Any], NDArray[np.bool_]] | None:
    """Return numbers or their texts as doubles, as above; None where one has too many digits for that."""
    blank = np.array([value is None or value == "" for value in values], dtype=np.bool_)
    numbers = [value or 0 for value in values] if blank.any() else values
    kinds = {value.__class__ for value in numbers}
    texts = [value for value in numbers if value.__class__ is str]
    if not kinds <= {str, float, int} or max(map(len, texts), default=0) > _DOUBLE_DIGITS:
        return None
    if not all(map(is_number, texts)):
        return None
    found = np.array(list(map(float, numbers)), np.float64)
    return (found, blank) if kinds == {str} or _all_short(found) else None


def _all_short(numbers: NDArray[np.float64]) -> bool:
    """Whether each double is the one nearest to some decimal of up to 15 digits.

    A quotient of two whole numbers that doubles hold is rounded correctly, so it is that nearest one.
    """
    if not np.isfinite(numbers).all():
        return False
    left = numbers
    for scale in range(_MOST_PLACES):
        whole = np.round(left * 10.0**scale)
        same = (whole / 10.0**scale == left) & (np.abs(whole) < 10.0**_DOUBLE_DIGITS)
        left = left[~same]
        if not len(left):
            return True
    return False


def _of_bits(numbers: NDArray[Any], blank: NDArray[np.bool_]) -> Hashes:
    """Return the hashes of numbers; minus zero counts as zero, a blank as the empty text."""
    bits = (numbers + numbers.dtype.type(0)).view(np.uint64)
    found = stirred(np.column_stack([bits ^ np.uint64(seed) for seed in _SEEDS]))
    found[blank] = _of_texts([""])
    return found


def _of_texts(texts: Sequence[str]) -> Hashes:
    """Return the hashes of texts: those of up to 24 bytes all at once, in words of eight with the length.

    A text has the same hash whatever is around it, and however the texts are held. One that ends in a zero
    byte, and a byte of one alone, would have that of a shorter text: they are hashed as long ones are.
    """
    if isinstance(texts, Texts):
        from pravix.kernels.hashes import short_texts

        sizes, last = np.diff(texts.bounds), np.zeros(len(texts), np.uint8)
        last[sizes > 0] = texts.data[texts.bounds[1:][sizes > 0] - 1]
        found = _as_lanes(sizes)
        short_texts(texts.data, texts.bounds, _SHORT // _WORD, np.array(_SEEDS, dtype=np.uint64), found)
    else:
        encoded = [text.encode(errors="surrogatepass") for text in texts]
        sizes = np.fromiter(map(len, encoded), dtype=np.int64, count=len(encoded))
        last = np.fromiter((text[-1] if text else 0 for text in encoded), np.uint8, len(encoded))
        found = _as_lanes(sizes)
        for word in np.array(encoded, dtype=f"S{_SHORT}").view(np.uint64).reshape(-1, _SHORT // _WORD).T:
            found ^= word[:, np.newaxis] ^ np.array([_SEEDS], dtype=np.uint64)
            found = stirred(found)
    alike = (last == 0) & (sizes > 0) | (last == 1) & (sizes == 1)
    for place in np.flatnonzero((sizes > _SHORT) | alike).tolist():
        digest = blake2b(texts[place].encode(errors="surrogatepass"), digest_size=8 * _LANES).digest()
        found[place] = np.frombuffer(digest, dtype="<u8")
    return found


def _as_lanes(numbers: NDArray[np.int64]) -> Hashes:
    return np.repeat(numbers.astype(np.uint64)[:, np.newaxis], _LANES, axis=1)


def _folded(dictionaries: Sequence[Hashes], codes: Sequence[Codes], count: int) -> Hashes:
    """Return the hashes of rows given as codes: as below, but that those of many cells are not made first."""
    if count < _ROWS_AT_ONCE:
        return _combined((one[code] for one, code in zip(dictionaries, codes, strict=True)), count).hashes
    from pravix.kernels.hashes import fold

    found = np.zeros((count, _LANES), dtype=np.uint64)
    for one, code in zip(dictionaries, codes, strict=True):
        fold(found, one, code)
    return stirred(found)


def _combined(cells: Iterable[Hashes], count: int) -> RowHashes:
    found = np.zeros((count, _LANES), dtype=np.uint64)
    for column in cells:
        found *= MULTIPLIER
        found += column
    return RowHashes(stirred(found))
