"""Whether a changed weight is noticed: ten weights are halved, one at a time.

    python benchmarks/mutated.py [--seeds 2001-2002]

For each the small benchmark of judgement.py is run again. A change is noticed where fewer designs or tables
come out right, more tables are sure and wrong, or what is stated fits worse what is found: the figures that
tests/benchmarks/test_judgement_floor.py holds.
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
    ("IN_DETERMINANT", "identifier"), ("EVIDENCE_CAP", ""), ("SHARED_NOUN", ""), ("ANOTHER_NOUN", ""),
    ("BELIEVED_FROM", ""), ("KNOWN_THING", ""), ("KEY", "quantity"), ("KEY", "surprise"), ("LAW", "bits"),
    ("LAW", "any"),
)  # fmt: skip
_UNEVEN = 0.02
"""How much worse what is stated may fit, for the rounding of other machines."""

_ROOMS = (first_pass, header, law, model, row_key, weights)


@dataclass(frozen=True)
class Figures:
    """What the small benchmark measures: the sum of F1, signed designs, right tables, sure and wrong ones.

    ``missed`` sums the squared differences between what is stated of a table and what is found.
    """

    f1: float
    signed: int
    right: int
    sure_but_wrong: int
    missed: float

    def worse_than(self, floor: Figures) -> bool:
        """Return whether any of the figures is worse than that of another."""
        return (
            self.f1 < floor.f1
            or self.signed < floor.signed
            or self.right < floor.right
            or self.sure_but_wrong > floor.sure_but_wrong
            or self.missed > floor.missed + _UNEVEN
        )


def figures(results: Sequence[Result]) -> Figures:
    """Return the figures of some cases."""
    scores = [result.before for result in results]
    stated = [pair for score in scores for pair in score.stated]
    return Figures(
        f1=round(sum(score.f1 for score in scores), 3),
        signed=sum(score.signed for score in scores),
        right=sum(right for _, right in stated),
        sure_but_wrong=sum(told >= weights.SURE_FROM and not right for told, right in stated),
        missed=round(sum((told - right) ** 2 for told, right in stated), 2),
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
        worse = found.worse_than(stands)
        noticed += worse
        click.echo(f"{name} {term}: {'noticed' if worse else 'not noticed'} {found}")
    click.echo(f"{noticed} of {len(_HALVED)} noticed")


if __name__ == "__main__":
    main()
