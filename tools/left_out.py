"""How good the designs of cases are with the weights fitted on the other sources only.

    python tools/left_out.py LABELS FOLDER... [--sources FILE] [--seeds 3000-3007] [--folds 8] [--fitted]
                                              [--draw FILE]

The sources are dealt into folds. For each fold all weights, those of the roles of columns (LABELS, see
``fit_roles.py``) and those of rules and keys (see ``fit_judgement.py``), are fitted on the cases of the other
folds and on made-up schemas, and its own cases are designed with them: without help, and after every question
was answered truthfully. --fitted uses the weights that stand, for comparison; --draw draws what was stated of
the tables against what was found.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from statistics import mean, median
from typing import Any

import click
import fit_judgement as fit
import fit_roles as roles
from judgement import Result, Score, answered, scored, stated_against_found
from schemas import FAMILIES, Case

from pravix.discovery.search import discover
from pravix.judgement import role_weights, weights
from pravix.judgement.judge import judge
from pravix.sources.read import read_source
from pravix.theory.dependency import Dependency


@dataclass(frozen=True)
class _Weights:
    roles: dict[str, tuple[float, ...]]
    law: dict[str, float]
    key: dict[str, float]

    def use(self) -> None:
        """Put these weights in the place of those that stand, in this process."""
        for standing, new in (
            (role_weights.ROLE_WEIGHTS, self.roles),
            (weights.LAW, self.law),
            (weights.KEY, self.key),
        ):
            if new:
                standing.clear()  # type: ignore[attr-defined]
                standing.update(new)  # type: ignore[attr-defined]


def designs_of(gold: dict[str, Any], header: tuple[str, ...]) -> list[Case]:
    """Return the right design of a case and those that are as good."""
    told = [(frozenset(rule["determinant"]), rule["dependents"]) for rule in gold["rules"]]
    rules = tuple(Dependency(determinant, name) for determinant, names in told for name in names)
    found = []
    for design in (gold, *gold.get("alternatives", [])):
        tables = {
            frozenset(table["columns"]): tuple(frozenset(key) for key in table["keys"])
            for table in design["tables"]
        }
        found.append(Case(gold["name"], 0, header, (), rules, tables, {}, {}))
    return found


def measured(folder: Path, fitted: _Weights) -> Result:
    """Return how one case comes out, with the weights given."""
    fitted.use()
    gold = json.loads((folder / "gold.json").read_text(encoding="utf-8"))
    relation = read_source(str(folder / "flat.csv")).relation
    cases = designs_of(gold, relation.names)
    discovery = discover(relation, largest=weights.WEIGHED_TO)
    judgement = judge(relation, discovery)
    before = _best([scored(one, relation, judgement) for one in cases])
    after, asked = answered(cases[0], relation, discovery, judgement)
    return Result(before, _best([scored(one, relation, after) for one in cases]), asked)


def _best(scores: Sequence[Score]) -> Score:
    return max(scores, key=lambda one: (one.signed, one.f1))


def _line(name: str, results: Sequence[Result]) -> str:
    before, after = [one.before for one in results], [one.after for one in results if one.after]
    stated = [pair for one in before for pair in one.stated]
    sure = [right for told, right in stated if told >= weights.SURE_FROM]
    brier = mean((told - right) ** 2 for told, right in stated)
    asked = [len(one.asked) for one in results]
    return (
        f"{name:<22}F1 {mean(one.f1 for one in before):.3f}"
        f"  signed {sum(one.signed for one in before)}/{len(before)}"
        f"  Brier {brier:.3f}  sure {len(sure)}/{len(stated)}, wrong {len(sure) - sum(sure)}"
        f"  asked {median(asked):g} (most {max(asked)})  then F1 {mean(one.f1 for one in after):.3f}"
        f"  signed {sum(one.signed for one in after)}/{len(after)}"
    )


def _made(seeds: str) -> tuple[list[str], list[int]]:
    first, _, last = seeds.partition("-")
    made = [(family, seed) for family in FAMILIES for seed in range(int(first), int(last or first) + 1)]
    return [family for family, _ in made], [seed for _, seed in made]


def learned(
    cases: Sequence[Path], sources: Sequence[str], labels: Mapping[str, Mapping[str, str]], seeds: str
) -> _Weights:
    """Return the weights that some cases and made-up schemas teach."""
    families, numbers = _made(seeds)
    with ProcessPoolExecutor() as workers:
        columns = list(workers.map(roles.from_folder, cases, [labels[one.name] for one in cases], sources))
        columns += workers.map(roles.made_up, families, numbers, chunksize=8)
    together = [*(column for found in columns for column in found), *roles.seldom_seen(0)]
    names = list(dict.fromkeys(term for one in together for term in one.terms))
    by_role = roles.fitted(together, names)
    told = dict(zip(names, map(tuple, by_role.tolist()), strict=True))
    with ProcessPoolExecutor(initializer=_Weights(told, {}, {}).use) as workers:
        examples = list(workers.map(fit.from_folder, cases, sources))
        examples += workers.map(fit.made_up, families, numbers, chunksize=8)
    return _Weights(told, fit.fitted_law(examples), fit.fitted_keys(examples))


@click.command(help=__doc__.split("\n")[0])
@click.argument("labels", type=click.Path(exists=True, path_type=Path))
@click.argument("folders", nargs=-1, required=True, type=click.Path(exists=True, path_type=Path))
@click.option("--sources", type=click.Path(exists=True, path_type=Path))
@click.option("--seeds", default="3000-3007", show_default=True)
@click.option("--folds", default=8, show_default=True)
@click.option("--fitted", is_flag=True)
@click.option("--draw", type=click.Path(dir_okay=False))
def main(
    labels: Path,
    folders: tuple[Path, ...],
    sources: Path | None,
    seeds: str,
    folds: int,
    fitted: bool,
    draw: str | None,
) -> None:
    """Print a line for each fold and for each folder of cases, and one for all."""
    source_of = json.loads(sources.read_text(encoding="utf-8")) if sources else {}
    told = json.loads(labels.read_text(encoding="utf-8"))
    cases = sorted(gold.parent for folder in folders for gold in folder.glob("*/gold.json"))
    fold_of = {
        source: number % folds
        for number, source in enumerate(dict.fromkeys(source_of.get(one.name, one.name) for one in cases))
    }
    everything: dict[Path, Result] = {}
    for fold in range(folds):
        named = [(one, source_of.get(one.name, one.name)) for one in cases]
        others = [(one, source) for one, source in named if fold_of[source] != fold]
        own = [one for one, source in named if fold_of[source] == fold]
        use = _Weights({}, {}, {})
        if not fitted:
            use = learned([one for one, _ in others], [source for _, source in others], told, seeds)
        with ProcessPoolExecutor() as workers:
            results = list(workers.map(measured, own, [use] * len(own)))
        click.echo(_line(", ".join(one.name for one in own), results))
        everything |= dict(zip(own, results, strict=True))
    for folder in folders:
        click.echo(_line(folder.name, [result for one, result in everything.items() if one.parent == folder]))
    click.echo(_line("all", list(everything.values())))
    if draw:
        from reliability import drawn

        drawn(stated_against_found(list(everything.values())), draw)


if __name__ == "__main__":
    main()
