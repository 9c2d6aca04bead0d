"""How often the design is the expert's, and how sure it says it is, on made-up schemas of many families.

    python benchmarks/judgement.py [--seeds 1000-1011] [--family star] [--ask] [--detail]
                                   [--draw reliability.svg] [--floor F1 SIGNED]

For each family and seed a flat table is made whose rules are known; it is judged and decomposed without
help. With --ask the first open question is answered truthfully until none is open. Printed by family: the
mean F1 over tables (a table counts as found when it has exactly the right columns), the share of designs
that are signed (every table right, and its key), the Brier score of the stated confidences, how many tables
are sure and how many of those are wrong; with --ask the first two again after the questions, and how many
were asked. --draw draws what was stated against what was found. --floor ends with status 1 where the mean F1
or the share signed is lower. Everything follows from the seeds; there is no time in the figures.
"""

from __future__ import annotations

import sys
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import pairwise, repeat
from statistics import mean, median

import click
from schemas import FAMILIES, Case, case

from pravix.design.build import designed
from pravix.design.model import Table
from pravix.discovery.discovered import Discovery
from pravix.discovery.search import discover
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import near_dependencies
from pravix.judgement.questions import Choice, open_questions
from pravix.judgement.weights import SURE_FROM, WEIGHED_TO
from pravix.ledger.said import Said
from pravix.relation.relation import Relation
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency

_MOST_QUESTIONS = 25
_BINS = (0.0, 0.3, 0.5, 0.7, 0.8, 0.9, 0.95, 0.98, 1.0001)


@dataclass(frozen=True)
class Score:
    """How near a design comes to the right one; ``stated`` pairs each table's confidence with its truth."""

    f1: float
    signed: bool
    stated: tuple[tuple[float, bool], ...]
    missing: tuple[tuple[str, ...], ...]
    wrong: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Result:
    """The score without help, that after the answers, and the questions."""

    before: Score
    after: Score | None
    asked: tuple[str, ...]


def scored(made: Case, relation: Relation, judgement: Judgement) -> Score:
    """Return the score of the design that follows from a judgement."""
    design = designed(repaired(relation, (), "none"), judgement)
    right = {_referring(columns, made): keys for columns, keys in made.tables.items()}
    found: dict[frozenset[str], bool] = {}
    stated = []
    for table in design.tables:
        for columns, key in _flat(table, made.header):
            told = _referring(columns, made)
            found[told] = told in right and _either(key, made) in {_either(one, made) for one in right[told]}
            stated.append((table.confidence, found[told]))
    hit = sum(columns in right for columns in found)
    return Score(
        f1=2 * hit / (len(found) + len(right)),
        signed=set(found) == set(right) and all(found.values()),
        stated=tuple(stated),
        missing=tuple(_ordered(one, made) for one in set(right) - set(found)),
        wrong=tuple(_ordered(one, made) for one, fine in found.items() if not fine),
    )


def _ordered(columns: Iterable[str], made: Case) -> tuple[str, ...]:
    return tuple(name for name in made.header if name in set(columns))


def _flat(table: Table, header: tuple[str, ...]) -> list[tuple[frozenset[str], frozenset[str]]]:
    """Return the flat columns and key of a table; of one with roles those of each role, as one table each."""
    if table.roles:
        return [
            (
                frozenset(flat for _, flat in role.columns),
                frozenset(flat for own, flat in role.columns if own in table.primary_key),
            )
            for role in table.roles
        ]
    return [(frozenset(name for name in table.column_names if name in header), frozenset(table.primary_key))]


def _either(columns: frozenset[str], made: Case) -> frozenset[str]:
    """Return columns with each further code or name of a thing as the one that leads."""
    return frozenset(made.twins.get(name, name) for name in columns)


def _referring(columns: frozenset[str], made: Case) -> frozenset[str]:
    """Return the columns of a table; a thing is referred to by its leading column, whichever was taken."""
    return frozenset(
        name if made.twins.get(name, name) in columns else made.twins.get(name, name) for name in columns
    )


def truthful(made: Case, rule: Dependency) -> bool:
    """Return whether a rule follows from the rules of the case."""
    return rule.dependent in closure(rule.determinant, made.rules)


def chosen(made: Case, question: Choice, said: Said) -> Said:
    """Return what is said of keys after a truthful answer to a question with choices."""
    choices = [frozenset(choice) for choice in question.choices]
    if question.kind.value == "refer":
        best = max(choices, key=lambda one: sum(one <= columns for columns in made.tables))
        return Said(said.key, said.not_keys, (*said.refer_by, best))
    varied = set(made.header)
    right = [one for one in choices if varied <= closure(one, made.rules)]
    if right:
        return Said(min(right, key=len), said.not_keys, said.refer_by)
    return Said(said.key, (*said.not_keys, *choices), said.refer_by)


