"""What commands cost: seconds, seconds of the processor, and the largest memory of one of them."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

_RUN = """
import json, resource, subprocess, sys, time
begun = time.perf_counter()
for command in json.loads(sys.argv[1]):
    subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
used = resource.getrusage(resource.RUSAGE_CHILDREN)
print(time.perf_counter() - begun, used.ru_utime + used.ru_stime, used.ru_maxrss)
"""
"""Run by a process of its own: a child is said to have had at least the memory of its parent."""


@dataclass(frozen=True)
class Cost:
    """Seconds, seconds of the processor, and the largest memory in MB."""

    seconds: float
    processor: float
    memory: float

    def __str__(self) -> str:
        used = f"{self.processor:5.1f} s of the client's processor, {self.memory:6,.0f} MB"
        return f"{self.seconds:6.1f} s, {used}"


def cost_of(commands: Sequence[Sequence[str]], folder: Path | None = None) -> Cost:
    """Return what commands cost, one after the other, in a folder; CalledProcessError where one fails."""
    command = [sys.executable, "-c", _RUN, json.dumps(commands)]
    told = subprocess.run(command, check=True, capture_output=True, text=True, cwd=folder)
    seconds, processor, memory = map(float, told.stdout.split())
    return Cost(seconds, processor, memory / (1024 if sys.platform != "darwin" else 2**20))
