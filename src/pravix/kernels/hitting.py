"""The search for minimal hitting sets, see ``pravix.discovery.hitting``; it can be taken up again."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Places, Words
from pravix.kernels.compiling import compiled, inlined

DONE, FULL, DEEPER = 0, 1, 2


@inlined
def _bits(word: np.uint64) -> np.uint64:
    word = word - ((word >> np.uint64(1)) & np.uint64(0x5555555555555555))
    word = (word & np.uint64(0x3333333333333333)) + ((word >> np.uint64(2)) & np.uint64(0x3333333333333333))
    word = (word + (word >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return (word * np.uint64(0x0101010101010101)) >> np.uint64(56)


@inlined
def _narrowest(edges: Words, missed: Words, allowed: Words, looked_at: int) -> int:
    """Return the edge, of the first few not hit, with fewest allowed columns; -1 where all are hit."""
    best, fewest, looked = -1, np.uint64(1 << 62), 0
    for word in range(len(missed)):
        rest = missed[word]
        while rest != 0:
            lowest = rest & (~rest + np.uint64(1))
            rest ^= lowest
            number = 64 * word + int(_bits(lowest - np.uint64(1)))
            columns = np.uint64(0)
            for part in range(len(allowed)):
                columns += _bits(edges[number, part] & allowed[part])
            if columns < fewest:
                best, fewest = number, columns
            looked += 1
            if looked == looked_at or fewest <= 1:
                return best
    return best


@inlined
def _keep_common(edges: Words, missed: Words, columns: Words) -> bool:
    """Leave of the columns those that each edge not hit has; return whether others were left out."""
    dropped = False
    for word in range(len(missed)):
        rest = missed[word]
        while rest != 0:
            lowest = rest & (~rest + np.uint64(1))
            rest ^= lowest
            number = 64 * word + int(_bits(lowest - np.uint64(1)))
            some = np.uint64(0)
            for part in range(len(columns)):
                left = columns[part] & edges[number, part]
                dropped |= left != columns[part]
                columns[part] = left
                some |= left
            if some == 0:
                return dropped
    return dropped


@compiled("UniTuple(int64,3)(W2,W2,int64,int64,int64,W2,W2,W2,W2,N1,N1,W2)")
def search_on(
    edges: Words,
    hit_by: Words,
    largest: int,
    looked_at: int,
    steps: int,
    missed: Words,
    critical: Words,
    allowed: Words,
    untried: Words,
    chosen: Places,
    place: Places,
    out: Words,
) -> tuple[int, int, int]:
    """Search on until done, out of steps, ``out`` is full or the levels do not suffice.

    Returns which, how many sets were found, and how many steps it took.
    """
    words, spans = edges.shape[1], hit_by.shape[1]
    level, fresh, found, taken = place[0], place[1], 0, 0
    result = DONE
    while level >= 0:
        if fresh:
            if found == len(out) or taken == steps:
                result = FULL
                break
            taken += 1
            number = _narrowest(edges, missed[level], allowed[level], looked_at)
            if number < 0:
                for k in range(level):
                    column = chosen[k]
                    out[found, column >> 6] |= np.uint64(1) << np.uint64(63 - (column & 63))
                found += 1
                level, fresh = level - 1, 0
            elif level >= largest:
                place[2] = 1
                level, fresh = level - 1, 0
            elif level + 1 >= len(missed):
                result = DEEPER
                break
            else:
                for word in range(words):
                    untried[level, word] = edges[number, word] & allowed[level, word]
                if level + 1 == largest and _keep_common(edges, missed[level], untried[level]):
                    place[2] = 1
                for word in range(words):
                    allowed[level, word] &= ~untried[level, word]
                fresh = 0
            continue
        word = 0
        while word < words and untried[level, word] == 0:
            word += 1
        if word == words:
            level -= 1
            continue
        lowest = untried[level, word] & (~untried[level, word] + np.uint64(1))
        untried[level, word] ^= lowest
        column = 64 * word + 63 - int(_bits(lowest - np.uint64(1)))
        above, below = level * (level - 1) // 2, level * (level + 1) // 2
        needed = True
        for k in range(level):
            some = np.uint64(0)
            for span in range(spans):
                left = critical[above + k, span] & ~hit_by[column, span]
                critical[below + k, span] = left
                some |= left
            if some == 0:
                needed = False
                break
        if needed:
            for span in range(spans):
                critical[below + level, span] = missed[level, span] & hit_by[column, span]
                missed[level + 1, span] = missed[level, span] & ~hit_by[column, span]
            for part in range(words):
                allowed[level + 1, part] = allowed[level, part]
            allowed[level, word] |= lowest
            chosen[level] = column
            level, fresh = level + 1, 1
    place[0], place[1] = level, fresh
    return result, found, taken


@inlined
def _turned_over(block: Words) -> None:
    """Make the columns of 64 words of bits, the lowest bit first, their rows."""
    apart, mask = 32, np.uint64(0x00000000FFFFFFFF)
    while apart:
        row = 0
        while row < 64:
            swapped = ((block[row] >> np.uint64(apart)) ^ block[row + apart]) & mask
            block[row + apart] ^= swapped
            block[row] ^= swapped << np.uint64(apart)
            row = ((row | apart) + 1) & ~apart
        apart >>= 1
        mask ^= mask << np.uint64(apart)


@compiled("W2(W2,int64)")
def incidence(edges: Words, width: int) -> Words:
    """Return for each column the edges that it hits, edge ``n`` as bit ``n % 64`` of word ``n // 64``.

    64 edges and 64 columns are turned over at a time. Source: H. S. Warren, *Hacker's Delight*, section 7-3.
    """
    hit_by = np.zeros((width, max(1, (len(edges) + 63) // 64)), dtype=np.uint64)
    block = np.zeros(64, dtype=np.uint64)
    for first in range(0, len(edges), 64):
        for part in range((width + 63) // 64):
            block[:] = 0
            for number in range(first, min(first + 64, len(edges))):
                block[number - first] = edges[number, part]
            _turned_over(block)
            for place in range(64 * part, min(64 * part + 64, width)):
                hit_by[place, first >> 6] = block[63 - (place & 63)]
    return hit_by
