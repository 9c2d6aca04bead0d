"""Minimal hitting sets in compiled code; see ``hitting``. The search can be left and taken up again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from pravix.discovery.columnsets import everything
from pravix.discovery.hitting import LOOKED_AT, Hitting
from pravix.kernels.arrays import Flags, Places, Words
from pravix.kernels.hitting import DEEPER, DONE, FULL, incidence, search_on
from pravix.progress import Progress

_AT_ONCE = 1 << 16
_DEPTH = 24
_STEPS_AT_ONCE = 1 << 18


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
    chosen: Places
    place: Places


class Hypergraph:
    """Edges, and for each column the edges that it hits; several searches may use some of the edges."""

    def __init__(self, edges: Words, width: int) -> None:
        self._edges = edges
        self._width = width
        self._hit_by = incidence(edges, width)

    def hitting_sets(
        self,
        chosen: Flags,
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
            count, left, result = 0, steps, FULL
            while result == FULL and count <= most and left >= 0:
                out = np.zeros((min(_AT_ONCE, most + 1), self._edges.shape[1]), dtype=np.uint64)
                result, found, used = search_on(
                    self._edges, self._hit_by, largest, LOOKED_AT, min(left, _STEPS_AT_ONCE) + 1, *state, out
                )
                parts.append(out[:found])
                count, left = count + found, left - used
                progress("collecting combinations", count)
            if result != DEEPER:
                break
            depth = min(2 * depth, self._width)
        return Hitting(np.concatenate(parts), bool(state.place[2])), left if result == DONE else -1


def hitting_sets(
    edges: Words, width: int, largest: int, most: int, steps: int, progress: Progress
) -> tuple[Hitting, int]:
    """Return the minimal hitting sets of all edges, and how many steps are left; see ``Hypergraph``."""
    every = np.ones(len(edges), dtype=np.bool_)
    return Hypergraph(edges, width).hitting_sets(every, everything(width), largest, most, steps, progress)


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
