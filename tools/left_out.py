"""How good the designs of cases are with the weights fitted on the other sources only.

    python tools/left_out.py FOLDER... [--sources FILE] [--seeds 3000-3015] [--fitted]

For each source the weights are fitted on the cases of all others and on made-up schemas (see
``fit_judgement.py``), and its own cases are designed with them: without help, and after every question was
answered truthfully. --fitted uses the weights that stand, for comparison.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from statistics import mean, median
from typing import Any

import click
import fit_judgement as fit
from judgement import Result, Score, answered, scored
from schemas import FAMILIES, Case

from pravix.discovery.search import discover
from pravix.judgement import weights
from pravix.judgement.judge import judge
from pravix.sources.read import read_source
from pravix.theory.dependency import Dependency


@dataclass(frozen=True)
class _Weights:
    law: dict[str, float]
    key: dict[str, float]


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
        found.append(Case(gold["name"], 0, header, (), rules, tables, {}))
    return found


def measured(folder: Path, fitted: _Weights | None) -> Result:
    """Return how one case comes out, with the weights given."""
    if fitted is not None:
        for standing, new in ((weights.LAW, fitted.law), (weights.KEY, fitted.key)):
            standing.update(new)  # type: ignore[attr-defined]
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


@click.command(help=__doc__.split("\n")[0])
@click.argument("folders", nargs=-1, required=True, type=click.Path(exists=True, path_type=Path))
@click.option("--sources", type=click.Path(exists=True, path_type=Path))
@click.option("--seeds", default="3000-3015", show_default=True)
@click.option("--fitted", is_flag=True)
def main(folders: tuple[Path, ...], sources: Path | None, seeds: str, fitted: bool) -> None:
    """Print a line for each source, and one for all."""
    source_of = json.loads(sources.read_text(encoding="utf-8")) if sources else {}
    cases = sorted(gold.parent for folder in folders for gold in folder.glob("*/gold.json"))
    named = [source_of.get(one.name, one.name) for one in cases]
    first, _, last = seeds.partition("-")
    made = [(family, seed) for family in FAMILIES for seed in range(int(first), int(last or first) + 1)]
    with ProcessPoolExecutor() as workers:
        examples = [] if fitted else list(workers.map(fit.from_folder, cases, named))
        if not fitted:
            examples += workers.map(fit.made_up, [one for one, _ in made], [seed for _, seed in made])
    everything = []
    for source in dict.fromkeys(named):
        others = [one for one in examples if one.source != source]
        learned = None if fitted else _Weights(fit.fitted_law(others), fit.fitted_keys(others))
        own = [folder for folder, name in zip(cases, named, strict=True) if name == source]
        with ProcessPoolExecutor() as workers:
            results = list(workers.map(measured, own, [learned] * len(own)))
        click.echo(_line(source, results))
        everything += results
    click.echo(_line("all", everything))


if __name__ == "__main__":
    main()
