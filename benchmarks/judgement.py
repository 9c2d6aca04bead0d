"""How often the design is the expert's, on made-up schemas of many families.

    python benchmarks/judgement.py [--seeds 1000-1011] [--family star] [--ask] [--detail]

For each family and seed a flat table is made whose rules are known; it is judged and decomposed without
help. With --ask the first open question is answered truthfully until none is open. Printed by family:
the mean F1 over tables (a table counts as found when it has exactly the right columns), the share of
designs that are exactly right, and with --ask the same after the questions, and how many were asked.
Everything follows from the seeds; there is no time in the figures.
"""

from __future__ import annotations

from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import repeat
from statistics import mean, median

import click
from schemas import FAMILIES, Case, case

from pravix.atomic.repair import repaired
from pravix.design.build import designed
from pravix.design.model import Table
from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import near_dependencies
from pravix.judgement.questions import open_questions
from pravix.judgement.weights import WEIGHED_TO
from pravix.relation.relation import Relation
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency

_MOST_QUESTIONS = 25


@dataclass(frozen=True)
class Score:
    """How near a design comes to the right one."""

    f1: float
    exact: bool
    missing: tuple[tuple[str, ...], ...]
    wrong: tuple[tuple[str, ...], ...]


def scored(made: Case, relation: Relation, judgement: Judgement) -> Score:
    """Return the score of the design that follows from a judgement."""
    design = designed(repaired(relation, (), "none"), judgement)
    found = {columns for table in design.tables for columns in _flat_columns(table, made.header)}
    right = set(made.tables)
    hit = len(found & right)
    return Score(
        f1=2 * hit / (len(found) + len(right)),
        exact=found == right,
        missing=tuple(tuple(name for name in made.header if name in one) for one in right - found),
        wrong=tuple(tuple(name for name in made.header if name in one) for one in found - right),
    )


def _flat_columns(table: Table, header: tuple[str, ...]) -> list[frozenset[str]]:
    """Return the flat columns of a table; of one with roles those of each role, as one table each."""
    if table.roles:
        return [frozenset(flat for _, flat in role.columns) for role in table.roles]
    return [frozenset(name for name in table.column_names if name in header)]


def truthful(made: Case, rule: Dependency) -> bool:
    """Return whether a rule follows from the rules of the case."""
    return rule.dependent in closure(rule.determinant, made.rules)


def run(family: str, seed: int, ask: bool) -> tuple[Score, Score | None, list[str]]:
    """Return the score without help, that after the answers, and the questions."""
    made = case(family, seed)
    relation = Relation.from_rows(made.header, made.rows)
    discovery = discover(relation, largest=WEIGHED_TO)
    judgement = judge(relation, discovery)
    before = scored(made, relation, judgement)
    if not ask:
        return before, None, []
    accepted: list[Dependency] = []
    rejected: list[Dependency] = []
    asked: list[str] = []
    while len(asked) < _MOST_QUESTIONS:
        questions = open_questions(relation, judgement, near_dependencies(relation, judgement))
        if not questions:
            break
        asked.append(questions[0].id)
        for rule in questions[0].rules:
            (accepted if truthful(made, rule) else rejected).append(rule)
        judgement = judge(relation, discovery, accepted, rejected)
    return before, scored(made, relation, judgement), asked


def _numbers(text: str) -> range:
    first, _, last = text.partition("-")
    return range(int(first), int(last or first) + 1)


def _shown(tables: Iterable[tuple[str, ...]]) -> str:
    return "; ".join(", ".join(table) for table in tables) or "-"


@click.command(help=__doc__.split("\n")[0])
@click.option("--seeds", default="1000-1011", show_default=True)
@click.option("--family", type=click.Choice(FAMILIES), multiple=True)
@click.option("--ask", is_flag=True)
@click.option("--detail", is_flag=True)
def main(seeds: str, family: tuple[str, ...], ask: bool, detail: bool) -> None:
    """Print the figures, a line for each family."""
    everything: list[tuple[Score, Score | None, list[str]]] = []
    click.echo(
        f"{'family':<12}{'cases':>6}{'F1':>7}{'exact':>7}" + ("   after: F1  exact  asked" if ask else "")
    )
    for name in family or FAMILIES:
        with ProcessPoolExecutor() as workers:
            results = list(workers.map(run, repeat(name), _numbers(seeds), repeat(ask)))
        for seed, result in zip(_numbers(seeds), results, strict=True):
            if detail and not result[0].exact:
                made = case(name, seed)
                click.echo(
                    f"  {name} {seed}: {len(made.rows)} x {len(made.header)}: {', '.join(made.header)}"
                )
                click.echo(f"    missing {_shown(result[0].missing)}\n    instead {_shown(result[0].wrong)}")
        everything += results
        click.echo(_line(name, results))
    click.echo(_line("all", everything))


def _line(name: str, results: list[tuple[Score, Score | None, list[str]]]) -> str:
    before = [result[0] for result in results]
    f1, exact = mean(one.f1 for one in before), mean(one.exact for one in before)
    line = f"{name:<12}{len(before):>6}{f1:>7.3f}{exact:>7.2f}"
    after = [result[1] for result in results if result[1] is not None]
    if after:
        asked = [len(result[2]) for result in results]
        line += f"{mean(one.f1 for one in after):>12.3f}{mean(one.exact for one in after):>7.2f}"
        line += f"  median {median(asked):g}, most {max(asked)}"
    return line


if __name__ == "__main__":
    main()
