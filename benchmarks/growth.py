"""How the time of `pravix decompose` grows with the rows and with the columns: a figure, and the exponents.

python -m pip install '.[bench]'
python benchmarks/growth.py [--runs 3] [--figure growth.png]

Whole processes, start-up included. The rows are those of the denormalised table of 15 columns; the columns
are things of a co-operative, each with its number, name, place, day and weight, in 2,000 deliveries.
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import tables
from matplotlib.axes import Axes
from matplotlib.figure import Figure

ROWS = (10_000, 30_000, 100_000, 300_000, 1_000_000, 3_000_000)
COLUMNS = (10, 20, 40, 70, 100)


def _seconds(path: Path, runs: int) -> float:
    taken = []
    for _ in range(runs):
        begun = time.perf_counter()
        command = [sys.executable, "-m", "pravix", "decompose", str(path)]
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        taken.append(time.perf_counter() - begun)
    return statistics.median(taken)


def _exponent(sizes: tuple[int, ...], seconds: list[float]) -> float:
    """Return the slope of the times against the sizes, both as logarithms, by least squares."""
    return float(np.polyfit(np.log(sizes), np.log(seconds), 1)[0])


def _drawn(axes: Axes, sizes: tuple[int, ...], seconds: list[float], what: str) -> None:
    slope = _exponent(sizes, seconds)
    axes.loglog(sizes, seconds, marker="o", color="#5b3a8c", label=f"pravix decompose: exponent {slope:.2f}")
    straight = [seconds[-1] * size / sizes[-1] for size in sizes]
    axes.loglog(sizes, straight, linestyle="--", color="#888888", label=f"in proportion to the {what}")
    axes.set_xticks(sizes, [f"{size:,}" for size in sizes], rotation=20)
    axes.yaxis.set_major_formatter("{x:g}")
    axes.minorticks_off()
    axes.set_ylim(bottom=0.5, top=100)
    axes.set_xlabel(what)
    axes.set_ylabel("seconds")
    axes.set_title(f"Time against {what}")
    axes.grid(visible=True, which="major", color="#dddddd")
    axes.legend()
    print(f"exponent against {what}: {slope:.2f}")


def main() -> None:
    """Measure each size, print the seconds and the exponents, and draw the figure."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--figure", default="growth.png")
    options = parser.parse_args()
    by_rows, by_columns = [], []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "flat.csv"
        for rows in ROWS:
            tables.write_csv(tables.denormalised(rows), path)
            by_rows.append(_seconds(path, options.runs))
            print(f"{rows:>10,} rows    {by_rows[-1]:>8.2f} s", flush=True)
        for width in COLUMNS:
            tables.write_deliveries(path, 2_000, width)
            by_columns.append(_seconds(path, options.runs))
            print(f"{width:>10,} columns {by_columns[-1]:>8.2f} s", flush=True)
    figure = Figure(figsize=(11, 5), layout="constrained")
    left, right = figure.subplots(1, 2)
    _drawn(left, ROWS, by_rows, "rows")
    _drawn(right, COLUMNS, by_columns, "columns")
    figure.savefig(options.figure, dpi=110)


if __name__ == "__main__":
    main()
