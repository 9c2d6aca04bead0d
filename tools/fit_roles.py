"""Fit the weights by which a column's role is told; say how good they are on sources left out.

    python tools/fit_roles.py LABELS FOLDER... [--sources FILE] [--seeds 3000-3007] [--write]

LABELS is a JSON object that gives for each case, a folder with flat.csv in one of the FOLDERs, the role of
each column. Made-up schemas of ``benchmarks/schemas.py`` are added. Printed are the accuracy and the
log-loss (in natural logarithms) on the columns of sources left out, by role, and what was most often taken
for what. --write writes ``judgement/role_weights.py``.
"""

from __future__ import annotations

import json
import sys
from collections import Counter
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from random import Random

import click
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import log_softmax

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "benchmarks"))

from schemas import FAMILIES, case

from pravix.judgement import column_roles
from pravix.judgement.column_roles import ColumnRole, header_terms, terms
from pravix.relation.relation import Relation
from pravix.sources.read import read_source

Matrix = NDArray[np.float64]

_ROLES = tuple(role.value for role in ColumnRole)
_MADE_UP = 0.5
"""How much all made-up columns together count beside the real ones."""

_ROWS = 40
_SELDOM_SEEN = 24
"""How many tables of columns that few tables have are added."""

_HELD = 0.2
"""The strength of the ridge penalty."""

_TARGET = Path(column_roles.__file__).with_name("role_weights.py")
_HEAD = '''"""The weights of the roles of columns, fitted by ``tools/fit_roles.py``: not by hand."""

from __future__ import annotations

from collections.abc import Mapping

ROLE_WEIGHTS: Mapping[str, tuple[float, ...]] = {
'''
_FOOT = '''}
"""What each term says for each of ``column_roles.ColumnRole`` in turn, in natural logarithms of odds."""
'''


@dataclass(frozen=True)
class Example:
    """One column: where it comes from, its terms, its role."""

    case: str
    name: str
    source: str
    real: bool
    terms: Mapping[str, float]
    role: int


def examples(
    relation: Relation, roles: Mapping[str, str], name: str, source: str, real: bool
) -> list[Example]:
    """Return the columns of a table with their roles; empty ones are left out."""
    header = header_terms(relation.names)
    return [
        Example(
            name,
            column.name,
            source,
            real,
            terms(column) | header[column.name],
            _ROLES.index(roles[column.name]),
        )
        for column in relation.columns
        if column.distinct
    ]


def from_folder(folder: Path, roles: Mapping[str, str], source: str) -> list[Example]:
    """Return the columns of a case."""
    return examples(read_source(str(folder / "flat.csv")).relation, roles, folder.name, source, True)


def made_up(family: str, seed: int) -> list[Example]:
    """Return the columns of a made-up schema."""
    made = case(family, seed)
    relation = Relation.from_rows(made.header, made.rows)
    return examples(relation, made.roles, f"{family} {seed}", f"made up {seed}", False)


def seldom_seen(seed: int) -> list[Example]:
    """Return columns of kinds that few tables have: numbers given out that could be years, seconds, flags."""
    rng = Random(seed)
    return [column for number in range(_SELDOM_SEEN) for column in _seldom_seen(rng, number)]


def _seldom_seen(rng: Random, number: int) -> list[Example]:
    first, second = rng.randrange(1800, 2050), rng.randrange(900_000_000, 1_600_000_000)
    given_out = rng.choice((2, 5, 40))
    north, east = rng.uniform(-60, 60), rng.uniform(-150, 150)
    told = (
        ("no id number nummer numero code", "identifier", lambda: str(first + rng.randrange(given_out))),
        ("seen created sent ts stamp measured", "time", lambda: str(second + rng.randrange(10**7))),
        ("year_id season_no jahr_nr annee_id", "time", lambda: str(1990 + rng.randrange(30))),
        ("lat latitude breite northing", "coordinate", lambda: f"{north + rng.random():.5f}"),
        ("lon long longitude laenge easting", "coordinate", lambda: f"{east + rng.random():.5f}"),
        ("ready is_open has_lid aktiv", "flag", lambda: rng.choice("01")),
        ("sealed done valid geprueft", "flag", lambda: rng.choice(("true", "false"))),
        ("phone tel telefon fax", "contact", lambda: f"+{rng.randrange(30, 49)} {rng.randrange(10**8)}"),
        ("e_mail mail correo", "contact", lambda: f"post{rng.randrange(10**4)}@honey.example"),
    )
    header, roles = [], {}
    for words, role, _ in told:
        word = rng.choice(words.split())
        header.append(word if role in ("flag", "time") else f"{rng.choice(('drum', 'hive', 'stall'))}_{word}")
        roles[header[-1]] = role
    rows = [[maker() for *_, maker in told] for _ in range(_ROWS)]
    return examples(Relation.from_rows(header, rows), roles, f"seldom seen {number}", "made up", False)


