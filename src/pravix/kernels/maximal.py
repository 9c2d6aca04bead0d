"""The maximal agree sets, see ``pravix.discovery.maximal``.

Sixty-four larger sets are compared at a time: for each column one word says which of them hold it, and
the words of the columns of a set, taken together, say which of them lie around it.
"""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Flags, Words
from pravix.kernels.compiling import compiled


@compiled("int64(W2,W1,W2,F1,W2,W2,int64,int64,int64)")
def tighten(
    ordered: Words,
    whole: Words,
    lacked: Words,
    for_keys: Flags,
    kept: Words,
    holders: Words,
    first: int,
    last: int,
    count: int,
) -> int:
    """Fill in what the sets from ``first`` to before ``last`` lack; return how many sets are kept by then."""
    words = ordered.shape[1]
    columns = np.empty(64 * words, dtype=np.int64)
    common = np.empty(words, dtype=np.uint64)
    for number in range(first, last):
        size, alone, left = 0, True, np.uint64(0)
        for word in range(words):
            common[word] = whole[word] & ~ordered[number, word]
            left |= common[word]
            for bit in range(64):
                if ordered[number, word] >> np.uint64(63 - bit) & np.uint64(1):
                    columns[size] = 64 * word + bit
                    size += 1
        for block in range((count + 63) // 64):
            rest = count - 64 * block
            around = ~np.uint64(0) if rest >= 64 else (np.uint64(1) << np.uint64(rest)) - np.uint64(1)
            for place in range(size):
                around &= holders[block, columns[place]]
                if around == 0:
                    break
            other = 64 * block
            while around != 0:
                if around & np.uint64(1):
                    alone, left = False, np.uint64(0)
                    for word in range(words):
                        common[word] &= kept[other, word]
                        left |= common[word]
                around >>= np.uint64(1)
                other += 1
            if left == 0 and not alone:
                break
        if alone or left != 0:
            for word in range(words):
                kept[count, word] = ordered[number, word]
                lacked[number, word] = common[word]
            for place in range(size):
                holders[count // 64, columns[place]] |= np.uint64(1) << np.uint64(count % 64)
            for_keys[number] = alone
            count += 1
    return count
