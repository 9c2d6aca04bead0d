"""Whether a changed weight is noticed: ten weights are halved, one at a time.

    python benchmarks/mutated.py [--seeds 2001-2002]

For each the small benchmark of judgement.py is run again. A change is noticed where the design of any table
or a sure table turns from right to wrong: the figures that tests/benchmarks/test_judgement_floor.py holds.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import click
from judgement import Result, run
from schemas import FAMILIES

from pravix.judgement import first_pass, header, law, model, row_key, weights

_HALVED = (
    ("IN_DETERMINANT", "number"), ("IN_DETERMINANT", "measure"), ("NOTHING_IDENTIFIES", ""),
    ("SHARED_NOUN", ""), ("EVIDENCE_CAP", ""), ("EACH_FURTHER_COLUMN", ""), ("UNTESTED", ""),
    ("KEY", "identifier"), ("KEY", "measure"), ("LAW", "bits"),
)  # fmt: skip
_ROOMS = (first_pass, header, law, model, row_key, weights)


@dataclass(frozen=True)
class Figures:
    """What the small benchmark measures: the sum of F1, signed designs, right tables, sure and wrong ones."""

    f1: float
    signed: int
    right: int
    sure_but_wrong: int


def figures(results: Sequence[Result]) -> Figures:
    """Return the figures of some cases."""
    scores = [result.before for result in results]
    stated = [pair for score in scores for pair in score.stated]
    return Figures(
        f1=round(sum(score.f1 for score in scores), 3),
        signed=sum(score.signed for score in scores),
        right=sum(right for _, right in stated),
        sure_but_wrong=sum(told >= weights.SURE_FROM and not right for told, right in stated),
    )


def halve(name: str, term: str) -> None:
    """Halve one weight wherever it is used."""
    for room in _ROOMS:
        value = getattr(room, name, None)
        if isinstance(value, float):
            setattr(room, name, value / 2)
    table = getattr(weights, name)
    if not isinstance(table, float):
        found = next(key for key in table if getattr(key, "value", key) == term)
        table[found] /= 2


def one(case: tuple[str, int], mutation: tuple[str, str] | None) -> Result:
    """Return how a case comes out with a weight halved."""
    if mutation is not None:
        halve(*mutation)
    return run(*case, False)


def measured(seeds: range, mutation: tuple[str, str] | None) -> Figures:
    """Return the figures with a weight halved; a fresh process for each case."""
    cases = [(family, seed) for family in FAMILIES for seed in seeds]
    with ProcessPoolExecutor(max_tasks_per_child=100) as workers:
        return figures(list(workers.map(one, cases, [mutation] * len(cases))))


@click.command(help=__doc__.split("\n")[0])
@click.option("--seeds", default="2001-2002", show_default=True)
def main(seeds: str) -> None:
    """Print the figures for each weight, and how many changes were noticed."""
    first, _, last = seeds.partition("-")
    numbers = range(int(first), int(last or first) + 1)
    stands = measured(numbers, None)
    click.echo(f"as it stands: {stands}")
    noticed = 0
    for name, term in _HALVED:
        found = measured(numbers, (name, term))
        worse = (
            found.f1 < stands.f1
            or found.signed < stands.signed
            or found.right < stands.right
            or found.sure_but_wrong > stands.sure_but_wrong
        )
        noticed += worse
        click.echo(f"{name} {term}: {'noticed' if worse else 'not noticed'} {found}")
    click.echo(f"{noticed} of {len(_HALVED)} noticed")


if __name__ == "__main__":
    main()
