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
from pravix.relation.no_value import says_nothing_in
from pravix.relation.relation import BLANK, Positions, Relation
from pravix.theory.dependency import Dependency

_LOOKED_AT = 1_000
"""So many rows are looked at first for two that agree."""

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
    counts once. A blank on either side is no evidence, nor is a word for none: that something is known only
    of some rows says nothing of what it is. Where the bits are seen to be fewer than ``needed``, the rest of
    the count is spared and they are only a bound from above. Where the rows are some of many, what is counted
    is counted in all of them, and the bits are those of the rows here. Linear in the rows once they are
    grouped.
    """
    columns = rule.columns | set(observed)
    by_determinant = groups_by(relation, rule.determinant)
    blank = says_nothing_in(relation, columns)
    if int(by_determinant.max(initial=-1)) + 1 == relation.row_count:
        alone = relation.row_count - int(np.count_nonzero(blank))
        return Evidence(tuple(observed), alone, alone, 0, 0.0, None)
    positions = first_positions(groups_by(relation, rule.determinant | set(observed))) if observed else None
    if blank.any():
        positions = np.flatnonzero(~blank) if positions is None else positions[~blank[positions]]
    groups = _at(by_determinant, positions)
    sizes = np.bincount(groups)
    observations, values = len(groups), int(np.count_nonzero(sizes))
    if observations == values:
        return Evidence(tuple(observed), observations, values, 0, 0.0, None)
    again = np.flatnonzero(sizes > 1)
    rows = _one_of_each(groups, positions, len(sizes))[again]
    bits = np.full(len(again), np.log2(observations))
    total = _told(bits, sizes[again])
    for part in _parts(rule.determinant):
        if total < needed:
            break
        found = _surprise(relation, part, rule.dependent, positions, rows)
        if (told := _told(found, sizes[again])) < total:
            bits, total = found, told
    places = _alike(groups, again[bits == bits.max()])
    numbers = relation.row_numbers if positions is None else relation.row_numbers[positions]
    example = (int(numbers[places[0]]), int(numbers[places[1]]))
    if relation.whole is not None:
        all_rows = relation.whole
        observations = all_rows.size(columns, columns) if observed else all_rows.filled(columns)
        values = all_rows.size(rule.determinant, columns)
    return Evidence(tuple(observed), observations, values, observations - values, total, example)


def _at(groups: Groups, positions: Positions | None) -> Groups:
    """Return the groups of the rows at some positions, or of all."""
    return groups if positions is None else groups[positions]


def _one_of_each(groups: Groups, positions: Positions | None, count: int) -> Positions:
    """Return the position of a row of each group; the rule holds, so that any tells all about it."""
    if positions is None:
        return first_positions(groups)
    places = np.zeros(count, dtype=np.intp)
    places[groups] = np.arange(len(groups))
    return positions[places]


def _alike(groups: Groups, some: Groups) -> tuple[int, int]:
    """Return the first two places that share one of some groups, each of which has two or more."""
    wanted = np.zeros(int(groups.max()) + 1, dtype=np.bool_)
    wanted[some] = True
    places, first, count = np.flatnonzero(wanted[groups]), np.empty(len(wanted), dtype=np.intp), _LOOKED_AT
    while True:
        seen = places[:count]
        inner = groups[seen]
        first[inner[::-1]] = seen[::-1]
        again = np.flatnonzero(first[inner] != seen)
        if len(again):
            return int(first[inner[again[0]]]), int(seen[again[0]])
        count *= _LOOKED_AT


def _told(bits: NDArray[np.float64], rows: NDArray[np.intp]) -> float:
    """Return what values of the determinant tell together, each for every row but its first, to a limit."""
    return float(np.minimum(bits * (rows - 1), ONE_VALUE_TELLS).sum())


def _parts(determinant: frozenset[str]) -> list[frozenset[str]]:
    """Return a determinant without each of its columns in turn."""
    return [determinant - {left_out} for left_out in sorted(determinant)]


def _surprise(
    relation: Relation, part: frozenset[str], dependent: str, positions: Positions | None, rows: Positions
) -> NDArray[np.float64]:
    """Return the bits of the dependent in some rows, among those at the positions that agree on ``part``."""
    groups, agreeing = groups_by(relation, part), groups_by(relation, part | {dependent})
    alike, agree = np.bincount(_at(groups, positions)), np.bincount(_at(agreeing, positions))
    bits: NDArray[np.float64] = -np.log2(agree[agreeing[rows]] / alike[groups[rows]])
    return bits


def fits_a_key(relation: Relation, rule: Dependency) -> bool:
    """Return whether a table keyed by the determinant can hold the rule's facts.

    A key is never blank, so no row may hold a dependent where a column of the determinant is blank.
    """
    if not any(relation.column(name).blanks for name in rule.determinant):
        return True
    blank = blank_in(relation, rule.determinant)
    return not bool(np.any(blank & (relation.column(rule.dependent).codes != BLANK)))
