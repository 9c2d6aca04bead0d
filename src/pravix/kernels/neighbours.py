"""Neighbouring rows compared, see ``pravix.discovery.neighbours``."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import CodeMatrix, Rows, Slots, Words
from pravix.kernels.compiling import compiled
from pravix.kernels.wordset import insert


@compiled("UniTuple(int64,2)(C2,C1,int64,int64,int64,int64,N1,W2,int64)")
def compare(
    matrix: CodeMatrix,
    rows: Rows,
    column: int,
    start: int,
    stride: int,
    distance: int,
    slots: Slots,
    listed: Words,
    count: int,
) -> tuple[int, int]:
    """Compare every ``stride``-th row of a position list, from ``start`` on, with one at a distance.

    Returns how many pairs share the column's value, and the new count of sets.
    """
    width = matrix.shape[1]
    agreed = np.zeros(listed.shape[1], dtype=np.uint64)
    compared = 0
    for place in range(start, len(rows) - distance, stride):
        one, other = matrix[rows[place]], matrix[rows[place + distance]]
        if one[column] == other[column]:
            for word in range(len(agreed)):
                agreed[word] = 0
            for number in range(width):
                same = np.uint64(one[number] == other[number])
                agreed[number >> 6] |= same << np.uint64(63 - (number & 63))
            compared += 1
            count = insert(slots, listed, count, agreed)
    return compared, count
