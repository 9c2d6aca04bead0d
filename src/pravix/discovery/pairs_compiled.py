"""The agree sets of all pairs of rows in compiled code; see ``pairs``.

One row is compared with a block of rows at a time, column by column, so that the processor compares
many cells with one instruction. The columns are taken in eights: one byte of the agree set of every row
of the block, then the next.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import Words, distinct, word_count
from pravix.discovery.wordset import Slots, WordSet, insert_all
from pravix.progress import Progress
from pravix.relation.compiling import compiled

Bytes = NDArray[np.uint8]

_BLOCK = 512
_LOT = 64


@compiled
def _agree(
    columns: NDArray[np.unsignedinteger], row: int, first: int, size: int, agreed: Words, plane: Bytes
) -> None:
    """Fill in the agree sets of a row with ``size`` rows from ``first`` on, one column of ``agreed`` each."""
    width = columns.shape[0]
    for word in range(len(agreed)):
        sets = agreed[word, :size]
        sets[:] = 0
        for eight in range(64 * word, min(64 * word + 64, width), 8):
            plane[:size] = 0
            for number in range(eight, min(eight + 8, width)):
                column = columns[number, first : first + size]
                value = columns[number, row]
                bit = np.uint8(128 >> (number - eight))
                for place in range(size):
                    plane[place] |= bit * np.uint8(column[place] == value)
            shift = np.uint64(56 - (eight - 64 * word))
            for place in range(size):
                sets[place] |= np.uint64(plane[place]) << shift


@compiled
def _compare(
    columns: NDArray[np.unsignedinteger],
    first: int,
    last: int,
    recent: Words,
    factor: np.uint64,
    shift: np.uint64,
    slots: Slots,
    listed: Words,
    count: int,
) -> tuple[int, int]:
    """Compare the rows from ``first`` to before ``last`` with all later ones.

    ``recent`` holds sets met before, each at the place that the highest bits of its words times
    ``factor`` give, what ``shift`` leaves of them; a set found there is passed over. Stops before a row
    for which there might be no room. Returns the next row and the new count of sets.
    """
    rows, words = columns.shape[1], listed.shape[1]
    agreed = np.zeros((words, _BLOCK), dtype=np.uint64)
    plane = np.zeros(_BLOCK, dtype=np.uint8)
    mixed = np.zeros(_BLOCK, dtype=np.uint64)
    fresh = np.zeros((_BLOCK, words), dtype=np.uint64)
    for row in range(first, last):
        if count + rows > len(listed):
            return row, count
        for base in range(row + 1, rows, _BLOCK):
            size = min(_BLOCK, rows - base)
            _agree(columns, row, base, size, agreed, plane)
            mixed[:] = 0
            for word in range(words):
                for place in range(size):
                    mixed[place] = (mixed[place] ^ agreed[word, place]) * factor
            added = 0
            for place in range(size):
                slot = mixed[place] >> shift
                known = recent[slot, 0] == agreed[0, place]
                for word in range(1, words):
                    known &= recent[slot, word] == agreed[word, place]
                if not known:
                    for word in range(words):
                        fresh[added, word] = recent[slot, word] = agreed[word, place]
                    added += 1
            if added:
                count = insert_all(slots, listed, count, fresh[:added])
    return last, count


def agree_sets(matrix: NDArray[np.integer], most: int, progress: Progress) -> Words:
    """Return the different agree sets of all pairs of rows of a row-by-column code matrix.

    The rows are dealt out to as many threads as there are processors. Time: the pairs times the columns,
    some 0.2 nanoseconds for each. Memory: the cells at two bytes, and the different agree sets. Raises
    OverBudgetError where a thread meets more than ``most``.
    """
    width = matrix.shape[1]
    codes = int(matrix.max(initial=0)) + 1
    kind = np.uint8 if codes <= 1 << 8 else np.uint16 if codes <= 1 << 16 else np.uint32
    columns = np.ascontiguousarray(matrix.T.astype(kind))
    threads = os.cpu_count() or 1
    with ThreadPoolExecutor(threads) as pool:
        parts = pool.map(lambda first: _dealt(columns, first, threads, most, progress), range(threads))
        return distinct(np.concatenate([np.empty((0, word_count(width)), dtype=np.uint64), *parts]))


def _dealt(
    columns: NDArray[np.unsignedinteger], first: int, threads: int, most: int, progress: Progress
) -> Words:
    """Return the agree sets of every ``threads``-th lot of rows, from the lot ``first`` on."""
    width, rows = columns.shape
    found = WordSet(word_count(width), most)
    bits = width if 16 <= width <= 20 else 16
    shift = np.uint64(64 - bits)
    factor = np.uint64(1 if width <= bits else 0x9E3779B97F4A7C15)
    recent = np.zeros((1 << bits, word_count(width)), dtype=np.uint64)
    recent[0, 0] = 1  # The empty set belongs here, and nothing else: it is still to be met.
    for start in range(first * _LOT, rows - 1, threads * _LOT):
        row, end = start, min(start + _LOT, rows - 1)
        while row < end:
            found.make_room(2 * rows)
            row, found.count = _compare(
                columns, row, end, recent, factor, shift, found.slots, found.listed, found.count
            )
        progress("comparing rows", end)
    return found.sets
