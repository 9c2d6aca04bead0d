"""Dependencies made ready for many closures: grouped by determinant, with columns as bits.

Source: the counting algorithm of C. Beeri and P. A. Bernstein, "Computational problems related to the
design of normal form relational schemas", ACM TODS 4(1), 1979, on groups instead of single dependencies.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable

from pravix.theory.bits import bit_places
from pravix.theory.dependency import Dependency


class RuleIndex:
    """A set of dependencies to which single ones can be added, and from which they can be taken out.

    Sets of columns are whole numbers, one bit a column (see ``bits``). A closure costs as many steps as
    different determinants hold a column that is reached, whatever the number of dependents.
    """

    def __init__(self, dependencies: Iterable[Dependency]) -> None:
        self._bit: dict[str, int] = {}
        self._group: dict[frozenset[str], int] = {}
        self._determinants: list[int] = []
        self._dependents: list[int] = []
        self._sizes: list[int] = []
        self._free: list[int] = []
        self._deciding = self._given = 0
        self._waiting: dict[int, list[int]] = {}
        self._given_by: dict[str, set[int]] = {}
        for rule in dependencies:
            self.add(rule)

    def add(self, rule: Dependency) -> None:
        """Add a dependency."""
        group = self._group.setdefault(rule.determinant, len(self._determinants))
        if group == len(self._determinants):
            determinant = self.bits(rule.determinant)
            self._determinants.append(determinant)
            self._dependents.append(0)
            self._sizes.append(determinant.bit_count())
            self._deciding |= determinant
            for place in bit_places(determinant):
                self._waiting.setdefault(place, []).append(group)
            if not determinant:
                self._free.append(group)
        dependent = self.bits([rule.dependent])
        self._dependents[group] |= dependent
        self._given |= dependent
        self._given_by.setdefault(rule.dependent, set()).add(group)

    def bits(self, columns: Iterable[str]) -> int:
        """Return a set of columns as a number; a column that no dependency knows gets a bit of its own."""
        found = 0
        for column in columns:
            found |= 1 << self._bit.setdefault(column, len(self._bit))
        return found

    def closure(self, columns: int, without: Dependency | None = None, until: int = 0) -> int:
        """Return all columns that some columns determine, with one dependency left out if need be.

        Where all of the columns ``until`` are reached it may be less.
        """
        left_out = -1 if without is None else self._group.get(without.determinant, -1)
        kept_from = 0 if without is None else self.bits([without.dependent])
        missing = dict[int, int]()
        reached, queue = columns, bit_places(columns & self._deciding)
        ready = list(self._free)
        while True:
            for group in ready:
                dependents = self._dependents[group]
                if group == left_out:
                    dependents &= ~kept_from
                new = dependents & ~reached
                if new:
                    reached |= new
                    if until and not until & ~reached:
                        return reached
                    queue += bit_places(new & self._deciding)
            ready = []
            if not queue:
                return reached
            for group in self._waiting.get(queue.pop(), ()):
                missing[group] = missing.get(group, self._sizes[group]) - 1
                if missing[group] == 0:
                    ready.append(group)

    def reached(self, columns: Iterable[str]) -> frozenset[str]:
        """Return the names of all columns that some columns determine."""
        found = self.closure(self.bits(columns))
        bits = f"{found:b}"[::-1]
        return frozenset(name for name, bit in zip(self._bit, bits, strict=False) if bit == "1")

    def determines(self, columns: Collection[str], others: Collection[str]) -> bool:
        """Return whether some columns determine all of some others."""
        return self.reaches(self.bits(columns), self.bits(others))

    def reaches(self, columns: int, wanted: int) -> bool:
        """Return the same for sets as numbers: at once where a column that none gives is wanted."""
        if wanted & ~(columns | self._given):
            return False
        return not wanted & ~self.closure(columns, until=wanted)

    def implies(self, rule: Dependency, without: Dependency | None = None) -> bool:
        """Return whether a rule follows, with one dependency left out if need be."""
        if rule.dependent in rule.determinant:
            return True
        given_by = self._given_by.get(rule.dependent, set())
        if without is not None and without.dependent == rule.dependent:
            given_by = given_by - {self._group.get(without.determinant, -1)}
        if not given_by:
            return False
        determinant, wanted = self.bits(rule.determinant), self.bits([rule.dependent])
        at_once = self._dependents[self._group[rule.determinant]] if rule.determinant in self._group else 0
        if without is not None and without.determinant == rule.determinant:
            at_once &= ~self.bits([without.dependent])
        at_once |= determinant
        if any(not self._determinants[group] & ~at_once for group in given_by):
            return True
        return bool(self.closure(determinant, without, wanted) & wanted)

    def discard(self, rule: Dependency) -> None:
        """Take one of the dependencies out."""
        group = self._group[rule.determinant]
        self._dependents[group] &= ~self.bits([rule.dependent])
        self._given_by[rule.dependent].discard(group)
