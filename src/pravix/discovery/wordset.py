"""A set of column sets in compiled code: open addressing with linear probing.

Source: D. E. Knuth, *The Art of Computer Programming*, vol. 3, section 6.4.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.budget import OverBudgetError
from pravix.discovery.columnsets import Words
from pravix.relation.compiling import compiled

Slots = NDArray[np.int64]
"""A power of two of slots; each holds the number of a set, counted from 1, or 0 where it is free."""


@compiled
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


@compiled
def insert_all(slots: Slots, listed: Words, count: int, sets: Words) -> int:
    """Add the sets that are missing; see ``insert``."""
    for number in range(len(sets)):
        count = insert(slots, listed, count, sets[number])
    return count


class WordSet:
    """A growing set of at most so many column sets, listed in the order in which they came.

    Compiled code is handed ``slots``, ``listed`` and ``count``, and returns the new count.
    """

    def __init__(self, words: int, most: int) -> None:
        self.slots: Slots = np.zeros(1 << 12, dtype=np.int64)
        self.listed: Words = np.zeros((1 << 11, words), dtype=np.uint64)
        self.count = 0
        self._most = most

    def make_room(self, more: int) -> None:
        """See that ``more`` sets can be added with half of the slots left free.

        Raises OverBudgetError where there are more than ``most`` already.
        """
        if self.count > self._most:
            raise OverBudgetError
        size = len(self.listed)
        while size < self.count + more:
            size *= 2
        if size > len(self.listed):
            held = self.sets
            self.slots = np.zeros(2 * size, dtype=np.int64)
            self.listed = np.zeros((size, held.shape[1]), dtype=np.uint64)
            insert_all(self.slots, self.listed, 0, held)

    def add(self, sets: Words) -> None:
        """Add the sets that are missing."""
        self.make_room(len(sets))
        self.count = insert_all(self.slots, self.listed, self.count, sets)

    @property
    def sets(self) -> Words:
        """The sets so far."""
        return self.listed[: self.count]
