"""How long discovery takes, against a level-wise search, a notebook's loop and pandas: ratios from one run.

    python -m pip install '.[bench]'
    python benchmarks/discovery.py [--runs 3] [--patience 600]

Every measurement is a process of its own; the two sides of a ratio take turns. Start-up and imports are
not counted, except where the table says "whole process". A search that has not ended after --patience seconds
is stopped, and its ratio is then a lower bound.
"""

from __future__ import annotations

import argparse
import json
import os
import platform
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import tables

HERE = Path(__file__).parent

_PROLOGUE = """
import json, resource, sys, time
sys.path.insert(0, sys.argv[1])
import tables
def told(seconds, found=0):
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024 / 1024
    print(json.dumps({"seconds": seconds, "found": found, "gib": peak}))
"""

OURS = """
from pravix.discovery.search import Plan, discover
for plan in Plan:
    discover(tables.relation(tables.many_dependencies(40, 6)), plan=plan)
relation = tables.relation(CELLS)
start = time.perf_counter()
found = discover(relation)
told(time.perf_counter() - start, len(found.dependencies))
"""

LEVELWISE = """
from levelwise import levelwise
relation = tables.relation(CELLS)
start = time.perf_counter()
try:
    found = len(levelwise(relation, seconds=PATIENCE)[0])
except TimeoutError:
    found = 0
told(time.perf_counter() - start, found)
"""

NOTEBOOK = """
from itertools import combinations
import pandas
cells = CELLS
frame = pandas.DataFrame(cells, columns=[f"c{place}" for place in range(cells.shape[1])])
start = time.perf_counter()
found = 0
for size in (1, 2):
    for left in combinations(frame.columns, size):
        found += int((frame.groupby(list(left)).nunique() <= 1).all().sum())
told(time.perf_counter() - start, found)
"""

PANDAS_READS = """
import pandas
start = time.perf_counter()
pandas.read_csv(sys.argv[2], dtype=str)
told(time.perf_counter() - start)
"""

PRAVIX_READS = """
import pyarrow.csv
from pravix.sources.read import read_source
start = time.perf_counter()
read_source(sys.argv[2])
told(time.perf_counter() - start)
"""

PRAVIX_READS_AND_SEARCHES = """
import pyarrow.csv
from pravix.discovery.search import Plan, discover
from pravix.sources.read import read_source
for plan in Plan:
    discover(tables.relation(tables.many_dependencies(40, 6)), plan=plan)
relation = read_source(sys.argv[2]).relation
start = time.perf_counter()
found = discover(relation)
told(time.perf_counter() - start, len(found.dependencies))
"""

Figures = dict[str, float]


def measured(code: str, cells: str = "", path: Path | str = "", patience: float = 0.0) -> Figures:
    """Run one piece of code in a process of its own and return what it tells."""
    text = _PROLOGUE + code.replace("CELLS", f"tables.{cells}").replace("PATIENCE", str(patience))
    command = [sys.executable, "-c", text, str(HERE), str(path)]
    found: Figures = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
    return found


def turns(runs: int, *sides: Callable[[], Figures]) -> list[list[Figures]]:
    """Let the sides take turns; return the figures of each side, run by run."""
    found = [[side() for side in sides] for _ in range(runs)]
    return [list(side) for side in zip(*found, strict=True)]


def show(told: str, ours: list[Figures], others: list[Figures], patience: float = float("inf")) -> None:
    """Print a line: medians of both sides, and of how many times as long the other one took."""
    mine, theirs = (statistics.median(one["seconds"] for one in side) for side in (ours, others))
    ratio = statistics.median(b["seconds"] / a["seconds"] for a, b in zip(ours, others, strict=True))
    bound = ">" if theirs >= patience else " "
    peak = max(one["gib"] for one in ours)
    print(
        f"{told:<52}{mine:>9.2f}{theirs:>9.2f} {bound}{ratio:>8.1f}{ours[0]['found']:>11,}{peak:>7.2f}",
        flush=True,
    )


def whole_process(path: Path) -> Callable[[], Figures]:
    """Return a measurement of ``pravix keys`` on a file, start-up included."""

    def run() -> Figures:
        start = time.perf_counter()
        subprocess.run([sys.executable, "-m", "pravix", "keys", str(path)], capture_output=True, check=True)
        return {"seconds": time.perf_counter() - start, "found": 0, "gib": 0}

    return run


def bare_imports() -> Figures:
    """Return how long a process takes that only imports NumPy and PyArrow."""
    start = time.perf_counter()
    subprocess.run([sys.executable, "-c", "import numpy, pyarrow"], check=True)
    return {"seconds": time.perf_counter() - start, "found": 0, "gib": 0}


def main() -> None:
    """Print the table of ratios."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--patience", type=float, default=600)
    options = parser.parse_args()
    runs, patience = options.runs, options.patience
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}, {runs} runs")
    print(f"{'':<52}{'ours s':>9}{'other s':>9}  {'ratio':>8}{'found':>11}{'GiB':>7}")
    for told, cells in (
        ("20,000 x 17, values 0 to 15: level-wise", "sixteen_values()"),
        ("300 x 25, many dependencies: level-wise", "many_dependencies()"),
        ("1,000 x 60: level-wise", "wide()"),
    ):
        ours = sorted((measured(OURS, cells) for _ in range(runs)), key=lambda one: one["seconds"])
        show(told, [ours[runs // 2]], [measured(LEVELWISE, cells, patience=patience)], patience)
    notebook = turns(
        runs,
        lambda: measured(OURS, "denormalised(100_000)"),
        lambda: measured(NOTEBOOK, "denormalised(100_000)"),
    )
    show("100,000 x 15: groupby().nunique() up to two columns", *notebook)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "million.csv"
        tables.write_csv(tables.denormalised(), path)
        reading, searching, pandas = turns(
            runs,
            lambda: measured(PRAVIX_READS, path=path),
            lambda: measured(PRAVIX_READS_AND_SEARCHES, path=path),
            lambda: measured(PANDAS_READS, path=path),
        )
        show("1,000,000 x 15, reading and coding: pandas reading", reading, pandas)
        show("1,000,000 x 15, complete discovery: pandas reading", searching, pandas)
    demo = HERE.parent / "src" / "pravix" / "demo" / "deliveries.csv"
    keys, bare = turns(2 * runs + 1, whole_process(demo), bare_imports)
    show("pravix keys, demo, whole process: bare imports", keys, bare)
    above = statistics.median(a["seconds"] - b["seconds"] for a, b in zip(keys, bare, strict=True))
    print(f"pravix keys on the demo: {above:.2f} s above the bare imports")


if __name__ == "__main__":
    main()
