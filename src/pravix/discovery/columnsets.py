"""Many sets of columns as rows of machine words, and how they are named and ordered.

A set of columns is a row of 64-bit words. The column at place p of the header is the bit 63 - p % 64
of word p // 64. So of two sets of equal size the one with the greater words comes first when the
places of the columns are compared one by one.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from pravix.kernels.arrays import Words


def word_count(width: int) -> int:
    """Return how many words hold a set of ``width`` columns."""
    return max(1, -(-width // 64))


def from_integers(integers: Iterable[int], words: int) -> Words:
    """Return sets from integers whose highest bit, of 64 for each word, is the first column."""
    data = b"".join(one.to_bytes(8 * words, "big") for one in integers)
    return np.frombuffer(data, dtype=">u8").astype(np.uint64).reshape(-1, words)


def to_integers(sets: Words) -> list[int]:
    """Return each set as one integer; the inverse of ``from_integers``."""
    size = 8 * sets.shape[1]
    data = sets.astype(">u8").tobytes()
    return [int.from_bytes(data[start : start + size], "big") for start in range(0, len(data), size)]


def everything(width: int) -> Words:
    """Return the set of all columns, as one row of words."""
    row: Words = from_places([range(width)], word_count(width))[0]
    return row


def sizes(sets: Words) -> NDArray[np.intp]:
    """Return how many columns each set has."""
    counts = np.zeros(len(sets), dtype=np.intp)
    for word in range(sets.shape[1]):
        counts += np.bitwise_count(sets[:, word])
    return counts


def holding(sets: Words, place: int) -> NDArray[np.bool_]:
    """Return, for each set, whether it holds the column at ``place``."""
    shift = np.uint64(63 - place % 64)
    return ((sets[:, place // 64] >> shift) & np.uint64(1)).astype(np.bool_)


def held_by(words: Words, sets: Words) -> NDArray[np.bool_]:
    """Return, for each set, whether it holds all columns of one other."""
    held = np.ones(len(sets), dtype=np.bool_)
    for word in np.flatnonzero(words).tolist():
        held &= (sets[:, word] & words[word]) == words[word]
    return held


def in_order(sets: Words) -> Words:
    """Return the sets, smaller ones first, equally large ones by the places of their columns."""
    keys = [~sets[:, word] for word in range(sets.shape[1] - 1, -1, -1)]
    return sets[np.lexsort([*keys, sizes(sets)])]


def distinct(sets: Words) -> Words:
    """Return every set once, in no particular order but always the same."""
    return sets[np.unique(_as_records(sets), return_index=True)[1]]


def without(sets: Words, others: Words) -> Words:
    """Return the sets that are not among the others."""
    if not len(others):
        return sets
    return sets[~np.isin(_as_records(sets), _as_records(others))]


def places_of(words: Words) -> tuple[int, ...]:
    """Return the places of the columns of one set, ascending."""
    return tuple(np.flatnonzero(np.unpackbits(words.astype(">u8").view(np.uint8))).tolist())


def from_places(sets: Sequence[Sequence[int]], words: int) -> Words:
    """Return sets given by the places of their columns."""
    bits = np.zeros((len(sets), 64 * words), dtype=np.uint8)
    for number, places in enumerate(sets):
        bits[number, list(places)] = 1
    return np.packbits(bits, axis=1).view(">u8").astype(np.uint64).reshape(-1, words)


def _as_records(sets: Words) -> NDArray[np.generic]:
    """Return an array with one comparable element a set."""
    if sets.shape[1] == 1:
        return sets[:, 0]
    return np.ascontiguousarray(sets.astype(">u8")).view(f"V{8 * sets.shape[1]}")[:, 0]


@lru_cache(maxsize=4)
def _names_by_byte(names: tuple[str, ...]) -> list[list[tuple[str, ...]]]:
    """Return, for each eight columns, the names of every combination of them."""
    return [
        [tuple(name for bit, name in enumerate(part) if byte >> 7 - bit & 1) for byte in range(256)]
        for part in (names[start : start + 8] for start in range(0, len(names), 8))
    ]


class ColumnSets:
    """Sets of column names, kept as words and named when they are asked for."""

    def __init__(self, words: Words, names: Sequence[str]) -> None:
        self.words = words
        self.names = tuple(names)

    def __len__(self) -> int:
        return len(self.words)

    def __iter__(self) -> Iterator[frozenset[str]]:
        by_byte = _names_by_byte(self.names)
        rows = self.words.astype(">u8").view(np.uint8).reshape(-1, 8 * self.words.shape[1])
        for row in rows[:, : len(by_byte)].tolist():
            parts = zip(by_byte, row, strict=True)
            yield frozenset(name for named, byte in parts if byte for name in named[byte])

    def up_to(self, size: int) -> ColumnSets:
        """Return the sets of at most ``size`` columns, where the small ones stand first."""
        return ColumnSets(self.words[: np.searchsorted(sizes(self.words), size, side="right")], self.names)
