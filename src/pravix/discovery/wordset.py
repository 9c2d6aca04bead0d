"""A growing set of column sets, kept for the inner loops."""

from __future__ import annotations

import numpy as np

from pravix.discovery.budget import OverBudgetError
from pravix.kernels.arrays import Slots, Words
from pravix.kernels.wordset import insert_all


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
