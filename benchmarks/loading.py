"""From a flat file to a loaded SQLite database, against ``sqlite3 .import`` of it: time and memory.

python benchmarks/loading.py [--rows 1000000] [--runs 3]
"""

from __future__ import annotations

import platform
import shutil
import statistics
import sys
import tempfile
from pathlib import Path

import click
import tables
from costs import cost_of

HEADER = (
    "line_no,delivery_no,delivery_day,driver_no,depot_no,depot_region,drum_no,drum_tare,honey_no,honey_price,"
    "keeper_no,keeper_phone,village_no,village_district,gross"
)


def _pravix(folder: Path) -> tuple[float, float, float]:
    """Decompose and load; return the seconds of both, and the larger memory."""
    program = str(Path(sys.executable).with_name("pravix"))
    shutil.rmtree(folder / "made", ignore_errors=True)
    (folder / "made.db").unlink(missing_ok=True)
    first = cost_of([[program, "decompose", str(folder / "flat.csv"), "--out", str(folder / "made")]])
    second = cost_of([[program, "load", str(folder / "made"), f"sqlite:///{folder}/made.db"]])
    return first.seconds, second.seconds, max(first.memory, second.memory)


def _import(folder: Path) -> tuple[float, float]:
    (folder / "flat.db").unlink(missing_ok=True)
    cost = cost_of([["sqlite3", str(folder / "flat.db"), ".mode csv", f".import {folder}/flat.csv flat"]])
    return cost.seconds, cost.memory


@click.command(help=__doc__.split("\n")[0])
@click.option("--rows", default=1_000_000, show_default=True)
@click.option("--runs", default=3, show_default=True)
def main(rows: int, runs: int) -> None:
    """Print the median seconds, the memory and the ratios; the two take turns."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        tables.write_csv(tables.denormalised(rows), folder / "flat.csv")
        text = (folder / "flat.csv").read_text().split("\n", 1)[1]
        (folder / "flat.csv").write_text(f"{HEADER}\n{text}")
        ours, theirs = [], []
        for _ in range(runs):
            ours.append(_pravix(folder))
            theirs.append(_import(folder))
    decompose, load, memory = (statistics.median(one[place] for one in ours) for place in range(3))
    seconds, less = (statistics.median(one[place] for one in theirs) for place in range(2))
    click.echo(f"{platform.platform()}, Python {platform.python_version()}")
    click.echo(f"{rows:,} rows x 15: decompose {decompose:.1f} s, load {load:.1f} s, {memory:,.0f} MB")
    click.echo(f"sqlite3 .import {seconds:.1f} s, {less:,.0f} MB")
    click.echo(f"ratio: loading {load / seconds:.1f}, flat file to loaded {(decompose + load) / seconds:.1f}")


if __name__ == "__main__":
    main()
