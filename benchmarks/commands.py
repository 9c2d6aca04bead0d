"""What follows a design: each command on the folder of a flat file, against the decompose that wrote it.

    python benchmarks/commands.py [--rows 1000000 --rows 3000000] [--memory 500MB]

The new file that is checked has the rows of the old one under other numbers. With --memory its rows and those
of the file stay outside memory.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import click
from costs import cost_of
from scale import PROGRAM, write_flat

_COMMANDS = (
    ("prove", "made"),
    ("check", "made", "next.csv"),
    ("load", "made", "sqlite:///made.db"),
    ("load", "made", "duckdb:///made.duckdb"),
    ("sql", "made", "--rows"),
    ("report", "made", "report.html"),
    ("dictionary", "made", "dictionary.md"),
    ("diagram", "made", "diagram.svg"),
)


def _next_month(path: Path, new: Path) -> None:
    """Write the same rows under other numbers."""
    with path.open(encoding="utf-8") as old, new.open("w", encoding="utf-8") as file:
        file.write(next(old))
        file.writelines(f"N{line[1:]}" for line in old)


@click.command(help=__doc__.split("\n")[0])
@click.option("--rows", multiple=True, type=int, default=(1_000_000,), show_default=True)
@click.option("--memory", help="Rows that take more stay outside memory.")
def main(rows: tuple[int, ...], memory: str | None) -> None:
    """Print a line for each command: its cost, and its time as a multiple of that of decompose."""
    limit = ("--memory", memory) if memory else ()
    for count in rows:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            write_flat(folder / "flat.csv", count)
            _next_month(folder / "flat.csv", folder / "next.csv")
            first = cost_of([[PROGRAM, "decompose", "flat.csv", "--out", "made", *limit]], folder)
            print(f"{count:>12,} rows: {'decompose --out':28} {first}", flush=True)
            for command in _COMMANDS:
                wanted = [PROGRAM, *command, *(limit if command[0] == "check" else ())]
                cost = cost_of([wanted], folder)
                told = " ".join(part for part in command if part != "made")
                times = cost.seconds / first.seconds
                print(f"{count:>12,} rows: {told:28} {cost}; {times:5.2f} times decompose", flush=True)


if __name__ == "__main__":
    main()