def matrix(found: Sequence[Example], names: Sequence[str]) -> Matrix:
    """Return the terms of columns, one row each."""
    return np.array([[one.terms.get(name, 0.0) for name in names] for one in found])


def fitted(found: Sequence[Example], names: Sequence[str]) -> Matrix:
    """Return the weights, terms by roles, with the smallest penalised log-loss."""
    values, truth = matrix(found, names), np.array([one.role for one in found])
    real = sum(one.real for one in found) or 1
    share = _MADE_UP * real / max(1, len(found) - real)
    counted = np.array([1.0 if one.real else min(1.0, share) for one in found])
    target = np.eye(len(_ROLES))[truth]

    def loss(flat: Matrix) -> tuple[float, Matrix]:
        weights = flat.reshape(len(names), len(_ROLES))
        logs = log_softmax(values @ weights, axis=1)
        slope = values.T @ ((np.exp(logs) - target) * counted[:, None]) + 2 * _HELD * weights
        return float(-(logs * target).sum(axis=1) @ counted + _HELD * (weights**2).sum()), slope.ravel()

    found_at = minimize(
        loss, np.zeros(len(names) * len(_ROLES)), jac=True, method="L-BFGS-B", options={"maxiter": 800}
    )
    return np.asarray(found_at.x).reshape(len(names), len(_ROLES))


def measured(found: Sequence[Example], names: Sequence[str], logs: Matrix) -> None:
    """Print how right the roles of some columns are."""
    truth = np.array([one.role for one in found])
    best = logs.argmax(axis=1)
    click.echo(
        f"{len(found)} columns: accuracy {np.mean(best == truth):.3f}, "
        f"log-loss {-logs[np.arange(len(found)), truth].mean():.3f}"
    )
    for place, role in enumerate(_ROLES):
        own = truth == place
        if own.any():
            click.echo(f"  {role:<12}{own.sum():>5}  found {np.mean(best[own] == place):.2f}")
    mixed = Counter(
        (_ROLES[one], _ROLES[other]) for one, other in zip(truth, best, strict=True) if one != other
    )
    for (one, other), times in mixed.most_common(8):
        click.echo(f"  {one} taken for {other}: {times}")


def left_out(found: Sequence[Example], names: Sequence[str]) -> None:
    """Print the measures on real columns, each with weights fitted without its source."""
    real = [one for one in found if one.real]
    logs = np.zeros((len(real), len(_ROLES)))
    for source in dict.fromkeys(one.source for one in real):
        weights = fitted([one for one in found if one.source != source], names)
        own = [place for place, one in enumerate(real) if one.source == source]
        logs[own] = log_softmax(matrix([real[place] for place in own], names) @ weights, axis=1)
    measured(real, names, logs)
    surest = sorted(range(len(real)), key=lambda place: logs[place, real[place].role])
    for place in surest[:40]:
        one = real[place]
        click.echo(
            f"    {one.case}.{one.name}: {_ROLES[one.role]} given {np.exp(logs[place, one.role]):.3f}, "
            f"taken for {_ROLES[int(logs[place].argmax())]}"
        )


def written(weights: Matrix, names: Sequence[str]) -> str:
    """Return the module of the weights."""
    lines = [
        f'    "{name}": ({", ".join(f"{value + 0.0:.2f}" for value in np.round(row, 2))}),\n'
        for name, row in zip(names, weights, strict=True)
    ]
    return _HEAD + "".join(lines) + _FOOT


@click.command(help=__doc__.split("\n")[0])
@click.argument("labels", type=click.Path(exists=True, path_type=Path))
@click.argument("folders", nargs=-1, required=True, type=click.Path(exists=True, path_type=Path))
@click.option("--sources", type=click.Path(exists=True, path_type=Path))
@click.option("--seeds", default="3000-3007", show_default=True)
@click.option("--write", is_flag=True)
def main(labels: Path, folders: tuple[Path, ...], sources: Path | None, seeds: str, write: bool) -> None:
    """Fit, measure and print."""
    source_of = json.loads(sources.read_text(encoding="utf-8")) if sources else {}
    roles = json.loads(labels.read_text(encoding="utf-8"))
    cases = sorted(flat.parent for folder in folders for flat in folder.glob("*/flat.csv"))
    named = [source_of.get(one.name, one.name) for one in cases]
    first, _, last = seeds.partition("-")
    made = [(family, seed) for family in FAMILIES for seed in range(int(first), int(last or first) + 1)]
    with ProcessPoolExecutor() as workers:
        found = list(workers.map(from_folder, cases, [roles[one.name] for one in cases], named))
        found += workers.map(made_up, [one for one, _ in made], [seed for _, seed in made], chunksize=8)
    together = [*(column for columns in found for column in columns), *seldom_seen(0)]
    names = list(dict.fromkeys(term for one in together for term in one.terms))
    left_out(together, names)
    if write:
        _TARGET.write_text(written(fitted(together, names), names), encoding="utf-8")


if __name__ == "__main__":
    main()
