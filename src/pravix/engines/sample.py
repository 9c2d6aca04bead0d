"""Some rows of a flat table that stays elsewhere, and others added that tell what these do not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from copy import copy
from operator import itemgetter

import numpy as np

from pravix.engines.flat import Flat
from pravix.engines.place import Row
from pravix.relation.relation import Column, Relation

ROWS = 50_000
"""About so many rows are drawn."""

Texts = tuple[str, ...]


class Sample:
    """Rows drawn from a flat table, and those fetched since.

    A row that is there is not added again, but as often as a statement gives it: so two rows of the sample
    are equal only where two of the table are. ``cleaned`` makes the cells of a relation plain, as it was
    found to be right for the table.
    """

    def __init__(self, flat: Flat, cleaned: Callable[[Relation], Relation], rows: int = ROWS) -> None:
        self.flat = flat
        self.cleaned = cleaned
        self._rows: list[Texts] = []
        self._numbers: list[int] = []
        self._held: Counter[Texts] = Counter()
        self._known: dict[str, str] = {}
        self.add(flat.sample(rows))

    def copied(self) -> Sample:
        """Return a sample with the same rows, to which others can be added."""
        made = copy(self)
        made._rows, made._numbers, made._held = list(self._rows), list(self._numbers), Counter(self._held)
        return made

    def __len__(self) -> int:
        return len(self._rows)

    def add(self, fetched: Iterable[Row]) -> int:
        """Add the rows of one statement that are not there yet; return how many they are."""
        before = len(self._rows)
        seen: Counter[Texts] = Counter()
        numbered = self.flat.numbered is not None
        known = self._known
        for row in fetched:
            texts = tuple(known.setdefault(cell, cell) for cell in self.flat.texts(row))
            seen[texts] += 1
            if seen[texts] > self._held[texts]:
                self._held[texts] += 1
                self._rows.append(texts)
                self._numbers.append(int(row[0]) + self.flat.first_row if numbered else len(self._rows))
        return len(self._rows) - before

    def relation(self, start: int = 0) -> Relation:
        """Return the rows from ``start`` on."""
        return self._coded(self.flat.names, start)

    def relation_of(self, fetched: Iterable[Row]) -> Relation:
        """Return fetched rows, whether they are in the sample or not."""
        return self.cleaned(Relation.from_rows(self.flat.names, list(map(self.flat.texts, fetched))))

    def column(self, name: str) -> Column:
        """Return the cells of one column."""
        return self._coded([name], 0).columns[0]

    def _coded(self, names: Sequence[str], start: int) -> Relation:
        """Return some columns of the rows from ``start`` on; equal texts are one object, so this is quick."""
        rows = self._rows[start:]
        places = {name: place for place, name in enumerate(self.flat.names)}
        columns = tuple(Column.from_texts(name, map(itemgetter(places[name]), rows)) for name in names)
        return self.cleaned(Relation(columns, np.array(self._numbers[start:], dtype=np.int64)))
