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
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import tables

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
    """A command on a table, the other program, and the ratio that is not to be passed."""

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
        "20,000 x 17, values 0 to 15: dependencies", tables.sixteen_values,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 1.8,
    ),
    Line(
        "100,000 x 19, flights: dependencies", tables.flights,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 1.2,
    ),
    Line(
        "1,000,000 x 15: dependencies", tables.denormalised,
        ("dependencies", "FILE", "--json"), _pandas(_PANDAS_READS), "pandas reading text", 3.0,
    ),
    Line(
        "358 x 35, 800,000 rules: dependencies", tables.few_rows,
        ("dependencies", "FILE", "--json"), _pandas(_PAIRS), _ALL_PAIRS, 2.5,
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
        ("decompose", "FILE"), _pandas(_PAIRS), _ALL_PAIRS, 1.0,
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


def _seconds(commands: list[list[str]]) -> float:
    begun = time.perf_counter()
    for command in commands:
        subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
    return time.perf_counter() - begun


def _ours(line: Line, path: Path, out: Path) -> list[list[str]]:
    filled = [part.replace("FILE", str(path)).replace("OUT", str(out)) for part in line.command]
    commands: list[list[str]] = [[]]
    for part in filled:
        commands = [*commands, []] if part == "&&" else [*commands[:-1], [*commands[-1], part]]
    return [[*_PROGRAM, *command] for command in commands]


def measured(line: Line, runs: int) -> tuple[float, float, float]:
    """Return the seconds of both sides, and the median of the ratios."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "flat.csv"
        tables.write_csv(line.cells(), path)
        mine, theirs = [], []
        for run in range(runs):
            out = Path(folder) / f"out{run}"
            theirs.append(
                _seconds([[one.replace("FILE", str(path)).replace("OUT", str(out)) for one in line.other]])
            )
            mine.append(_seconds(_ours(line, path, out)))
            shutil.rmtree(out, ignore_errors=True)
    ratio = statistics.median(a / b for a, b in zip(mine, theirs, strict=True))
    return statistics.median(mine), statistics.median(theirs), ratio


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
    print(f"{'':<46}{'ours s':>8}{'other s':>9}{'ratio':>8}{'asked':>7}   other")
    short = []
    for line in _LINES:
        if options.only not in line.name:
            continue
        ours, other, ratio = measured(line, options.runs)
        mark = "short" if ratio > line.asked else ""
        short += [line.name] if mark else []
        print(
            f"{line.name:<46}{ours:>8.2f}{other:>9.2f}{ratio:>8.2f}{line.asked:>7.1f}   {line.told:<42}{mark}"
        )
    print(f"{len(short)} fall short" + (": " + "; ".join(short) if short else "."))


if __name__ == "__main__":
    main()
