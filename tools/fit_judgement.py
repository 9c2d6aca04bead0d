"""Fit the weights of the judgement on cases whose designs are known; say how good they are on others.

    python tools/fit_judgement.py FOLDER... [--sources FILE] [--seeds 3000-3015]

Each FOLDER holds cases, each a folder with flat.csv and gold.json (its rules and tables). Made-up schemas
of ``benchmarks/schemas.py`` are added. ``--sources`` names a JSON object that gives for a case the source it
comes from; the cases of one source are left out together when the weights are measured. Printed are the
measures on what was left out, and the weights fitted on everything, as ``judgement/weights.py`` has them.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import click
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "benchmarks"))

from schemas import FAMILIES, case

from pravix.discovery.search import discover
from pravix.judgement.column_roles import Probabilities
from pravix.judgement.judge import judge
from pravix.judgement.judgement import Judgement
from pravix.judgement.law import Laws
from pravix.judgement.row_key import row_key_terms
from pravix.judgement.weights import KEY, LAW, WEIGHED_TO
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency

Terms = Mapping[str, float]
Vector = NDArray[np.float64]

_MADE_UP = 0.25
_LAW_HELD = 0.1
_KEY_HELD = 0.1
_NONE = "none of them"
_ROUNDS = 60


@dataclass(frozen=True)
class Example:
    """One case: its source, the terms of its weighed rules with the truth, and of its keys.

    ``chosen`` tells of each key that may identify a row what its columns are, its other terms, and whether it
    does identify a row by the rules.
    """

    source: str
    real: bool
    rules: list[tuple[Terms, bool]]
    chosen: list[tuple[list[Probabilities], Terms, bool]]


def example(relation: Relation, rules: Sequence[Dependency], source: str, real: bool) -> Example:
    """Return what can be learned from a table whose rules are known."""
    judgement: Judgement = judge(relation, discover(relation, largest=WEIGHED_TO))
    laws = Laws(relation, judgement)
    told = []
    for judged, _ in laws.wrong():
        if judged.evidence is None or judged.weighing is None:
            continue
        true = judged.rule.dependent in closure(judged.rule.determinant, rules)
        told.append((laws.features(judged.rule, judged.evidence, judged.weighing), true))
    varied = {column.name for column in relation.columns if column.distinct > 1}
    chosen = [
        (
            *row_key_terms(relation, key.columns, judgement.uses, judgement.roles, judgement.trusted),
            varied <= closure(key.columns, rules),
        )
        for key in judgement.row_keys
    ]
    return Example(source, real, told, chosen)


def from_folder(folder: Path, source: str) -> Example:
    """Return the example of a case on disk."""
    gold = json.loads((folder / "gold.json").read_text(encoding="utf-8"))
    rules = [
        Dependency(frozenset(rule["determinant"]), name)
        for rule in gold["rules"]
        for name in rule["dependents"]
    ]
    relation = read_source(str(folder / "flat.csv")).relation
    return example(relation, rules, source, True)


def made_up(family: str, seed: int) -> Example:
    """Return the example of a made-up schema."""
    made = case(family, seed)
    relation = Relation.from_rows(made.header, made.rows)
    return example(relation, made.rules, f"made up {family} {seed}", False)


def fitted_law(examples: Sequence[Example]) -> dict[str, float]:
    """Return the weights of a logistic regression that penalises large ones, by Newton's method."""
    names, rows, truth, weight = list(LAW), [], [], []
    for one in examples:
        for terms, true in one.rules:
            rows.append([terms[name] for name in names])
            truth.append(float(true))
            weight.append((1.0 if one.real else _MADE_UP) / len(one.rules) ** 0.5)
    x, y, w = np.array(rows), np.array(truth), np.array(weight)
    held = 2 * _LAW_HELD * (np.array(names) != "any")
    found = np.zeros(len(names))
    for _ in range(_ROUNDS):
        p = 1 / (1 + np.exp(-x @ found))
        slope = x.T @ (w * (y - p)) - held * found
        curve = (x * (w * p * (1 - p))[:, None]).T @ x + np.diag(held + 1e-9)
        step = np.linalg.solve(curve, slope)
        found = found + step
        if np.abs(step).max() < 1e-9:
            break
    return dict(zip(names, found.tolist(), strict=True))


def fitted_keys(examples: Sequence[Example]) -> dict[str, float]:
    """Return the weights of the conditional logit of keys, held near those that stand."""
    prior = np.array(list(KEY.values()))
    choices = [(_choice(one), 1.0 if one.real else _MADE_UP) for one in examples if one.chosen]

    def loss(weights: Vector) -> tuple[float, Vector]:
        value, slope = _KEY_HELD * float(((weights - prior) ** 2).sum()), 2 * _KEY_HELD * (weights - prior)
        for choice, counted in choices:
            bits, slopes = choice.bits(weights)
            odds = np.exp2(bits - bits.max())
            wanted = odds * choice.right
            value -= counted * float(np.log(wanted.sum() / odds.sum()))
            slope += counted * np.log(2) * (odds / odds.sum() - wanted / wanted.sum()) @ slopes
        return value, slope

    found = minimize(loss, prior, jac=True, method="L-BFGS-B")
    return dict(zip(KEY, found.x.tolist(), strict=True))


