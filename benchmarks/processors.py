"""What whole commands gain from more processors: the same command on one, and on all of them.

    python benchmarks/processors.py [--runs 3]

They take turns; seconds and the ratio are medians. Install a wheel, not an editable checkout: a wheel holds
machine code.
"""

from __future__ import annotations

import argparse
import statistics
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import tables
from costs import cost_of

from pravix.processors import processors

_ON = """
import os, sys
os.sched_setaffinity(0, sorted(os.sched_getaffinity(0))[: int(sys.argv[1])])
os.execv(sys.executable, sys.argv[2:])
"""
_LINES: tuple[tuple[str, Callable[[], tables.Cells], tuple[str, ...]], ...] = (
    ("20,000 x 17: all pairs of rows", tables.sixteen_values, ("dependencies", "FILE", "--json")),
    ("100,000 x 19, flights: dependencies", tables.flights, ("dependencies", "FILE", "--json")),
    ("1,000,000 x 15: decompose", tables.denormalised, ("decompose", "FILE")),
    ("1,000,000 x 15, landed: decompose", tables.denormalised, ("decompose", "FILE", "--memory", "256MB")),
)


def _seconds(command: list[str], count: int) -> float:
    program = [sys.executable, "-m", "pravix", *command]
    return cost_of([[sys.executable, "-c", _ON, str(count), *program]]).seconds


def main() -> None:
    """Print a line for each command."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    options = parser.parse_args()
    every = processors()
    print(f"{'':<40}{'on 1, s':>9}{f'on {every}, s':>9}{'times':>7}")
    for told, cells, command in _LINES:
        with tempfile.TemporaryDirectory() as folder:
            path = str(Path(folder) / "flat.csv")
            tables.write_csv(cells(), Path(path))
            filled = [path if part == "FILE" else part for part in command]
            runs = [[_seconds(filled, count) for count in (1, every)] for _ in range(options.runs)]
        one, all_of_them = map(statistics.median, zip(*runs, strict=True))
        ratio = statistics.median(first / second for first, second in runs)
        print(f"{told:<40}{one:>9.2f}{all_of_them:>9.2f}{ratio:>7.2f}", flush=True)


if __name__ == "__main__":
    main()
