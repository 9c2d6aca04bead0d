"""Discovery where nothing else ends in time: combinations of one column, then of two, as far as time allows.

Each combination is checked on the rows for the dependents that no part of it determines. (Source for the
order and the pruning: Y. Huhtala, J. Kärkkäinen, P. Porkka and H. Toivonen, "TANE", The Computer Journal
42(2), 1999.)
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations, islice

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.budget import Allowance, OverBudgetError
from pravix.discovery.checking import Candidate, Checking
from pravix.discovery.columnsets import from_places, word_count
from pravix.discovery.hitting import Hitting
from pravix.discovery.neighbours import position_lists
from pravix.progress import Progress
from pravix.theory.bits import bit_places

_AT_ONCE = 512
_BYTES_A_COMBINATION = 256

_Found = dict[int, list[tuple[int, ...]]]


def by_levels(
    matrix: NDArray[np.int32],
    places: Sequence[int],
    largest: int,
    most: int,
    allowed: Allowance,
    progress: Progress,
) -> tuple[dict[int, Hitting], int]:
    """Return the minimal determinants of the columns at ``places``, and the size up to which they are all.

    The size is at most ``largest``, and smaller where the time or the memory ends or more than ``most`` would
    be found; single columns are always looked at, for a design without them would be none. Time:
    a pass over the rows for each combination, and far less for one that breaks at once.
    """
    width = matrix.shape[1]
    checking = Checking(matrix, position_lists(matrix))
    found: _Found = {place: [] for place in places}
    known: dict[tuple[int, ...], int] = {}
    size = -1
    watched = allowed.watching(progress, share=1.0)
    try:
        for size in range(largest + 1):
            told = watched if size > 1 else progress
            fresh, known = _level(checking, width, places, size, known, allowed, told)
            if sum(map(len, found.values())) + sum(map(len, fresh.values())) > most:
                raise OverBudgetError
            for place, sets in fresh.items():
                found[place] += sets
        size += 1
    except (OverBudgetError, MemoryError):
        pass
    words = word_count(width)
    cut = size - 1 < width
    return {place: Hitting(from_places(sets, words), cut) for place, sets in found.items()}, max(size - 1, 0)


def _level(
    checking: Checking,
    width: int,
    places: Sequence[int],
    size: int,
    known: dict[tuple[int, ...], int],
    allowed: Allowance,
    progress: Progress,
) -> tuple[_Found, dict[tuple[int, ...], int]]:
    """Return what combinations of ``size`` columns determine and no part of them does.

    ``known`` says for each smaller combination, as bits, what it determines; the same is returned for these.
    """
    fresh: _Found = {place: [] for place in places}
    determined: dict[tuple[int, ...], int] = {}
    waiting = _candidates(width, places, size, known, determined)
    while some := list(islice(waiting, _AT_ONCE)):
        for candidate, pairs in checking.breaking_pairs(some):
            for place, holds in zip(candidate.dependents, (pairs[:, 0] < 0).tolist(), strict=True):
                if holds:
                    fresh[place].append(candidate.determinant)
                    determined[candidate.determinant] |= 1 << place
        progress("checking combinations", len(determined))
        if len(determined) * _BYTES_A_COMBINATION > allowed.bytes:
            raise OverBudgetError
    return fresh, determined


def _candidates(
    width: int,
    places: Sequence[int],
    size: int,
    known: dict[tuple[int, ...], int],
    determined: dict[tuple[int, ...], int],
) -> Iterator[Candidate]:
    """Yield the combinations that may determine something new, and note for each what its parts determine."""
    everything = sum(1 << place for place in places)
    for combination in combinations(range(width), size):
        bits = 0
        for part in combinations(combination, size - 1) if size else ():
            bits |= known[part]
        for place in combination:
            bits |= 1 << place
        determined[combination] = bits
        left = everything & ~bits
        if left:
            yield Candidate(combination, bit_places(left))
