"""How long the links among ten files of 100,000 rows take, beside reading them: one ratio from one run.

python benchmarks/inclusions.py [--files 10] [--rows 100000]
"""

from __future__ import annotations

import platform
import tempfile
import time
from pathlib import Path
from random import Random

import click

from pravix.judgement.linking import linked
from pravix.sources.read import read_source


def write_file(path: Path, number: int, rows: int, draw: Random) -> None:
    """Write a table with a key, references to the two before it, names, measures and a running number."""
    before = [number - 1, number - 2]
    called = [f"thing{other}_no" if other >= 0 else f"former{-other}_no" for other in before]
    lines = [",".join([f"thing{number}_no", *called, "name", "weight_kg", "line", "rank", "day"])]
    for place in range(rows):
        referred = [f"T{other}-{draw.randrange(rows):06d}" for other in before]
        cells = [f"T{number}-{place:06d}", *referred, f"name {draw.randrange(rows)}"]
        cells += [f"{draw.random() * 100:.2f}", str(place + 1), str(draw.randrange(9))]
        lines.append(",".join([*cells, f"2026-{1 + place % 12:02d}-11"]))
    path.write_text("\n".join(lines) + "\n")


@click.command(help=__doc__.split("\n")[0])
@click.option("--files", default=10, show_default=True)
@click.option("--rows", default=100_000, show_default=True)
def main(files: int, rows: int) -> None:
    """Print the seconds of both, their ratio, and how many links were found."""
    draw = Random(21)
    with tempfile.TemporaryDirectory() as name:
        paths = [Path(name) / f"thing{number}.csv" for number in range(files)]
        for number, path in enumerate(paths):
            write_file(path, number, rows, draw)
        start = time.perf_counter()
        relations = {path.stem: read_source(str(path)).relation for path in paths}
        between = time.perf_counter()
        found = linked(relations)
        end = time.perf_counter()
    click.echo(f"{platform.platform()}, Python {platform.python_version()}")
    click.echo(
        f"{files} files of {rows:,} rows: reading {between - start:.1f} s, links {end - between:.1f} s"
    )
    click.echo(f"ratio {(end - between) / (between - start):.1f}; {len(found.links)} links")


if __name__ == "__main__":
    main()
