"""How well one design for several files merges what belongs together, on made-up sets whose answer is known.

    python benchmarks/joint_sets.py [--seeds 4400-4405] [--detail]

A set holds most rows of a made-up flat sheet (``schemas.py``), registers of some of its things under their
own names (``linked_sets.py``), a second sheet of visits to one thing with all that belongs to it, and the
registers of another schema, with which nothing is to be merged. Tables with a key of the same columns of the
schema are about one thing. Printed: precision and recall of the things that two sources share, by family and
in all; and for how many sets every row of every file was proved to come back.
"""

from __future__ import annotations

import csv
import tempfile
from dataclasses import dataclass
from itertools import combinations
from pathlib import Path
from random import Random

import click
import networkx
from linked_sets import FAMILIES, linked_set
from schemas import case

from pravix.assembly import Assembly
from pravix.design.model import Table
from pravix.relation.relation import Relation
from pravix.theory.closure import closure


@dataclass(frozen=True)
class JointSet:
    """Sources by name, and for each what its columns are called in the schema."""

    sources: dict[str, Relation]
    columns: dict[str, dict[str, str]]


def joint_set(family: str, seed: int) -> JointSet:
    """Return the set of a family and a seed."""
    made, draw = case(family, seed), Random(f"joint {family} {seed}")
    cut = len(made.rows) * 7 // 10
    sources = {"sheet": Relation.from_rows(made.header, made.rows[:cut])}
    columns = {"sheet": {name: name for name in made.header}}
    registers = linked_set(family, seed)
    for name in draw.sample(sorted(registers.tables), min(2, len(registers.tables))):
        relation = registers.tables[name]
        sources[f"{name}_register"] = relation
        columns[f"{name}_register"] = {one: _in_schema(one, name, made.header) for one in relation.names}
    visited = draw.choice(sorted(map(sorted, (keys[0] for keys in made.tables.values()))))
    known = [name for name in made.header if name in closure(visited, made.rules)]
    place = [made.header.index(name) for name in known]
    visits = [
        [f"V{number}", *(row[one] for one in place)]
        for number, row in enumerate(draw.choices(made.rows, k=150))
    ]
    sources["visits"] = Relation.from_rows(["visit_no", *known], visits)
    columns["visits"] = {"visit_no": "visit_no", **{name: name for name in known}}
    other = linked_set(family, seed + 5000)
    for name in sorted(other.tables)[:2]:
        sources[f"{name}_elsewhere"] = other.tables[name]
        columns[f"{name}_elsewhere"] = {one: f"elsewhere {one}" for one in other.tables[name].names}
    return JointSet(sources, columns)


def _in_schema(column: str, table: str, header: tuple[str, ...]) -> str:
    """Return the column of the schema that a register calls by its last word only."""
    if column in header:
        return column
    found = [name for name in header if name.lower().endswith(column.lower()) and _begins(name, table)]
    return found[0] if found else f"{table} {column}"


def _begins(name: str, table: str) -> bool:
    plain = table.replace("_", "").lower()
    return "".join(mark for mark in name.lower() if mark.isalnum()).startswith(plain)


def score(made: JointSet, folder: Path) -> tuple[int, int, int, bool, list[str]]:
    """Return how many shared things were merged rightly, were merged, are there; whether all is proved."""
    for name, relation in made.sources.items():
        with (folder / f"{name}.csv").open("w", newline="", encoding="utf-8") as file:
            csv.writer(file).writerows([relation.names, *relation.rows()])
    assembly = Assembly.of([str(folder / f"{name}.csv") for name in made.sources])

    def keys(source: str, table: Table) -> set[frozenset[str]]:
        flat = {own: one for one, own in table.flat_names.items()}
        return {frozenset(made.columns[source][flat[name]] for name in key) for key in table.keys}

    alone = {
        (source, table.name): keys(source, table)
        for source, bench in assembly.analyses.items()
        for table in bench.design.tables
        if table.primary_key and set(table.primary_key) <= set(table.flat_names.values())
    }
    thing = _things(alone)
    wanted = {
        (a[0], b[0], thing[a]) for a, b in combinations(alone, 2) if a[0] != b[0] and thing[a] == thing[b]
    }
    joint = assembly.design
    found: set[tuple[str, str, int]] = set()
    for number, table in enumerate(joint.tables, 1):
        pieces = [
            next(own for own in alone if own[0] == source and keys(source, one) <= alone[own])
            for source, part in joint.parts.items()
            for one in part.tables
            if one.name == table.name and len(joint.sources_of(table.name)) > 1
        ]
        for a, b in combinations(pieces, 2):
            found.add((a[0], b[0], thing[a] if thing[a] == thing[b] else -number))
    proved = all(holds for holds, _ in assembly.proof)
    details = [f"merged wrongly: {pair}" for pair in found - wanted]
    details += [f"missed: {pair}" for pair in wanted - found]
    return len(found & wanted), len(found), len(wanted), proved, details


def _things(tables: dict[tuple[str, str], set[frozenset[str]]]) -> dict[tuple[str, str], int]:
    """Number the things that tables are about: those with a key in common are about one."""
    graph = networkx.Graph()
    graph.add_nodes_from(tables)
    graph.add_edges_from((a, b) for a, b in combinations(tables, 2) if tables[a] & tables[b])
    groups = networkx.connected_components(graph)
    return {table: number for number, group in enumerate(groups) for table in group}


@click.command(help=__doc__.split("\n")[0])
@click.option("--seeds", default="4400-4405", show_default=True)
@click.option("--detail", is_flag=True)
def main(seeds: str, detail: bool) -> None:
    """Print precision and recall by family."""
    first, _, last = seeds.partition("-")
    total = [0, 0, 0]
    proved, sets = 0, 0
    for family in FAMILIES:
        sums = [0, 0, 0]
        for seed in range(int(first), int(last or first) + 1):
            with tempfile.TemporaryDirectory() as folder:
                *counts, holds, details = score(joint_set(family, seed), Path(folder))
            sums = [one + other for one, other in zip(sums, counts, strict=True)]
            proved, sets = proved + holds, sets + 1
            for text in details if detail else []:
                click.echo(f"  {family} {seed}: {text}")
        total = [one + other for one, other in zip(total, sums, strict=True)]
        click.echo(_line(family, sums))
    click.echo(_line("all", total))
    click.echo(f"every row of every file proved to come back: {proved} of {sets} sets")


def _line(name: str, sums: list[int]) -> str:
    hit, found, wanted = sums
    precision, recall = hit / max(found, 1), hit / max(wanted, 1)
    return f"{name:<12} precision {precision:.3f}  recall {recall:.3f}  ({wanted} shared things)"


if __name__ == "__main__":
    main()
