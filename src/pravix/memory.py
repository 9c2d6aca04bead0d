"""How much memory is free, and that what is freed can be used again."""

from __future__ import annotations

import ctypes
import os
from pathlib import Path

_UNKNOWN_FREE = 4 << 30
_LIMITS = ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes")
_USED = ("/sys/fs/cgroup/memory.current", "/sys/fs/cgroup/memory/memory.usage_in_bytes")


_ARENAS = -8
"""The number under which the C library knows how many pieces of memory threads may keep for themselves."""


def shared_by_threads() -> None:
    """Let what one thread frees be used by all; to be called before there are any.

    The GNU C library gives each thread a piece of memory of its own, and Arrow has pieces besides: of some
    hundred megabytes of arrays that come and go, as much again stays idle. Does nothing with other libraries.
    """
    os.environ.setdefault("ARROW_DEFAULT_MEMORY_POOL", "system")
    try:
        ctypes.CDLL(None).mallopt(_ARENAS, 1)
    except (OSError, AttributeError, TypeError):
        return


def give_back() -> None:
    """Let the system have what was freed; to be called where much was, and little of it will be taken again.

    The GNU C library keeps it, in pieces that later ones do not fit into. Does nothing with other libraries.
    """
    try:
        ctypes.CDLL(None).malloc_trim(0)
    except (OSError, AttributeError, TypeError):
        return


def resident_bytes() -> int:
    """Return how much memory the program takes just now; 0 where the system does not tell."""
    try:
        pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    except (OSError, ValueError, IndexError):
        return 0
    return pages * os.sysconf("SC_PAGE_SIZE")


def free_bytes() -> int:
    """Return how much memory is free, as far as the system tells: on the machine, and in its container."""
    free = _UNKNOWN_FREE
    try:
        for line in Path("/proc/meminfo").read_text(encoding="ascii").splitlines():
            if line.startswith("MemAvailable:"):
                free = int(line.split()[1]) << 10
    except (OSError, ValueError, IndexError):
        pass
    for limit, used in zip(_LIMITS, _USED, strict=True):
        try:
            free = min(free, int(Path(limit).read_text("ascii")) - int(Path(used).read_text("ascii")))
        except (OSError, ValueError):
            continue
    return max(free, 1 << 28)
