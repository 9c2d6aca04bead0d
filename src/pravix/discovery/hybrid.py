"""Discovery for tables with many rows: candidates from some pairs of rows, checked on all of them.

Neighbouring rows are compared first; their agree sets give edges, and the minimal hitting sets of the
edges are the candidates. A candidate that all rows obey is minimal as well, because every one of its
columns is needed for some edge. A pair of rows that breaks a candidate gives a new edge. The rounds end
when every candidate has been checked. (Source: the alternation of Papenbrock and Naumann, see
``neighbours``.)
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.checking import Candidate, Checking
from pravix.discovery.columnsets import from_places, places_of, without, word_count
from pravix.discovery.hitting import STEPS_FOR_A_SET, Hitting, TooManyError
from pravix.discovery.hitting_compiled import hitting_sets
from pravix.discovery.maximal import Maximal, maximal
from pravix.discovery.maximal_compiled import tighten
from pravix.discovery.neighbours import Sampling, position_lists
from pravix.discovery.pairs import agreed
from pravix.discovery.wordset import WordSet
from pravix.kernels.arrays import Words
from pravix.progress import Progress

_FIRST_YIELD = 0.001
_LOWERED = 0.25
_MANY_BROKEN = 0.1
_FIRST_CANDIDATES = 10_000
_MORE_CANDIDATES = 4
_SETS_FOR_SMALL = 30_000
"""Agree sets of neighbours that are enough to begin with where only small determinants are sought."""


class TooCostlyError(Exception):
    """There are more candidates to check than were allowed."""


def determinants(
    matrix: NDArray[np.int32],
    places: Sequence[int],
    largest: int,
    most: int,
    checks: float,
    most_sets: int,
    progress: Progress,
) -> dict[int, Hitting]:
    """Return the minimal determinants of the columns at ``places``; the place ``width`` asks for keys.

    ``largest`` limits their size. Raises TooManyError where there are more than ``most``,
    OverBudgetError where more than ``most_sets`` agree sets are met, and
    TooCostlyError where more than ``checks`` determinants would have to be checked; where their size is not
    limited, so many agree sets among neighbours foretell it. Time: a pass over the rows for each determinant
    that holds, far less for one that does not.
    """
    words = word_count(matrix.shape[1])
    lists = position_lists(matrix)
    checking = Checking(matrix, lists)
    found = WordSet(words, most_sets)
    sampling = Sampling(np.ascontiguousarray(matrix), lists, found)
    enough = _FIRST_YIELD
    progress("comparing rows", 0)
    unlimited = largest >= matrix.shape[1]
    sampling.compare(enough, checks if unlimited else _SETS_FOR_SMALL, progress)
    if unlimited and found.count > checks:
        raise TooCostlyError
    searches = [_Search(place, matrix.shape[1], largest, most) for place in places]
    sets, checked = found.sets, 0
    while True:
        kept = maximal(sets, matrix.shape[1], tighten, progress)
        waiting = [search for search in searches if search.result is None and search.propose(kept, progress)]
        if sum(len(search.confirmed) for search in searches) > most:
            raise TooManyError
        if not waiting:
            return {search.place: search.result for search in searches if search.result is not None}
        before, broken = found.count, 0
        proposals = dict(_by_determinant(waiting))
        if checked + len(proposals) > checks:
            raise TooCostlyError
        candidates = [
            Candidate(determinant, [search.place for search in asking])
            for determinant, asking in proposals.items()
        ]
        for candidate, pairs in checking.breaking_pairs(candidates):
            asking = proposals[candidate.determinant]
            for search, holds in zip(asking, pairs[:, 0] < 0, strict=True):
                if holds:
                    search.confirmed.append(candidate.determinant)
            breaking = pairs[pairs[:, 0] >= 0]
            found.add(agreed(matrix[breaking[:, 0]], matrix[breaking[:, 1]]))
            checked += 1
            broken += len(breaking)
            progress("checking combinations", checked)
        if broken > _MANY_BROKEN * sum(len(search.candidates) for search in waiting):
            enough *= _LOWERED
            sampling.compare(enough, checks if unlimited else _SETS_FOR_SMALL, progress)
        sets = np.concatenate((kept.sets, found.sets[before:]))


class _Search:
    """The determinants of one column: candidates, those confirmed by all rows, and at last the result."""

    def __init__(self, place: int, width: int, largest: int, most: int) -> None:
        self.place = place
        self.result: Hitting | None = None
        self.candidates: Words = np.empty((0, word_count(width)), dtype=np.uint64)
        self.confirmed: list[tuple[int, ...]] = []
        self._width = width
        self._largest = largest
        self._most = most
        self._steps = STEPS_FOR_A_SET * most
        self._at_once = min(_FIRST_CANDIDATES, most)

    def propose(self, kept: Maximal, progress: Progress) -> bool:
        """Collect the candidates to be checked; where there are none the search has its result."""
        edges = kept.edges(self.place)
        confirmed = from_places(self.confirmed, edges.shape[1])
        while True:
            hitting, left = hitting_sets(
                edges, self._width, self._largest, self._at_once, self._steps, progress
            )
            self.candidates = without(hitting.sets, confirmed)
            if len(self.candidates):
                return True
            if left >= 0:
                self.result = hitting
                return False
            if self._at_once >= self._most or len(hitting.sets) <= self._at_once:
                raise TooManyError
            self._at_once *= _MORE_CANDIDATES


def _by_determinant(searches: Sequence[_Search]) -> Iterator[tuple[tuple[int, ...], list[_Search]]]:
    """Yield each determinant proposed, once, with the searches that proposed it."""
    proposed = np.concatenate([search.candidates for search in searches])
    owners = np.repeat(np.arange(len(searches)), [len(search.candidates) for search in searches])
    order = np.lexsort(proposed.T[::-1])
    proposed, owners = proposed[order], owners[order]
    starts = np.flatnonzero(np.concatenate(([True], (proposed[1:] != proposed[:-1]).any(axis=1))))
    for first, last in pairwise((*starts.tolist(), len(proposed))):
        yield places_of(proposed[first]), [searches[owner] for owner in owners[first:last].tolist()]
