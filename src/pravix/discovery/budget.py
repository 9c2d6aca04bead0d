"""What a search may take: memory and time, after which it lowers its limit and says so."""

from __future__ import annotations

import time
from dataclasses import dataclass

from pravix.discovery.hitting import TooManyError
from pravix.memory import free_bytes
from pravix.progress import Progress

SECONDS = 120.0
"""The time that a search may take which is to be complete, where nothing else is wished."""

_SECONDS_FOR_A_DESIGN = 15.0
_SECONDS_A_MILLION = 10.0
FOR_A_DESIGN = f"{_SECONDS_FOR_A_DESIGN:.0f}, and {_SECONDS_A_MILLION:.0f} for a million rows"
"""What a search for a design may take, in words: it needs small combinations only, of all rows."""

_SHARE = 0.5
_FOR_PLAN = 0.6
_BYTES_A_SET = 32
"""Bytes for each word of a column set that is kept: the set, its place in a table, copies while sorting."""


class OverBudgetError(TooManyError):
    """The search took all the time or memory that it was given."""


def seconds_for_a_design(rows: int) -> float:
    """Return the time that a search for a design may take."""
    return _SECONDS_FOR_A_DESIGN + _SECONDS_A_MILLION * rows / 1e6


@dataclass(frozen=True)
class Budget:
    """Bytes of memory and seconds that a search may take.

    None stands for a share of the free memory, and for ``SECONDS``.
    """

    bytes: int | None = None
    seconds: float | None = None

    def begun(self) -> Allowance:
        """Return what is allowed from now on."""
        seconds = self.seconds or SECONDS
        return Allowance(self.bytes or int(_SHARE * free_bytes()), time.monotonic() + seconds, seconds)


@dataclass(frozen=True)
class Allowance:
    """A budget in use: its bytes, the moment at which it ends, and how many seconds it had."""

    bytes: int
    end: float
    seconds: float

    def sets(self, words: int) -> int:
        """Return how many column sets of so many words may be kept."""
        return max(self.bytes // (_BYTES_A_SET * words), 1)

    def watching(self, progress: Progress, share: float = _FOR_PLAN) -> Progress:
        """Return a progress callback that raises OverBudgetError when a share of the time is over."""
        end = self.end - (1 - share) * self.seconds

        def told(doing: str, steps: int) -> None:
            if time.monotonic() > end:
                raise OverBudgetError
            progress(doing, steps)

        return told
