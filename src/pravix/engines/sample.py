"""Some rows of a flat table that stays elsewhere, and others added that tell what these do not."""

from __future__ import annotations

from array import array
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from copy import copy
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from pravix.engines.flat import Flat
from pravix.engines.place import Row
from pravix.relation.relation import BLANK, Column, Relation

ROWS = 50_000
"""About so many rows are drawn."""

_AT_ONCE = 4_000


class Sample:
    """Rows drawn from a flat table, and those fetched since, coded as they come.

    A row that is there is not added again, but as often as a statement gives it: so two rows of the sample
    are equal only where two of the table are. ``cleaned`` makes the cells of a relation plain, as it was
    found to be right for the table.
    """

    def __init__(self, flat: Flat, cleaned: Callable[[Relation], Relation], rows: int = ROWS) -> None:
        self.flat = flat
        self.cleaned = cleaned
        self._codes = array("i")
        self._numbers: list[int] = []
        self._held: Counter[tuple[int, ...]] = Counter()
        self._known: list[dict[str, int]] = [{"": BLANK} for _ in flat.names]
        self.add(flat.sample(rows))

    def copied(self) -> Sample:
        """Return a sample with the same rows, to which others can be added."""
        made = copy(self)
        made._codes, made._numbers, made._held = self._codes[:], list(self._numbers), Counter(self._held)
        made._known = [dict(known) for known in self._known]
        return made

    def __len__(self) -> int:
        return len(self._numbers)

    def add(self, fetched: Iterable[Row]) -> int:
        """Add the rows of one statement that are not there yet; return how many they are."""
        before = len(self)
        seen: Counter[tuple[int, ...]] = Counter()
        rows = iter(fetched)
        while some := list(islice(rows, _AT_ONCE)):
            numbers = None if self.flat.numbered is None else [int(row[0]) for row in some]
            for place, codes in enumerate(zip(*map(_coded, self._known, self.flat.texts(some)), strict=True)):
                seen[codes] += 1
                if seen[codes] > self._held[codes]:
                    self._held[codes] += 1
                    self._codes.extend(codes)
                    number = len(self) + 1 if numbers is None else numbers[place] + self.flat.first_row
                    self._numbers.append(number)
        return len(self) - before

    def relation(self, start: int = 0) -> Relation:
        """Return the rows from ``start`` on."""
        columns = (self._column(place, start) for place in range(len(self._known)))
        return self.cleaned(Relation(tuple(columns), np.array(self._numbers[start:], dtype=np.int64)))

    def relation_of(self, fetched: Iterable[Row]) -> Relation:
        """Return fetched rows, whether they are in the sample or not."""
        rows = list(zip(*self.flat.texts(list(fetched)), strict=True))
        return self.cleaned(Relation.from_rows(self.flat.names, rows))

    def column(self, name: str) -> Column:
        """Return the cells of one column."""
        one = self._column(self.flat.names.index(name), 0)
        return self.cleaned(Relation((one,), np.array(self._numbers, dtype=np.int64))).columns[0]

    def different(self, name: str) -> int:
        """Return how many different cells a column has here, a blank too."""
        return len(self._known[self.flat.names.index(name)])

    def _column(self, place: int, start: int) -> Column:
        name, values = self.flat.names[place], list(self._known[place])
        codes: NDArray[np.int32] = np.array(self._codes[place + start * len(self._known) :: len(self._known)])
        if start:
            return Column.from_texts(name, [values[code] for code in codes.tolist()])
        return Column(name, codes, values)


def _coded(known: dict[str, int], texts: Sequence[str]) -> list[int]:
    """Return the codes of some texts; those that are not ``known`` get the next ones."""
    for text in dict.fromkeys(texts):
        known.setdefault(text, len(known))
    return [known[text] for text in texts]
