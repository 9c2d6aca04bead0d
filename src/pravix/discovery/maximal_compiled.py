"""The maximal agree sets in compiled code; see ``maximal``."""

from __future__ import annotations

import numpy as np

from pravix.kernels import maximal
from pravix.kernels.arrays import Flags, Words
from pravix.progress import Progress

_AT_ONCE = 1 << 12


def tighten(ordered: Words, whole: Words, lacked: Words, for_keys: Flags, progress: Progress) -> None:
    """Do what ``tighten_by_arrays`` does, and stop at the first larger sets that leave nothing."""
    kept = np.empty_like(ordered)
    holders = np.zeros((len(ordered) // 64 + 1, 64 * ordered.shape[1]), dtype=np.uint64)
    count = 0
    for first in range(0, len(ordered), _AT_ONCE):
        last = min(first + _AT_ONCE, len(ordered))
        count = maximal.tighten(ordered, whole, lacked, for_keys, kept, holders, first, last, count)
        progress("comparing sets of columns", last)
