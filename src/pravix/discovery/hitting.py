"""Minimal hitting sets: the smallest sets of columns that share a column with every edge.

The edges are sets of columns on which rows differ (see ``maximal``); their minimal hitting sets are the
determinants of the minimal dependencies, or the minimal keys. The search goes down column by column. At
each step it takes an edge that is not hit yet and tries each of its columns; a column is refused when it
leaves an earlier one without an edge that only that one hits, for then the earlier one is needless. Of
the columns of the edge, those not yet tried are barred below, so that every set is met once.

Source: the algorithm MMCS of K. Murakami and T. Uno, "Efficient algorithms for dualizing large-scale
hypergraphs", Discrete Applied Mathematics 170, 2014; for dependencies see T. Bleifuss, T. Papenbrock,
T. Bläsius, M. Schirneck and F. Naumann, "Discovering functional dependencies through hitting set
enumeration", SIGMOD 2024.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pravix.discovery.columnsets import from_integers, to_integers
from pravix.kernels.arrays import Words

LOOKED_AT = 12
"""How many edges that are not hit are compared to find one with few columns to try."""

STEPS_FOR_A_SET = 100
"""Combinations that a search looks at, for each that it may keep, before it limits their size."""


class TooManyError(Exception):
    """The search took more steps than it was given."""


@dataclass(frozen=True, eq=False)
class Hitting:
    """Minimal hitting sets; ``cut`` says that there may be more of them, larger than was searched."""

    sets: Words
    cut: bool


def hitting_sets(edges: Words, width: int, largest: int, steps: int) -> tuple[Hitting, int]:
    """Return the minimal hitting sets of at most ``largest`` columns, and how many steps are left.

    ``edges`` are sets of some of ``width`` columns, none holding another. Raises TooManyError when more than
    ``steps`` sets are looked at. Each step costs a few operations on integers of as many bits as there
    are edges.
    """
    search = _Search(to_integers(edges), 64 * edges.shape[1], largest, steps)
    every = (1 << len(edges)) - 1
    bits = [1 << search.width - 1 - place for place in range(width)]
    found = list(search.below(0, every, [], sum(bits)))
    return Hitting(from_integers(found, edges.shape[1]), search.cut), search.steps


class _Search:
    """One search; columns are bits of an integer, and so are edges of another."""

    def __init__(self, edges: Sequence[int], width: int, largest: int, steps: int) -> None:
        self.edges = edges
        self.width = width
        self.largest = largest
        self.steps = steps
        self.cut = False
        self.hit_by: dict[int, int] = {}
        for number, edge in enumerate(edges):
            while edge:
                column = edge & -edge
                self.hit_by[column] = self.hit_by.get(column, 0) | 1 << number
                edge ^= column

    def below(self, chosen: int, missed: int, critical: list[int], allowed: int) -> Iterator[int]:
        """Yield the minimal hitting sets that add only ``allowed`` columns to the chosen ones.

        ``missed`` are the edges not hit; ``critical`` holds for each chosen column the edges that it alone
        hits.
        """
        if not missed:
            yield chosen
            return
        if len(critical) >= self.largest:
            self.cut = True
            return
        tried = self._narrowest(missed, allowed)
        if len(critical) + 1 == self.largest:
            tried, narrowest = self._in_all(missed, tried), tried
            self.cut |= tried != narrowest
        allowed &= ~tried
        while tried:
            column = 1 << tried.bit_length() - 1
            tried ^= column
            self.steps -= 1
            if self.steps < 0:
                raise TooManyError
            hit = self.hit_by[column]
            narrowed = [edges & ~hit for edges in critical]
            if all(narrowed):
                yield from self.below(chosen | column, missed & ~hit, [*narrowed, missed & hit], allowed)
                allowed |= column

    def _in_all(self, missed: int, columns: int) -> int:
        """Return those of the columns that each edge not hit has: the last column must hit them all."""
        while missed and columns:
            edge = missed & -missed
            missed ^= edge
            columns &= self.edges[edge.bit_length() - 1]
        return columns

    def _narrowest(self, missed: int, allowed: int) -> int:
        """Return the allowed columns of an edge that is not hit: of a few edges, of the one with fewest."""
        best, fewest = 0, self.width + 1
        for _ in range(LOOKED_AT):
            if not missed:
                break
            edge = missed & -missed
            missed ^= edge
            columns = self.edges[edge.bit_length() - 1] & allowed
            if columns.bit_count() < fewest:
                best, fewest = columns, columns.bit_count()
        return best
