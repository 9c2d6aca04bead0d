"""Grouping of many rows in compiled code, by a hash table instead of by sorting."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from pravix.relation.compiling import compiled


@compiled
def dense(keys: NDArray[np.int64]) -> NDArray[np.intp]:
    """Return the number of each key, counted from 0 in the order of first appearance. Linear."""
    size = 1
    while size < 2 * len(keys):
        size *= 2
    first = np.full(size, -1, dtype=np.int64)
    numbers = np.empty(len(keys), dtype=np.intp)
    count = 0
    for place in range(len(keys)):
        mixed = np.uint64(keys[place]) * np.uint64(0x9E3779B97F4A7C15)
        slot = np.int64((mixed ^ (mixed >> np.uint64(32))) & np.uint64(size - 1))
        while first[slot] >= 0 and keys[first[slot]] != keys[place]:
            slot = (slot + 1) & (size - 1)
        if first[slot] < 0:
            first[slot] = place
            numbers[place] = count
            count += 1
        else:
            numbers[place] = numbers[first[slot]]
    return numbers
