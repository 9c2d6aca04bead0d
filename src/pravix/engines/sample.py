"""Some rows of a flat table that stays elsewhere, and others added that tell what these do not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Sequence
from copy import copy

from pravix.engines.flat import Flat
from pravix.engines.place import Row
from pravix.errors import InputError
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Column, Relation
from pravix.sources.coding import coded_relation

ROWS = 100_000
"""About so many rows are drawn."""

_SETTLING = 5_000
"""Where not more rows than these agree with another on some columns, all of them are fetched."""

_NEARLY_UNIQUE = 0.9

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
        self.add(flat.sample(rows))

    def copied(self) -> Sample:
        """Return a sample with the same rows, to which others can be added."""
        made = copy(self)
        made._rows, made._numbers, made._held = list(self._rows), list(self._numbers), Counter(self._held)
        return made

    def __len__(self) -> int:
        return len(self._rows)

    def add(self, fetched: Sequence[Row]) -> int:
        """Add the rows of one statement that are not there yet; return how many they are."""
        before = len(self._rows)
        seen: Counter[Texts] = Counter()
        numbered = self.flat.numbered is not None
        for row, texts in zip(fetched, map(tuple, self.flat.texts(fetched)), strict=True):
            seen[texts] += 1
            if seen[texts] > self._held[texts]:
                self._held[texts] += 1
                self._rows.append(texts)
                self._numbers.append(int(row[0]) + self.flat.first_row if numbered else len(self._rows))
        return len(self._rows) - before

    def relation(self, start: int = 0) -> Relation:
        """Return the rows from ``start`` on."""
        return self.cleaned(coded_relation(self.flat.names, self._rows[start:], self._numbers[start:]))

    def column(self, name: str) -> Column:
        """Return the cells of one column."""
        place = self.flat.names.index(name)
        texts = [(row[place],) for row in self._rows]
        return self.cleaned(coded_relation([name], texts, self._numbers)).columns[0]


class Asked:
    """All rows, as a search asks them through a sample; see ``pravix.discovery.refuting.Elsewhere``.

    ``tested`` is the flat table with the columns that are searched, ``searched`` makes rows of these from
    rows of the sample. With ``settling`` all rows that agree on some columns are fetched where they are
    few: that pays where every rule is asked about.
    """

    def __init__(
        self, sample: Sample, tested: Flat, searched: Callable[[Relation], Relation], settling: bool = True
    ) -> None:
        self._sample = sample
        self._settling = settling
        self._tested = tested
        self._searched = searched
        self.begun()

    def begun(self) -> Relation:
        """Return the sample as it is searched, and begin to keep apart what is added."""
        self._start = len(self._sample)
        self._relation = self._searched(self._sample.relation())
        return self._relation

    def broken(
        self, determinant: Collection[str], dependents: Sequence[str], as_key: bool
    ) -> tuple[frozenset[str], bool, bool]:
        """As said there: on a part of the groups first, where the engine can, then on all."""
        flat, wrong, left, shared = self._tested, set[str](), list(dependents), False

        def ask(parts: int) -> bool:
            """Ask for rows that break what is left; return whether there are any."""
            nonlocal shared, left
            found = flat.breaking(determinant, left, parts, as_key and not shared)
            for rows in flat.rows_of(determinant, found):
                self._sample.add(rows)
            wrong.update(name for one in found for name in one.ends)
            left = [name for name in left if name not in wrong]
            shared = shared or bool(found)
            return bool(found)

        if flat.slices > 1 and determinant and ask(flat.slices) and not left:
            return frozenset(wrong), True, False
        if as_key and not shared and flat.size(determinant) == flat.row_count:
            return frozenset(wrong), False, True
        if self._settling and self._nearly_unique(determinant):
            summary = flat.summary(determinant, left)
            if summary.sharing <= _SETTLING:
                self._sample.add(flat.sharing_rows(determinant))
                return summary.broken | wrong, summary.sharing > 0, True
        while (left or (as_key and not shared)) and ask(1):
            pass
        return frozenset(wrong), shared, False

    def _nearly_unique(self, determinant: Collection[str]) -> bool:
        """Return whether few rows of the sample agree on some columns, so that few of all may."""
        rows = self._relation
        return groupings_of(rows).size(determinant) >= _NEARLY_UNIQUE * rows.row_count

    def witnesses(self) -> Relation:
        """As said there. Raises InputError for none: then cells are told apart that look alike."""
        if len(self._sample) == self._start:
            raise InputError(
                f"{self._tested.place.name} tells cells apart that are read as the same text",
                "Name the columns of interest in a query, each as a text: --query",
            )
        return self._searched(self._sample.relation(self._start))
