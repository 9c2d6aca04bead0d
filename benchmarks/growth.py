"""How complete discovery grows with the rows: a figure of the denormalised table from 10,000 to a million.

python -m pip install .
python benchmarks/growth.py [--runs 3] [--figure growth.png]
"""

from __future__ import annotations

import argparse
import statistics

import tables
from discovery import OURS, measured
from matplotlib.figure import Figure

ROWS = (10_000, 30_000, 100_000, 300_000, 1_000_000)


def main() -> None:
    """Measure each size, print the table and draw the figure."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--figure", default="growth.png")
    options = parser.parse_args()
    seconds, peaks = [], []
    for rows in ROWS:
        found = [measured(OURS, f"{tables.denormalised.__name__}({rows})") for _ in range(options.runs)]
        seconds.append(statistics.median(one["seconds"] for one in found))
        peaks.append(max(one["gib"] for one in found))
        print(f"{rows:>10,} rows {seconds[-1]:>8.2f} s {peaks[-1]:>6.2f} GiB", flush=True)
    figure = Figure(figsize=(8, 5), layout="constrained")
    axes = figure.subplots()
    axes.loglog(ROWS, seconds, marker="o", color="#5b3a8c", label="complete discovery, 15 columns")
    straight = [seconds[-1] * rows / ROWS[-1] for rows in ROWS]
    axes.loglog(ROWS, straight, linestyle="--", color="#888888", label="in proportion to the rows")
    axes.set_xlabel("rows")
    axes.set_ylabel("seconds")
    axes.set_title("Time of complete discovery against rows")
    axes.grid(visible=True, which="major", color="#dddddd")
    axes.legend()
    figure.savefig(options.figure, dpi=120)


if __name__ == "__main__":
    main()
