"""The agree sets of pairs of rows, see ``pravix.discovery.pairs``.

One row is compared with a block of rows at a time, column by column, so that the processor compares
many cells with one instruction. The columns are taken in eights: one byte of the agree set of every row
of the block, then the next.
"""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bytes, Slots, SmallCodes, Words
from pravix.kernels.compiling import compiled, inlined
from pravix.kernels.wordset import insert_all

BLOCK = 512


@inlined
def _agree(columns: SmallCodes, row: int, first: int, size: int, agreed: Words, plane: Bytes) -> None:
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
                    plane[place] |= bit if column[place] == value else np.uint8(0)
            shift = np.uint64(56 - (eight - 64 * word))
            for place in range(size):
                sets[place] |= np.uint64(plane[place]) << shift


@compiled(
    "UniTuple(int64,2)(uint8[:,::1],int64,int64,W2,uint64,uint64,N1,W2,int64)",
    "UniTuple(int64,2)(uint16[:,::1],int64,int64,W2,uint64,uint64,N1,W2,int64)",
    "UniTuple(int64,2)(uint32[:,::1],int64,int64,W2,uint64,uint64,N1,W2,int64)",
)
def compare(
    columns: SmallCodes,
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
    agreed = np.zeros((words, BLOCK), dtype=np.uint64)
    plane = np.zeros(BLOCK, dtype=np.uint8)
    mixed = np.zeros(BLOCK, dtype=np.uint64)
    fresh = np.zeros((BLOCK, words), dtype=np.uint64)
    for row in range(first, last):
        if count + rows > len(listed):
            return row, count
        for base in range(row + 1, rows, BLOCK):
            size = min(BLOCK, rows - base)
            _agree(columns, row, base, size, agreed, plane)
            if factor == 1:
                mixed[:size] = agreed[0, :size]
            else:
                mixed[:size] = 0
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
