"""Which agree sets matter: for each dependent, the largest of those that lack it.

A dependency X -> A holds exactly when no agree set that lacks A holds X; so among these only the
maximal ones count. Of two rows no pair may agree on a whole key; so for keys the maximal of all
agree sets count. (Sources: H. Mannila and K.-J. Räihä, "Algorithms for inferring functional dependencies
from relations", Data & Knowledge Engineering 12(1), 1994; S. Lopes, J.-M. Petit and L. Lakhal,
"Efficient discovery of functional dependencies and Armstrong relations", EDBT 2000.)
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import everything, from_places, holding, sizes
from pravix.kernels.arrays import Words
from pravix.progress import Progress, silent

Tightening = Callable[[Words, Words, Words, NDArray[np.bool_], Progress], None]


@dataclass(frozen=True, eq=False)
class Maximal:
    """Agree sets, each maximal for a dependent or for keys.

    ``sets`` come large ones first. ``lacked`` holds for each the dependents for which it is maximal,
    ``for_keys`` whether it is no part of another.
    """

    sets: Words
    lacked: Words
    for_keys: NDArray[np.bool_]
    width: int

    def edges(self, place: int) -> Words:
        """Return what each determinant of the column at ``place`` must hit: at ``width``, each key.

        These are the columns on which two rows differ, the dependent left out; small ones first.
        """
        return self.differing[self.chosen(place)] & self.allowed(place)

    def chosen(self, place: int) -> NDArray[np.bool_]:
        """Return which sets are maximal for the column at ``place``: at ``width``, for keys."""
        return self.for_keys if place == self.width else holding(self.lacked, place)

    def allowed(self, place: int) -> Words:
        """Return the columns that may determine the column at ``place``, as one row of words."""
        others = [one for one in range(self.width) if one != place]
        row: Words = from_places([others], self.sets.shape[1])[0]
        return row

    @cached_property
    def differing(self) -> Words:
        """The columns that each set lacks."""
        return everything(self.width) & ~self.sets


def maximal(sets: Words, width: int, tighten: Tightening, progress: Progress = silent) -> Maximal:
    """Return the sets that are maximal for something. Quadratic in these at the worst.

    ``tighten`` is one of the functions that fill in what each set lacks and all sets around it hold.
    """
    ordered = np.ascontiguousarray(sets[np.lexsort([*sets.T[::-1], -sizes(sets)])])
    lacked = np.zeros_like(ordered)
    for_keys = np.zeros(len(ordered), dtype=np.bool_)
    tighten(ordered, everything(width), lacked, for_keys, progress)
    kept = for_keys | (lacked != 0).any(axis=1)
    return Maximal(ordered[kept], lacked[kept], for_keys[kept], width)


def tighten_by_arrays(
    ordered: Words, whole: Words, lacked: Words, for_keys: NDArray[np.bool_], progress: Progress
) -> None:
    """Fill in ``lacked`` and ``for_keys``, one set against all larger ones at a time.

    A set A is maximal for a dependent exactly when A lacks it and every larger set around A holds it.
    Sets that are maximal for nothing can be left out of "every".
    """
    kept = np.empty_like(ordered)
    count = 0
    for number, one in enumerate(ordered):
        around = kept[:count][~(one & ~kept[:count]).any(axis=1)]
        lacked[number] = np.bitwise_and.reduce(np.concatenate((whole[None], around)), axis=0) & ~one
        for_keys[number] = not len(around)
        if not len(around) or lacked[number].any():
            kept[count] = one
            count += 1
        progress("comparing sets of columns", number)