def run(family: str, seed: int, ask: bool) -> Result:
    """Return how one case comes out."""
    made = case(family, seed)
    relation = Relation.from_rows(made.header, made.rows)
    discovery = discover(relation, largest=WEIGHED_TO)
    judgement = judge(relation, discovery)
    before = scored(made, relation, judgement)
    if not ask:
        return Result(before, None, ())
    judgement, asked = answered(made, relation, discovery, judgement)
    return Result(before, scored(made, relation, judgement), asked)


def answered(
    made: Case, relation: Relation, discovery: Discovery, judgement: Judgement
) -> tuple[Judgement, tuple[str, ...]]:
    """Return the judgement when every question was answered truthfully, and the questions."""
    accepted: list[Dependency] = []
    rejected: list[Dependency] = []
    asked: list[str] = []
    said = Said()
    while len(asked) < _MOST_QUESTIONS:
        questions = open_questions(relation, judgement, near_dependencies(relation, judgement))
        if not questions:
            break
        first = questions[0]
        asked.append(first.id)
        if isinstance(first, Choice):
            said = chosen(made, first, said)
        else:
            for rule in first.rules:
                (accepted if truthful(made, rule) else rejected).append(rule)
        judgement = judge(relation, discovery, accepted, rejected, said=said)
    return judgement, tuple(asked)


def stated_against_found(results: Sequence[Result]) -> list[tuple[float, float, int]]:
    """Return for each range of confidence the mean stated, the share that was right, and how many."""
    pairs = [pair for result in results for pair in result.before.stated]
    bins = []
    for low, high in pairwise(_BINS):
        inside = [(stated, right) for stated, right in pairs if low <= stated < high]
        if inside:
            told, found = mean(one for one, _ in inside), mean(float(right) for _, right in inside)
            bins.append((told, found, len(inside)))
    return bins


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
@click.option("--draw", type=click.Path(dir_okay=False))
@click.option("--floor", nargs=2, type=float)
def main(
    seeds: str,
    family: tuple[str, ...],
    ask: bool,
    detail: bool,
    draw: str | None,
    floor: tuple[float, float] | None,
) -> None:
    """Print the figures, a line for each family."""
    everything: list[Result] = []
    after = "   after: F1 signed  asked" if ask else ""
    click.echo(f"{'family':<12}{'cases':>6}{'F1':>7}{'signed':>8}{'Brier':>8}{'sure':>9}{'wrong':>7}{after}")
    for name in family or FAMILIES:
        with ProcessPoolExecutor() as workers:
            results = list(workers.map(run, repeat(name), _numbers(seeds), repeat(ask)))
        for seed, result in zip(_numbers(seeds), results, strict=True):
            if detail and not (result.after or result.before).signed:
                _show(name, seed, result)
        everything += results
        click.echo(_line(name, results))
    click.echo(_line("all", everything))
    for told, found, number in stated_against_found(everything):
        click.echo(f"stated {told:.3f}  found {found:.3f}  of {number:,} tables")
    if draw:
        from reliability import drawn

        drawn(stated_against_found(everything), draw)
    f1, signed = _measures([result.before for result in everything])
    if floor and (f1 < floor[0] or signed < floor[1]):
        click.echo(f"below the floor: F1 {f1:.3f} of {floor[0]}, signed {signed:.2f} of {floor[1]}", err=True)
        sys.exit(1)


def _show(family: str, seed: int, result: Result) -> None:
    made, score = case(family, seed), result.after or result.before
    click.echo(f"  {family} {seed}: {len(made.rows)} x {len(made.header)}: {', '.join(made.header)}")
    click.echo(f"    missing {_shown(score.missing)}\n    instead {_shown(score.wrong)}")
    for question in result.asked:
        click.echo(f"    asked {question}")


def _measures(scores: Sequence[Score]) -> tuple[float, float]:
    return mean(one.f1 for one in scores), mean(float(one.signed) for one in scores)


def _line(name: str, results: list[Result]) -> str:
    before = [result.before for result in results]
    f1, signed = _measures(before)
    stated = [pair for one in before for pair in one.stated]
    brier = mean((told - right) ** 2 for told, right in stated)
    sure = [right for told, right in stated if told >= SURE_FROM]
    line = f"{name:<12}{len(before):>6}{f1:>7.3f}{signed:>8.2f}{brier:>8.3f}"
    line += f"{len(sure):>5}/{len(stated):<4}{len(sure) - sum(sure):>5}"
    after = [result.after for result in results if result.after is not None]
    if after:
        f1, signed = _measures(after)
        asked = [len(result.asked) for result in results]
        line += f"{f1:>14.3f}{signed:>7.2f}  median {median(asked):g}, most {max(asked)}"
    return line


if __name__ == "__main__":
    main()
