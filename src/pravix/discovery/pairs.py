"""The agree sets of all pairs of rows, for tables with few enough rows to compare each with each.

The agree set of two rows is the set of columns on which they are equal. A dependency X -> A holds
exactly when no agree set holds X and lacks A. Source: C. Beeri, M. Dowd, R. Fagin and R. Statman, "On the
structure of Armstrong relations for functional dependencies", Journal of the ACM 31(1), 1984.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import distinct, word_count
from pravix.kernels.arrays import Words

_ENOUGH = 1 << 18


def agreed(one: NDArray[np.integer], other: NDArray[np.integer]) -> Words:
    """Return the agree set of each row of ``one`` with the row of ``other``, or with the only one."""
    bits = np.packbits(one == other, axis=1)
    padded = np.zeros((len(bits), 8 * word_count(one.shape[1])), dtype=np.uint8)
    padded[:, : bits.shape[1]] = bits
    return padded.view(">u8").astype(np.uint64)


def agree_sets(matrix: NDArray[np.integer]) -> Words:
    """Return the different agree sets of all pairs of rows of a row-by-column code matrix.

    One row is compared with all later ones at a time. Time: the pairs times the columns. Memory: linear
    in the cells and in the different agree sets.
    """
    rows, width = matrix.shape
    found = np.empty((0, word_count(width)), dtype=np.uint64)
    waiting: list[Words] = []
    count = 0
    for row in range(rows - 1):
        waiting.append(agreed(matrix[row + 1 :], matrix[row]))
        count += rows - 1 - row
        if count > _ENOUGH or row == rows - 2:
            found, waiting, count = distinct(np.concatenate((found, *waiting))), [], 0
    return found
