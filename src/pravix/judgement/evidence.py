"""What the rows say for a rule: how often they tested it, and how surprising it is that it held.

Take the rows one by one. When a determinant value comes again, a dependent that did not depend on it
would still agree with the value seen before with some probability p. For a determinant of one column
p is the share of that value among all rows; for a larger one it is the share among the rows that
agree on all but one of its columns, and of these columns the one that could best be missed counts.
That the rule held in every such row has, under this permutation model, about the probability of the
product of these p. Its negative binary logarithm is the evidence in bits; it is also what a table of
its own saves. The rows with one value of the determinant count for a few bits at most, however many
they are: that all of one month's deliveries agree says nothing about the next month. (Source for the
idea: J. Rissanen, "Modeling by shortest data description", Automatica 14, 1978.)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from pravix.judgement.weights import ONE_VALUE_TELLS
from pravix.kernels.arrays import Groups
from pravix.relation.grouping import blank_in, first_positions, groups_by
from pravix.relation.relation import BLANK, Positions, Relation
from pravix.theory.dependency import Dependency

_Z = 1.6448536269514722
"""The 95 per cent point of the normal distribution."""


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


def held_out(tests: int, broken: int = 0) -> tuple[float, float]:
    """Return how often the next row would break a rule: an estimate, and a bound with 95 per cent confidence.

    Each row is held out in turn and the rule learned from the rows before it (A. P. Dawid, "Statistical
    theory: the prequential approach", JRSS A 147(2), 1984): in ``tests`` of them it said something, and was
    ``broken`` so often. The estimate is Laplace's, the bound Wilson's (JASA 22, 1927), one-sided.
    """
    estimate = (broken + 1) / (tests + 2)
    if tests == 0:
        return estimate, 1.0
    square, share = _Z**2, broken / tests
    spread = _Z * sqrt(share * (1 - share) / tests + square / (4 * tests**2))
    return estimate, min(1.0, (share + square / (2 * tests) + spread) / (1 + square / tests))


def by_luck(bits: float, looked_at: float) -> float:
    """Return how likely it is that any of ``looked_at`` rules held by luck as well as one with these bits.

    The bits are those of the permutation model; the correction for many rules is Bonferroni's.
    """
    return float(min(1.0, looked_at * 2.0 ** -min(bits, 1000.0)))


def gather(relation: Relation, rule: Dependency, observed: Sequence[str], needed: float = 0.0) -> Evidence:
    """Return the evidence of a relation's rows for a rule that holds in them.

    With ``observed``, a set of columns that determines the rule's columns, the rows are first reduced
    to their distinct combinations there, so that a fact that is repeated because its thing is repeated
    counts once. A blank on either side is no evidence. Where the bits are seen to be fewer than
    ``needed``, the rest of the count is spared and they are only a bound from above. Where the rows are some
    of many, what is counted is counted in all of them, and the bits are those of the rows here. Linear in
    the rows once they are grouped.
    """
    columns = rule.columns | set(observed)
    by_determinant = groups_by(relation, rule.determinant)
    blank = blank_in(relation, columns)
    if int(by_determinant.max(initial=-1)) + 1 == relation.row_count:
        alone = relation.row_count - int(np.count_nonzero(blank))
        return Evidence(tuple(observed), alone, alone, 0, 0.0, None)
    positions = first_positions(groups_by(relation, columns)) if observed else np.arange(relation.row_count)
    if blank.any():
        positions = positions[~blank[positions]]
    groups = by_determinant[positions]
    repeated = _repeated(groups)
    values = len(positions) - len(repeated)
    if len(repeated) == 0:
        return Evidence(tuple(observed), len(positions), values, 0, 0.0, None)
    groups = groups[repeated]
    bits = np.full(len(repeated), np.log2(len(positions)))
    total = _told(bits, groups)
    for part in _parts(rule.determinant):
        if total < needed:
            break
        found = _surprise(relation, part, rule.dependent, positions, repeated)
        if (told := _told(found, groups)) < total:
            bits, total = found, told
    best = int(positions[repeated[np.argmax(bits)]])
    alike = by_determinant[positions] == by_determinant[best]
    numbers = relation.row_numbers
    example = (int(numbers[positions[np.argmax(alike)]]), int(numbers[best]))
    observations = len(positions)
    if relation.whole is not None:
        all_rows = relation.whole
        observations = all_rows.size(columns, columns) if observed else all_rows.filled(columns)
        values = all_rows.size(rule.determinant, columns)
    return Evidence(tuple(observed), observations, values, observations - values, total, example)


def _told(bits: NDArray[np.float64], groups: Groups) -> float:
    """Return what the rows tell together, each value of the determinant at most ``ONE_VALUE_TELLS``."""
    return float(np.minimum(np.bincount(groups, bits), ONE_VALUE_TELLS).sum())


def _repeated(groups: Groups) -> Positions:
    """Return the places whose group came before."""
    first = np.full(int(groups.max(initial=-1)) + 1, -1, dtype=np.intp)
    first[groups[::-1]] = np.arange(len(groups))[::-1]
    again = np.ones(len(groups), dtype=np.bool_)
    again[first[first >= 0]] = False
    return np.flatnonzero(again)


def _parts(determinant: frozenset[str]) -> list[frozenset[str]]:
    """Return a determinant without each of its columns in turn."""
    return [determinant - {left_out} for left_out in sorted(determinant)]


def _surprise(
    relation: Relation, part: frozenset[str], dependent: str, positions: Positions, repeated: Positions
) -> NDArray[np.float64]:
    """Return, for each repeated position, the bits of its dependent among those that agree on ``part``."""
    groups, agreeing = groups_by(relation, part), groups_by(relation, part | {dependent})
    there, of_class = agreeing[positions], groups[first_positions(agreeing)]
    sizes = np.bincount(groups[positions], minlength=int(of_class.max()) + 1)[of_class]
    share = np.bincount(there, minlength=len(of_class)) / np.maximum(sizes, 1)
    with np.errstate(divide="ignore"):
        bits: NDArray[np.float64] = -np.log2(share)
    return bits[there[repeated]]


def fits_a_key(relation: Relation, rule: Dependency) -> bool:
    """Return whether a table keyed by the determinant can hold the rule's facts.

    A key is never blank, so no row may hold a dependent where a column of the determinant is blank.
    """
    if not any(relation.column(name).blanks for name in rule.determinant):
        return True
    blank = blank_in(relation, rule.determinant)
    return not bool(np.any(blank & (relation.column(rule.dependent).codes != BLANK)))
