"""The agree sets of pairs of rows, see ``pravix.discovery.pairs``.

One row is compared with a block of rows at a time, column by column, so that the processor compares
many cells with one instruction. The columns are taken in eights: a plane holds one byte of the agree set
of every row of the block.
"""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bytes, Planes, Slots, SmallCodes, Words
from pravix.kernels.compiling import compiled, inlined
from pravix.kernels.mixing import MULTIPLIER
from pravix.kernels.wordset import insert_all

BLOCK = 4096


@inlined
def _agree(columns: SmallCodes, row: int, first: int, size: int, planes: Planes) -> None:
    """Fill in the agree sets of a row with ``size`` rows from ``first`` on."""
    width = columns.shape[0]
    for eight in range(len(planes)):
        plane = planes[eight]
        plane[:size] = 0
        for number in range(8 * eight, min(8 * eight + 8, width)):
            column = columns[number, first : first + size]
            value = columns[number, row]
            bit = np.uint8(128 >> (number - 8 * eight))
            for place in range(size):
                plane[place] |= bit if column[place] == value else np.uint8(0)


@inlined
def _put_together(planes: Planes, first: int, last: int, size: int, sets: Words) -> None:
    """Put the planes from ``first`` to before ``last`` together, the first one in the highest byte."""
    sets[:size] = 0
    for eight in range(first, last):
        plane = planes[eight]
        shift = np.uint64(56 - 8 * (eight - first))
        for place in range(size):
            sets[place] |= np.uint64(plane[place]) << shift


@compiled(
    "void(uint8[:,::1],int64,int64,int64,B1)",
    "void(uint16[:,::1],int64,int64,int64,B1)",
    "void(uint32[:,::1],int64,int64,int64,B1)",
)
def mark(columns: SmallCodes, first: int, last: int, base: int, met: Bytes) -> None:
    """Compare the rows from ``first`` to before ``last`` with the later ones of the block from ``base`` on.

    ``met`` has a place for each set of columns, the first column the highest bit; those met become 1.
    """
    width, rows = columns.shape
    planes = np.zeros(((width + 7) // 8, BLOCK), dtype=np.uint8)
    sets = np.zeros(BLOCK, dtype=np.uint32)
    shift = np.uint32(8 * len(planes) - width)
    end = min(base + BLOCK, rows)
    for row in range(first, min(last, end - 1)):
        begin = max(base, row + 1)
        size = end - begin
        _agree(columns, row, begin, size, planes)
        sets[:size] = 0
        for plane in planes:
            for place in range(size):
                sets[place] = sets[place] << np.uint32(8) | np.uint32(plane[place])
        for place in range(size):
            met[sets[place] >> shift] = 1


@compiled(
    "UniTuple(int64,2)(uint8[:,::1],int64,int64,int64,W2,uint64,N1,W2,int64)",
    "UniTuple(int64,2)(uint16[:,::1],int64,int64,int64,W2,uint64,N1,W2,int64)",
    "UniTuple(int64,2)(uint32[:,::1],int64,int64,int64,W2,uint64,N1,W2,int64)",
)
def compare(
    columns: SmallCodes,
    first: int,
    last: int,
    base: int,
    recent: Words,
    shift: np.uint64,
    slots: Slots,
    listed: Words,
    count: int,
) -> tuple[int, int]:
    """Compare the rows from ``first`` to before ``last`` with the later ones of the block from ``base`` on.

    ``recent`` holds sets met before, each at the place that the highest bits of its mixed words give, what
    ``shift`` leaves of them; a set found there is passed over. Stops before a row for which there might be
    no room. Returns the next row and the new count of sets.
    """
    rows, words = columns.shape[1], listed.shape[1]
    planes = np.zeros(((columns.shape[0] + 7) // 8, BLOCK), dtype=np.uint8)
    agreed = np.zeros((words, BLOCK), dtype=np.uint64)
    mixed = np.zeros(BLOCK, dtype=np.uint64)
    fresh = np.zeros((BLOCK, words), dtype=np.uint64)
    end = min(base + BLOCK, rows)
    for row in range(first, min(last, end - 1)):
        begin = max(base, row + 1)
        size = end - begin
        if count + size > len(listed):
            return row, count
        _agree(columns, row, begin, size, planes)
        mixed[:size] = 0
        for word in range(words):
            _put_together(planes, 8 * word, min(8 * word + 8, len(planes)), size, agreed[word])
            for place in range(size):
                mixed[place] = (mixed[place] ^ agreed[word, place]) * MULTIPLIER
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
