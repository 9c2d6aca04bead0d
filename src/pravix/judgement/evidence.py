"""What the rows say for a rule: how often they tested it, and how surprising it is that it held.

Take the rows one by one. When a determinant value comes again, a dependent that did not depend on it
would still agree with the value seen before with some probability p. For a determinant of one column
p is the share of that value among all rows; for a larger one it is the share among the rows that
agree on all but one of its columns, and of these columns the one that could best be missed counts.
That the rule held in every such row has, under this permutation model, about the probability of the
product of these p. Its negative binary logarithm is the evidence in bits; it is also what a table of
its own saves. (Source for the idea: J. Rissanen, "Modeling by shortest data description", Automatica
14, 1978.)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.relation.grouping import blank_in, distinct_rows, first_positions, groups_by
from pravix.relation.relation import BLANK, Relation
from pravix.theory.dependency import Dependency


@dataclass(frozen=True)
class Evidence:
    """What the rows say for one rule.

    ``observed`` names the columns whose distinct combinations count as one observation each; empty
    when every row counts. ``observations`` is their number, ``values`` how many different determinant
    values they hold, ``tests`` how many of them repeat a determinant value, and ``bits`` how
    surprising it is that the rule held in all of these. ``example`` holds two rows, by number, that
    agree on the determinant and so on the dependent.
    """

    observed: tuple[str, ...]
    observations: int
    values: int
    tests: int
    bits: float
    example: tuple[int, int] | None


def gather(relation: Relation, rule: Dependency, observed: Sequence[str]) -> Evidence:
    """Return the evidence of a relation's rows for a rule that holds in them.

    With ``observed``, a set of columns that determines the rule's columns, the rows are first reduced
    to their distinct combinations there, so that a fact that is repeated because its thing is repeated
    counts once. A blank on either side is no evidence. n log n in the rows.
    """
    determinant = sorted(rule.determinant)
    wanted = list(dict.fromkeys([*observed, *determinant, rule.dependent]))
    rows = distinct_rows(relation, wanted) if observed else relation.project(wanted)
    rows = rows.take(np.flatnonzero(~blank_in(rows, wanted if observed else [*determinant, rule.dependent])))
    if rows.row_count == 0:
        return Evidence(tuple(observed), 0, 0, 0, 0.0, None)
    groups = groups_by(rows, determinant)
    first = first_positions(groups)
    repeated = np.ones(rows.row_count, dtype=np.bool_)
    repeated[first] = False
    surprise = min(
        (_surprise(rows, part, rule.dependent) for part in _parts(determinant)),
        key=lambda bits: bits[repeated].sum(),
    )
    example = None
    if repeated.any():
        best = int(np.flatnonzero(repeated)[np.argmax(surprise[repeated])])
        example = (int(rows.row_numbers[first[groups[best]]]), int(rows.row_numbers[best]))
    return Evidence(
        tuple(observed),
        rows.row_count,
        len(first),
        int(repeated.sum()),
        float(surprise[repeated].sum()),
        example,
    )


def _parts(determinant: Sequence[str]) -> list[list[str]]:
    """Return a determinant without each of its columns in turn."""
    return [[name for name in determinant if name != left_out] for left_out in determinant]


def _surprise(rows: Relation, part: Sequence[str], dependent: str) -> NDArray[np.float64]:
    """Return, for each row, the bits of its dependent among the rows that agree with it on ``part``."""
    groups = groups_by(rows, part)
    agreeing = groups_by(rows, [*part, dependent])
    share = np.bincount(agreeing)[agreeing] / np.bincount(groups)[groups]
    bits: NDArray[np.float64] = -np.log2(share)
    return bits


def fits_a_key(relation: Relation, rule: Dependency) -> bool:
    """Return whether a table keyed by the determinant can hold the rule's facts.

    A key is never blank, so no row may hold a dependent where a column of the determinant is blank.
    """
    blank = blank_in(relation, rule.determinant)
    return not bool(np.any(blank & (relation.column(rule.dependent).codes != BLANK)))
