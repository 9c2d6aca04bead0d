"""How much of what hangs off the main tables is found: parts, links, roles, computed columns, headers.

    python benchmarks/whole_designs.py [--seeds 1000-1059] [--detail] [--floor FOUND FALSE]

For each seed a made-up sheet is read, what is proposed is answered with the proposal, and the design is
compared with what is right (``whole_sheets.py``). Printed by kind: how many right things are found, how many
of the others are asked about, and how many things are found that are not right. A thing that is asked about
counts as neither found nor false. Everything follows from the seeds. --floor ends with status 1 where a
smaller share is found, or a larger share of what is found is false.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

import click
from whole_sheets import Sheet, Thing, sheet

from pravix.analysis import Analysis
from pravix.design.model import Design
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.findings import findings

_ANSWERED = ("list", "family", "computed")


@dataclass(frozen=True)
class Seen:
    """What a design shows and asks about."""

    found: frozenset[Thing]
    asked: frozenset[Thing]


def seen(made: Sheet) -> Seen:
    """Read, repair and design a sheet; return what was found."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "jobs.csv"
        path.write_text(made.text, encoding="utf-8")
        analysis = Analysis(str(path))
        names = analysis.source.relation.names
        if names != made.header:
            return Seen(frozenset({("header", "wrong")}), frozenset())
        proposed = _wanted(findings(analysis.source.relation, topics=_ANSWERED))
        analysis = analysis.with_ledger(replace(analysis.ledger, answers=tuple(proposed.values())))
        found = {*proposed, ("header", _kind(made))}
        design = analysis.design
        return Seen(frozenset(found | _links(design) | _roles(design) | _part_tables(design)), _asked(design))


def _kind(made: Sheet) -> str:
    return next(thing[1] for thing in made.right if thing[0] == "header")


def _wanted(found: list[Finding]) -> dict[Thing, Answer]:
    """Return the answers that are proposed, by what they are about; what another takes away is left."""
    wanted: dict[Thing, Answer] = {}
    for one in found:
        if not one.answers or one.answers[0] == "keep":
            continue
        name = one.topic.name
        thing = (name, "part") if name == "family" else (name, one.columns[0])
        wanted[thing] = Answer(one.id, one.answers[0])
    return wanted


def _links(design: Design) -> set[Thing]:
    return {
        ("link", _flat(design, table.name, link.columns[0]), _flat(design, link.table, link.references[0]))
        for table in design.tables
        for link in table.foreign_keys
        if getattr(link, "by_values", False) and len(link.columns) == 1
    }


def _flat(design: Design, table: str, column: str) -> str:
    return next((flat for flat, own in design.table(table).flat_names.items() if own == column), column)


def _roles(design: Design) -> set[Thing]:
    return {
        ("role", *sorted(dict(role.columns)[table.natural_key[0]] for role in table.roles))
        for table in design.tables
        if table.roles
    }


def _part_tables(design: Design) -> set[Thing]:
    """Return the tables of what fixes facts of parts: of a family, those with a name and a price."""
    return {
        ("part table", "part")
        for table in design.tables
        if getattr(table, "part_of", "") and table.made_from is None and len(table.column_names) == 3
    }


def _asked(design: Design) -> frozenset[Thing]:
    asked: set[Thing] = set()
    for doubt in getattr(design, "doubts", ()):
        if not doubt.made:
            asked |= {("link", *doubt.one, *doubt.other), ("role", *sorted((*doubt.one, *doubt.other)))}
    return frozenset(asked)


def _scored(seed: int) -> tuple[int, Sheet, Seen]:
    made = sheet(seed)
    return seed, made, seen(made)


@click.command()
@click.option("--seeds", default="1000-1059", show_default=True)
@click.option("--detail", is_flag=True, help="Name what is missed and what is false.")
@click.option("--floor", nargs=2, type=float, metavar="FOUND FALSE")
def main(seeds: str, detail: bool, floor: tuple[float, float] | None) -> None:
    """Print by kind what is found, asked, missed and false."""
    first, _, last = seeds.partition("-")
    counts: dict[str, Counter[str]] = {}
    with ProcessPoolExecutor() as workers:
        for seed, made, told in workers.map(_scored, range(int(first), int(last or first) + 1)):
            for thing in sorted(made.right | told.found):
                kind = counts.setdefault(thing[0], Counter())
                if thing in made.right:
                    how = "found" if thing in told.found else "asked" if thing in told.asked else "missed"
                else:
                    how = "false"
                kind[how] += 1
                if detail and how in ("missed", "false", "asked"):
                    print(seed, how, *thing)
    print(f"{'':12}{'right':>7}{'found':>7}{'asked':>7}{'missed':>8}{'false':>7}")
    total: Counter[str] = Counter()
    for kind, count in sorted(counts.items()):
        total += count
        print(_line(kind, count))
    print(_line("all", total))
    right = total["found"] + total["asked"] + total["missed"]
    share, false = total["found"] / right, total["false"] / max(1, total["found"] + total["false"])
    print(f"found {share:.3f}, false {false:.3f}")
    if floor is not None and (share < floor[0] or false > floor[1]):
        sys.exit(1)


def _line(kind: str, count: Counter[str]) -> str:
    right = count["found"] + count["asked"] + count["missed"]
    cells = (right, count["found"], count["asked"], count["missed"], count["false"])
    return f"{kind:12}" + "".join(
        f"{cell:>{width}}" for cell, width in zip(cells, (7, 7, 7, 8, 7), strict=True)
    )


if __name__ == "__main__":
    main()
