"""A set of column sets: open addressing with linear probing.

Source: D. E. Knuth, *The Art of Computer Programming*, vol. 3, section 6.4.
"""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Slots, Words
from pravix.kernels.compiling import compiled, inlined


@inlined
def insert(slots: Slots, listed: Words, count: int, words: Words) -> int:
    """Add a set to ``listed`` where it is missing; return the new count. There must be room."""
    mixed = np.uint64(0x9E3779B97F4A7C15)
    for word in range(len(words)):
        mixed ^= words[word] ^ (words[word] >> np.uint64(32))
        mixed = (mixed ^ (mixed >> np.uint64(29))) * np.uint64(0xD6E8FEB86659FD93)
        mixed ^= mixed >> np.uint64(32)
    last = len(slots) - 1
    place = np.int64(mixed & np.uint64(last))
    while slots[place] != 0:
        held = slots[place] - 1
        same = True
        for word in range(len(words)):
            same &= listed[held, word] == words[word]
        if same:
            return count
        place = (place + 1) & last
    slots[place] = count + 1
    for word in range(len(words)):
        listed[count, word] = words[word]
    return count + 1


@compiled("int64(N1,W2,int64,W2)")
def insert_all(slots: Slots, listed: Words, count: int, sets: Words) -> int:
    """Add the sets that are missing; see ``insert``."""
    for number in range(len(sets)):
        count = insert(slots, listed, count, sets[number])
    return count
