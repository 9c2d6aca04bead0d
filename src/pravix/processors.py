"""How many processors there are for this program."""

from __future__ import annotations

import os


def processors() -> int:
    """Return how many processors this process may run on, at least 1; all where the system does not tell."""
    allowed = getattr(os, "sched_getaffinity", None)
    return len(allowed(0)) if allowed is not None else os.cpu_count() or 1