@dataclass(frozen=True)
class _Choice:
    """The keys of a file, last that there is none: columns by role, other terms, which are right."""

    key: Vector
    roles: Vector
    terms: Vector
    right: Vector

    def bits(self, weights: Vector) -> tuple[Vector, Vector]:
        """Return the bits of each key, and their slopes."""
        parts = self.roles * np.exp2(weights)
        sums = parts.sum(axis=1)
        bits, slopes = self.terms @ weights, self.terms.copy()
        np.add.at(bits, self.key, np.log2(sums))
        np.add.at(slopes, self.key, parts / sums[:, None])
        return bits, slopes


def _choice(one: Example) -> _Choice:
    names = list(KEY)
    right = [true for *_, true in one.chosen]
    terms = [[terms.get(name, 0.0) for name in names] for _, terms, _ in one.chosen]
    terms.append([float(name == _NONE) for name in names])
    columns = [(place, roles) for place, (units, _, _) in enumerate(one.chosen) for roles in units]
    by_name = [{role.value: share for role, share in roles.items()} for _, roles in columns]
    return _Choice(
        key=np.array([place for place, _ in columns]),
        roles=np.array([[roles.get(name, 0.0) for name in names] for roles in by_name]),
        terms=np.array(terms),
        right=np.array([*right, not any(right)], dtype=float),
    )


def measured_law(examples: Sequence[Example]) -> str:
    """Return how good the regression is on sources that were left out of it."""
    stated, found = [], []
    for left_out, others in _left_out(examples):
        weights = fitted_law(others)
        for one in left_out:
            for terms, true in one.rules:
                odds = sum(weights[name] * value for name, value in terms.items())
                stated.append(1 / (1 + np.exp(-odds)))
                found.append(float(true))
    p, y = np.array(stated), np.array(found)
    loss = -(y * np.log(p) + (1 - y) * np.log(1 - p)).mean()
    clear = (p > 0.95) | (p < 0.05)
    wrong = clear & ((p > 0.5) != (y > 0.5))
    accuracy, brier = ((p > 0.5) == y).mean(), ((p - y) ** 2).mean()
    return (
        f"rules: {len(y):,} of {_sources(examples)} sources left out in turn; accuracy {accuracy:.3f}, "
        f"log-loss {loss:.3f}, Brier {brier:.4f}; {clear.sum():,} sure, {wrong.sum()} of them wrong"
    )


def measured_keys(examples: Sequence[Example]) -> str:
    """Return how good the choice of the row's key is on sources that were left out of it."""
    stated, found = [], []
    for left_out, others in _left_out(examples):
        weights = np.array(list(fitted_keys(others).values()))
        for one in (one for one in left_out if one.chosen):
            choice = _choice(one)
            bits, _ = choice.bits(weights)
            odds = np.exp2(bits - bits.max())
            best = int(odds[:-1].argmax()) if len(odds) > 1 else 0
            stated.append(odds[best] / odds.sum())
            found.append(choice.right[best])
    p, y = np.array(stated), np.array(found)
    sure = p >= 0.95
    return (
        f"keys: {len(y)} files; right {int(y.sum())}, Brier {((p - y) ** 2).mean():.4f}; "
        f"{sure.sum()} sure, {int((sure & (y < 1)).sum())} of them wrong"
    )


def _left_out(examples: Sequence[Example]) -> list[tuple[list[Example], list[Example]]]:
    sources = dict.fromkeys(one.source for one in examples if one.real)
    return [
        ([one for one in examples if one.source == name], [one for one in examples if one.source != name])
        for name in sources
    ]


def _sources(examples: Sequence[Example]) -> int:
    return len({one.source for one in examples if one.real})


def _printed(name: str, weights: Mapping[str, float]) -> None:
    click.echo(f"{name}: Mapping[str, float] = {{")
    for term, value in weights.items():
        click.echo(f'    "{term}": {value:.2f},')
    click.echo("}")


@click.command(help=__doc__.split("\n")[0])
@click.argument(
    "folders", nargs=-1, required=True, type=click.Path(exists=True, file_okay=False, path_type=Path)
)
@click.option("--sources", type=click.Path(exists=True, path_type=Path))
@click.option("--seeds", default="3000-3015", show_default=True)
def main(folders: tuple[Path, ...], sources: Path | None, seeds: str) -> None:
    """Print the measures and the weights."""
    source_of = json.loads(sources.read_text(encoding="utf-8")) if sources else {}
    cases = sorted(gold.parent for folder in folders for gold in folder.glob("*/gold.json"))
    first, _, last = seeds.partition("-")
    made = [(family, seed) for family in FAMILIES for seed in range(int(first), int(last or first) + 1)]
    with ProcessPoolExecutor() as workers:
        examples = list(workers.map(from_folder, cases, [source_of.get(one.name, one.name) for one in cases]))
        examples += workers.map(made_up, [family for family, _ in made], [seed for _, seed in made])
    click.echo(measured_law(examples))
    click.echo(measured_keys(examples))
    _printed("LAW", fitted_law(examples))
    _printed("KEY", fitted_keys(examples))


if __name__ == "__main__":
    main()
