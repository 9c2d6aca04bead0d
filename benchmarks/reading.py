"""How long reading takes, against pandas reading the same file: ratios from one run.

    python -m pip install '.[bench]'
    python benchmarks/reading.py [--runs 5] [--rows 1000000]

Makes a CSV file of --rows x 15 and a workbook of a tenth of that, in a temporary folder. Each
measurement is a process of its own; the two programs take turns; start-up and imports are not counted.
"""

from __future__ import annotations

import argparse
import json
import os
import platform
import random
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from openpyxl import Workbook

COLUMNS = 15

READ_PANDAS = """
import json, sys, time
import pandas
start = time.perf_counter()
if sys.argv[1].endswith("csv"):
    pandas.read_csv(sys.argv[1], dtype=str)
else:
    pandas.read_excel(sys.argv[1], engine="calamine", dtype=str)
print(json.dumps({"read": time.perf_counter() - start}))
"""

READ_PRAVIX = """
import json, sys, time
import pyarrow.csv, python_calamine, rapidfuzz.process
from pravix.first_normal_form.findings import findings
from pravix.relation.types import column_type
from pravix.sources.read import read_source
start = time.perf_counter()
relation = read_source(sys.argv[1]).relation
types = [column_type(column) for column in relation.columns]
read = time.perf_counter() - start
findings(relation)
print(json.dumps({"read": read, "findings": time.perf_counter() - start - read}))
"""


def cells(draw: random.Random, rows: int) -> list[list[object]]:
    """Return a running number, codes of growing variety, and numbers with two places, column by column."""
    columns: list[list[object]] = [list(range(1, rows + 1))]
    for place in range(9):
        variety = 10 ** (1 + place % 5)
        columns.append([f"K{place}-{draw.randrange(variety)}" for _ in range(rows)])
    while len(columns) < COLUMNS:
        columns.append([draw.randrange(100_000) / 100 for _ in range(rows)])
    return columns


def make(folder: Path, rows: int) -> dict[str, Path]:
    """Write the two files and return their paths by what they are."""
    draw = random.Random(1)
    names = [f"c{place}" for place in range(COLUMNS)]
    csv = folder / "wide.csv"
    with csv.open("w", encoding="utf-8") as file:
        file.write(",".join(names) + "\n")
        file.writelines(",".join(map(str, row)) + "\n" for row in zip(*cells(draw, rows), strict=True))
    book = Workbook(write_only=True)
    sheet = book.create_sheet("rows")
    sheet.append(names)
    for row in zip(*cells(draw, rows // 10), strict=True):
        sheet.append(row)
    book.save(folder / "wide.xlsx")
    return {f"CSV, {rows:,} x {COLUMNS}": csv, f"workbook, {rows // 10:,} x {COLUMNS}": folder / "wide.xlsx"}


def measured(code: str, path: Path) -> dict[str, float]:
    """Run one program on one file in a process of its own and return its seconds."""
    done = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True)
    found: dict[str, float] = json.loads(done.stdout)
    return found


def main() -> None:
    """Print a table of ratios, as medians of the runs."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--rows", type=int, default=1_000_000)
    options = parser.parse_args()
    machine = f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}"
    print(f"{machine}, {options.runs} runs")
    print(f"{'file':<28}{'pandas s':>10}{'pravix s':>10}{'ratio':>8}{'findings / reading':>20}")
    with tempfile.TemporaryDirectory() as folder:
        for told, path in make(Path(folder), options.rows).items():
            pairs = [(measured(READ_PANDAS, path), measured(READ_PRAVIX, path)) for _ in range(options.runs)]
            theirs = statistics.median(one["read"] for one, _ in pairs)
            ours = statistics.median(other["read"] for _, other in pairs)
            ratio = statistics.median(other["read"] / one["read"] for one, other in pairs)
            findings = statistics.median(other["findings"] / other["read"] for _, other in pairs)
            print(f"{told:<28}{theirs:>10.2f}{ours:>10.2f}{ratio:>8.2f}{findings:>20.2f}")


if __name__ == "__main__":
    main()
