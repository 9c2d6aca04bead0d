"""Minimal hitting sets in compiled code; see ``hitting``. The search can be left and taken up again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import Words, holding, single
from pravix.discovery.compiling import compiled
from pravix.discovery.discovered import Progress
from pravix.discovery.hitting import LOOKED_AT, Hitting

_AT_ONCE = 1 << 16
_DEPTH = 24

_DONE, _FULL, _DEEPER = 0, 1, 2


class _State(NamedTuple):
    """Where a search stands, level by level; a level is the number of columns chosen above it.

    ``missed`` are the edges not hit there, as bits. ``critical`` holds at ``level * (level - 1) / 2 + k``
    the edges that the chosen column k alone hits. ``allowed`` and ``untried`` are columns, as words.
    ``place`` is the level, whether its edge is still to be taken, and whether the size cut the search.
    """

    missed: Words
    critical: Words
    allowed: Words
    untried: Words
    chosen: NDArray[np.int64]
    place: NDArray[np.int64]


@compiled
def _bits(word: np.uint64) -> np.uint64:
    word = word - ((word >> np.uint64(1)) & np.uint64(0x5555555555555555))
    word = (word & np.uint64(0x3333333333333333)) + ((word >> np.uint64(2)) & np.uint64(0x3333333333333333))
    word = (word + (word >> np.uint64(4))) & np.uint64(0x0F0F0F0F0F0F0F0F)
    return (word * np.uint64(0x0101010101010101)) >> np.uint64(56)


@compiled
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


@compiled
def _continue(
    edges: Words,
    hit_by: Words,
    largest: int,
    looked_at: int,
    missed: Words,
    critical: Words,
    allowed: Words,
    untried: Words,
    chosen: NDArray[np.int64],
    place: NDArray[np.int64],
    out: Words,
) -> tuple[int, int]:
    """Search on until done, ``out`` is full or the levels do not suffice; return which, and the count."""
    words, spans = edges.shape[1], hit_by.shape[1]
    level, fresh, found = place[0], place[1], 0
    result = _DONE
    while level >= 0:
        if fresh:
            if found == len(out):
                result = _FULL
                break
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
                result = _DEEPER
                break
            else:
                for word in range(words):
                    untried[level, word] = edges[number, word] & allowed[level, word]
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
    return result, found


def hitting_sets(
    edges: Words, width: int, largest: int, most: int, progress: Progress
) -> tuple[Hitting, bool]:
    """Return minimal hitting sets of at most ``largest`` columns, and whether these are all.

    ``edges`` are sets of some of ``width`` columns, none holding another. The search ends when more than
    ``most`` sets are found. Memory: linear in what is found, and for each two levels as many bits as
    there are edges.
    """
    hit_by = _incidence(edges, width)
    depth = min(_DEPTH, width)
    parts: list[Words] = []
    while True:
        state = _started(edges, width, depth, hit_by.shape[1])
        parts, count, result = [], 0, _FULL
        while result == _FULL and count <= most:
            out = np.zeros((min(_AT_ONCE, most + 1), edges.shape[1]), dtype=np.uint64)
            result, found = _continue(edges, hit_by, largest, LOOKED_AT, *state, out)
            parts.append(out[:found])
            count += found
            progress("collecting combinations", count)
        if result != _DEEPER:
            break
        depth = min(2 * depth, width)
    return Hitting(np.concatenate(parts), bool(state.place[2])), result == _DONE


def _incidence(edges: Words, width: int) -> Words:
    """Return for each column the edges that it hits, edge ``n`` as bit ``n % 64`` of word ``n // 64``."""
    spans = max(1, -(-len(edges) // 64))
    bits = np.zeros((width, 64 * spans), dtype=np.uint8)
    for place in range(width):
        bits[place, : len(edges)] = holding(edges, place)
    return np.packbits(bits, axis=1, bitorder="little").view("<u8").astype(np.uint64)


def _started(edges: Words, width: int, depth: int, spans: int) -> _State:
    state = _State(
        missed=np.zeros((depth + 1, spans), dtype=np.uint64),
        critical=np.zeros((depth * (depth + 1) // 2, spans), dtype=np.uint64),
        allowed=np.zeros((depth + 1, edges.shape[1]), dtype=np.uint64),
        untried=np.zeros((depth + 1, edges.shape[1]), dtype=np.uint64),
        chosen=np.zeros(depth + 1, dtype=np.int64),
        place=np.array([0, 1, 0], dtype=np.int64),
    )
    for number in range(len(edges)):
        state.missed[0, number // 64] |= np.uint64(1) << np.uint64(number % 64)
    for place in range(width):
        state.allowed[0] |= single(place, edges.shape[1])
    return state
