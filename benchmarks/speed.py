"""How long whole commands take against what else one would run: ratios from one run, and what falls short.

    python -m pip install '.[bench]'
    python benchmarks/speed.py [--runs 3] [--only NAME]

Both sides are whole processes and take turns; the ratio is the median of the runs'. Install a wheel, not an
editable checkout: a wheel holds machine code.
"""

from __future__ import annotations

import argparse
import os
import platform
import shutil
import statistics
import sys
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import tables
from costs import Cost, cost_of

_PROGRAM = [sys.executable, "-m", "pravix"]
_PANDAS_READS = "import pandas, sys; pandas.read_csv(sys.argv[1], dtype=str)"
_PAIRS = """
import pandas, sys
from itertools import combinations
frame = pandas.read_csv(sys.argv[1])
for pair in combinations(frame.columns, 2):
    frame.groupby(list(pair)).ngroups
"""
_ALL_PAIRS = "pandas grouping by every pair of columns"


@dataclass(frozen=True)
class Line:
    """A command on a table, the other program, and the ratio that is not to be passed.

    The three searches against all pairs, of 17, 19 and 35 columns, may take 0.53, 0.65 and 0.21 of what they
    took at commit 9aaa7df in the same hours (2.4, 3.3 and 23.7 times the pairs); that of 200,000 x 60 may
    take a minute where the pairs take 20 seconds.
    """

    name: str
    cells: Callable[[], tables.Cells]
    command: tuple[str, ...]
    other: tuple[str, ...]
    told: str
    asked: float


def _pandas(code: str) -> tuple[str, ...]:
    return (sys.executable, "-c", code, "FILE")


_LINES = (
    Line(
        "20,000 x 17, 64 rules: dependencies", tables.sixteen_values,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 1.3,
    ),
    Line(
        "100,000 x 19, flights: dependencies", tables.flights,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 2.1,
    ),
    Line(
        "1,000,000 x 15: dependencies", tables.denormalised,
        ("dependencies", "FILE", "--json"), _pandas(_PANDAS_READS), "pandas reading text", 1.5,
    ),
    Line(
        "358 x 35, 800,000 rules: dependencies", tables.few_rows,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 5.0,
    ),
    Line(
        "12,124 x 48, 5 million rules: dependencies", tables.joined,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 9.0,
    ),
    Line(
        "60,175 x 48: decompose", lambda: tables.joined(60_175),
        ("decompose", "FILE"), _pandas(_PAIRS), _ALL_PAIRS, 3.0,
    ),
    Line(
        "1,000,000 x 15: decompose", tables.denormalised,
        ("decompose", "FILE"), _pandas(_PANDAS_READS), "pandas reading text", 2.0,
    ),
    Line(
        "1,000,000 x 15: to a loaded SQLite", tables.denormalised,
        ("decompose", "FILE", "--out", "OUT", "&&", "load", "OUT", "sqlite:///OUT.db"),
        ("sqlite3", "OUT.raw", ".import --csv FILE flat"), "sqlite3 .import", 4.0,
    ),
    Line(
        "250 x 50: decompose", lambda: tables.of_width(250, 50),
        ("decompose", "FILE"), _pandas(_PAIRS), _ALL_PAIRS, 30.0,
    ),
    Line(
        "200,000 x 60 of few values: decompose", tables.of_few_values,
        ("decompose", "FILE"), _pandas(_PAIRS), _ALL_PAIRS, 3.0,
    ),
    Line(
        "1,000 x 2,000: decompose", lambda: tables.of_width(1_000, 2_000),
        ("decompose", "FILE"), _pandas(_PANDAS_READS), "pandas reading text", 60.0,
    ),
    Line(
        "500 x 5,000: survey", lambda: tables.of_width(500, 5_000),
        ("survey", "FILE"), _pandas(_PANDAS_READS), "pandas reading text", 60.0,
    ),
    Line(
        "500 x 15: keys", lambda: tables.denormalised(500),
        ("keys", "FILE"), (sys.executable, "-c", "import numpy, pyarrow"), "importing both", 2.9,
    ),
    Line(
        "--help: above Click", lambda: tables.sixteen_values(10),
        ("--help",), (sys.executable, "-c", "import click"), "importing Click", 1.3,
    ),
)  # fmt: skip


def _ours(line: Line, path: Path, out: Path) -> list[list[str]]:
    filled = [part.replace("FILE", str(path)).replace("OUT", str(out)) for part in line.command]
    commands: list[list[str]] = [[]]
    for part in filled:
        commands = [*commands, []] if part == "&&" else [*commands[:-1], [*commands[-1], part]]
    return [[*_PROGRAM, *command] for command in commands]


@dataclass(frozen=True)
class Measured:
    """What both sides cost, and the median of the ratios of their seconds."""

    ours: Cost
    other: Cost
    ratio: float


def measured(line: Line, runs: int) -> Measured:
    """Return what both sides take."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "flat.csv"
        tables.write_csv(line.cells(), path)
        mine, theirs = [], []
        for run in range(runs):
            out = Path(folder) / f"out{run}"
            theirs.append(
                cost_of([[one.replace("FILE", str(path)).replace("OUT", str(out)) for one in line.other]])
            )
            mine.append(cost_of(_ours(line, path, out)))
            shutil.rmtree(out, ignore_errors=True)
    ratio = statistics.median(a.seconds / b.seconds for a, b in zip(mine, theirs, strict=True))
    return Measured(_median(mine), _median(theirs), ratio)


def _median(costs: Sequence[Cost]) -> Cost:
    return sorted(costs, key=lambda cost: cost.seconds)[len(costs) // 2]


def main() -> None:
    """Print the table, and name the lines that fall short."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--only", default="")
    options = parser.parse_args()
    print(
        f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}, "
        f"{options.runs} runs"
    )
    print(f"{'':<43}{'ours s':>8}{'other s':>8}{'ratio':>7}{'asked':>6}{'MB':>6}{'other':>6}   other")
    short = []
    for line in _LINES:
        if options.only not in line.name:
            continue
        found = measured(line, options.runs)
        mark = "short" if found.ratio > line.asked else ""
        short += [line.name] if mark else []
        print(
            f"{line.name:<43}{found.ours.seconds:>8.2f}{found.other.seconds:>8.2f}{found.ratio:>7.2f}{line.asked:>6.1f}"
            f"{found.ours.memory:>6.0f}{found.other.memory:>6.0f}   {line.told:<42}{mark}",
            flush=True,
        )
    print(f"{len(short)} fall short" + (": " + "; ".join(short) if short else "."))


if __name__ == "__main__":
    main()
