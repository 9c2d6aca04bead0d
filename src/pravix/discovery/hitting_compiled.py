"""Minimal hitting sets in compiled code; see ``hitting``. The search can be left and taken up again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import Words, everything
from pravix.discovery.hitting import LOOKED_AT, Hitting
from pravix.progress import Progress
from pravix.relation.compiling import compiled

_AT_ONCE = 1 << 16
_DEPTH = 24
_STEPS_AT_ONCE = 1 << 18

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


@compiled
def _continue(
    edges: Words,
    hit_by: Words,
    largest: int,
    looked_at: int,
    steps: int,
    missed: Words,
    critical: Words,
    allowed: Words,
    untried: Words,
    chosen: NDArray[np.int64],
    place: NDArray[np.int64],
    out: Words,
) -> tuple[int, int, int]:
    """Search on until done, out of steps, ``out`` is full or the levels do not suffice.

    Returns which, how many sets were found, and how many steps it took.
    """
    words, spans = edges.shape[1], hit_by.shape[1]
    level, fresh, found, taken = place[0], place[1], 0, 0
    result = _DONE
    while level >= 0:
        if fresh:
            if found == len(out) or taken == steps:
                result = _FULL
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
                result = _DEEPER
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


class Hypergraph:
    """Edges, and for each column the edges that it hits; several searches may use some of the edges."""

    def __init__(self, edges: Words, width: int) -> None:
        self._edges = edges
        self._width = width
        self._hit_by = _incidence(edges, width)

    def hitting_sets(
        self,
        chosen: NDArray[np.bool_],
        allowed: Words,
        largest: int,
        most: int,
        steps: int,
        progress: Progress,
    ) -> tuple[Hitting, int]:
        """Return the minimal sets of at most ``largest`` allowed columns that hit the chosen edges.

        None of these may hold another. Also returns how many steps are left. The search ends when more
        than ``most`` sets are found or ``steps`` sets are looked at; the steps left are then negative.
        Memory: linear in what is found, and for each two levels as many bits as there are edges.
        """
        missed = np.zeros(64 * self._hit_by.shape[1], dtype=np.uint8)
        missed[: len(chosen)] = chosen
        depth = min(_DEPTH, self._width)
        while True:
            state = _started(np.packbits(missed, bitorder="little").view("<u8"), allowed, depth)
            parts: list[Words] = []
            count, left, result = 0, steps, _FULL
            while result == _FULL and count <= most and left >= 0:
                out = np.zeros((min(_AT_ONCE, most + 1), self._edges.shape[1]), dtype=np.uint64)
                result, found, used = _continue(
                    self._edges, self._hit_by, largest, LOOKED_AT, min(left, _STEPS_AT_ONCE) + 1, *state, out
                )
                parts.append(out[:found])
                count, left = count + found, left - used
                progress("collecting combinations", count)
            if result != _DEEPER:
                break
            depth = min(2 * depth, self._width)
        return Hitting(np.concatenate(parts), bool(state.place[2])), left if result == _DONE else -1


def hitting_sets(
    edges: Words, width: int, largest: int, most: int, steps: int, progress: Progress
) -> tuple[Hitting, int]:
    """Return the minimal hitting sets of all edges, and how many steps are left; see ``Hypergraph``."""
    every = np.ones(len(edges), dtype=np.bool_)
    return Hypergraph(edges, width).hitting_sets(every, everything(width), largest, most, steps, progress)


@compiled
def _incidence(edges: Words, width: int) -> Words:
    """Return for each column the edges that it hits, edge ``n`` as bit ``n % 64`` of word ``n // 64``."""
    hit_by = np.zeros((width, max(1, (len(edges) + 63) // 64)), dtype=np.uint64)
    for first in range(0, len(edges), 64):
        for place in range(width):
            shift = np.uint64(63 - (place & 63))
            hit = np.uint64(0)
            for number in range(first, min(first + 64, len(edges))):
                hit |= (edges[number, place >> 6] >> shift & np.uint64(1)) << np.uint64(number - first)
            hit_by[place, first >> 6] = hit
    return hit_by


def _started(missed: Words, allowed: Words, depth: int) -> _State:
    state = _State(
        missed=np.zeros((depth + 1, len(missed)), dtype=np.uint64),
        critical=np.zeros((depth * (depth + 1) // 2, len(missed)), dtype=np.uint64),
        allowed=np.zeros((depth + 1, len(allowed)), dtype=np.uint64),
        untried=np.zeros((depth + 1, len(allowed)), dtype=np.uint64),
        chosen=np.zeros(depth + 1, dtype=np.int64),
        place=np.array([0, 1, 0], dtype=np.int64),
    )
    state.missed[0] = missed
    state.allowed[0] = allowed
    return state
