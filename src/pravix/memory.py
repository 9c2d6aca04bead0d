"""How much memory is free."""

from __future__ import annotations

from pathlib import Path

_UNKNOWN_FREE = 4 << 30
_LIMITS = ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes")
_USED = ("/sys/fs/cgroup/memory.current", "/sys/fs/cgroup/memory/memory.usage_in_bytes")


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
