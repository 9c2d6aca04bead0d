"""How well links among several tables are found, on made-up sets of tables whose links are known.

    python benchmarks/linked_sets.py [--seeds 3000-3011] [--detail]

The sets are the right tables of the made-up schemas (``schemas.py``), as separate files would hold them: in
its own table a key is often called only ``no`` or ``id``; and each table gets columns that match others by
luck: running numbers, ranks, small counts. Printed: precision and recall of the links, by family and in all.
"""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

import click
from schemas import case

from pravix.judgement.linking import linked
from pravix.relation.grouping import blank_in, distinct_rows
from pravix.relation.relation import Column, Relation
from pravix.relation.words import IDENTIFIER_WORDS, noun, words

FAMILIES = ("star", "snowflake", "chain", "dated", "junction", "lines", "rate")

End = tuple[str, tuple[str, ...]]


@dataclass(frozen=True)
class LinkedSet:
    """Tables by name, and their links: a table with its columns, and the table and key that they refer to."""

    tables: dict[str, Relation]
    links: frozenset[tuple[End, End]]


def linked_set(family: str, seed: int) -> LinkedSet:
    """Return the set of a family and a seed."""
    made, draw = case(family, seed), Random(f"linked {family} {seed}")
    flat = Relation.from_rows(made.header, made.rows)
    place = made.header.index
    order = sorted(made.tables, key=lambda one: sorted(map(place, one)))
    names: dict[frozenset[str], str] = {}
    for columns in order:
        key = sorted(min(made.tables[columns], key=len), key=made.header.index)
        wanted = "_".join(dict.fromkeys(word for name in key for word in noun(name))) or "table"
        while wanted in names.values():
            wanted += "_2"
        names[columns] = wanted
    renamed = {columns: _own_names(made.tables[columns], columns, draw) for columns in order}
    links = set()
    for columns in order:
        for other in order:
            keys = [key for key in made.tables[other] if key <= columns] if other != columns else []
            if keys and not any(set(key) >= set(columns) for key in keys):
                key = sorted(keys[0], key=made.header.index)
                here = names[columns], tuple(renamed[columns].get(name, name) for name in key)
                links.add((here, (names[other], tuple(renamed[other].get(name, name) for name in key))))
    tables = {}
    for columns in order:
        rows = distinct_rows(flat, sorted(columns, key=made.header.index))
        key = min(made.tables[columns], key=len)
        rows = rows.take((~blank_in(rows, key)).nonzero()[0])
        tables[names[columns]] = _with_luck(_called(rows, renamed[columns]), draw)
    return LinkedSet(tables, frozenset(_direct(links)))


def _direct(links: set[tuple[End, End]]) -> set[tuple[End, End]]:
    """Leave out what a composite link carries on: (place, day) refers to a table that refers by place."""

    def carried(here: End, there: End) -> bool:
        wider = [far for other, far in links if other[0] == here[0] and set(here[1]) < set(other[1])]
        return any(end[0] == far[0] and far_there == there for far in wider for end, far_there in links)

    return {(here, there) for here, there in links if not carried(here, there)}


def _own_names(keys: tuple[frozenset[str], ...], columns: frozenset[str], draw: Random) -> dict[str, str]:
    """Return how a table calls its own key where it drops its noun: ``drum_no`` is ``no`` there."""
    key = min(keys, key=len)
    if len(key) != 1 or draw.random() < 0.6:
        return {}
    (name,) = key
    last = words(name)[-1:]
    return {name: last[0]} if last and last[0] in IDENTIFIER_WORDS and last[0] not in columns else {}


def _called(relation: Relation, names: dict[str, str]) -> Relation:
    columns = tuple(Column(names.get(one.name, one.name), one.codes, one.values) for one in relation.columns)
    return Relation(columns, relation.row_numbers)


def _with_luck(relation: Relation, draw: Random) -> Relation:
    """Add columns whose values match those of other tables by luck."""
    count = relation.row_count
    made = {
        "line": [str(place + 1) for place in range(count)],
        "rank": [str(draw.randint(1, 9)) for _ in range(count)],
        "copies": [str(draw.randint(1, 40)) for _ in range(count)],
    }
    chosen = [name for name in made if draw.random() < 0.5 and name not in relation.names]
    more = tuple(Column.from_texts(name, made[name]) for name in chosen)
    return Relation((*relation.columns, *more), relation.row_numbers)


def score(wanted: frozenset[tuple[End, End]], tables: dict[str, Relation]) -> tuple[int, int, int, list[str]]:
    """Return how many links were found rightly, were found, are there, and what is wrong."""
    inclusions = [link.inclusion for link in linked(tables).links]
    found = {((one.here.table, one.here.names), (one.there.table, one.there.names)) for one in inclusions}
    wrong = [f"invented {link}" for link in sorted(found - wanted)]
    wrong += [f"missed {link}" for link in sorted(wanted - found)]
    return len(found & wanted), len(found), len(wanted), wrong


@click.command(help=__doc__.split("\n")[0])
@click.option("--seeds", default="3000-3011", show_default=True)
@click.option("--detail", is_flag=True)
def main(seeds: str, detail: bool) -> None:
    """Print precision and recall by family."""
    first, _, last = seeds.partition("-")
    totals = [0, 0, 0]
    for family in FAMILIES:
        sums = [0, 0, 0]
        for seed in range(int(first), int(last or first) + 1):
            made = linked_set(family, seed)
            *counts, wrong = score(made.links, made.tables)
            sums = [one + other for one, other in zip(sums, counts, strict=True)]
            for text in wrong if detail else []:
                click.echo(f"  {family} {seed}: {text}")
        totals = [one + other for one, other in zip(totals, sums, strict=True)]
        click.echo(_line(family, sums))
    click.echo(_line("all", totals))


def _line(name: str, sums: list[int]) -> str:
    hit, found, wanted = sums
    return (
        f"{name:<12} precision {hit / max(found, 1):.3f}  recall {hit / max(wanted, 1):.3f}  ({wanted} links)"
    )


if __name__ == "__main__":
    main()
