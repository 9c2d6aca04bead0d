"""Rules that hold but for a few rows: which rows, and what the others say there.

A rule is near where what its other rows say for it outweighs the price of its exceptions: each costs
the bits that it takes to name a row. The exceptions are the fewest rows to take out (the g3 error of
Kivinen and Mannila, see ``discovery.exceptions``).
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from enum import Enum
from math import log2

import numpy as np

from pravix.discovery.exceptions import exceptions
from pravix.first_normal_form.spellings import misspelling
from pravix.judgement.judgement import Judgement
from pravix.judgement.model import choice_bits, determinant_bits
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    BELIEVED_FROM,
    EVIDENCE_CAP,
    FEW_EXCEPTIONS,
    FEW_IN_ALL,
    MOST_EXCEPTIONS,
)
from pravix.relation.grouping import blank_in, first_positions, groups_by
from pravix.relation.relation import BLANK, Positions, Relation
from pravix.relation.whole import Whole
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency, in_order

_SCREENED_ON = 2_000
_LEEWAY = 20
_DETERMINING = (Use.IDENTIFIER, Use.LABEL, Use.TITLE, Use.SERIAL, Use.DETAIL)


class Oddity(Enum):
    """What an exception looks like beside the value that the other rows agree on."""

    MISSPELLING = "looks like a misspelling"
    BLANK = "is blank"
    SHIFT = "is the value of the row above or below"
    DIFFERENCE = "is another value"


@dataclass(frozen=True)
class OddCell:
    """A cell that breaks a rule: its row number, what it holds, what the other rows say, and how it looks."""

    row: int
    now: str
    instead: str
    oddity: Oddity
    why: str


@dataclass(frozen=True)
class NearDependency:
    """A rule that holds but for some cells; ``tests`` of its rows repeat a determinant value.

    ``bits`` is what speaks for it, with the price of the exceptions taken off. Where the rows here are some
    of many, ``in_all`` of them break it.
    """

    rule: Dependency
    odd: tuple[OddCell, ...]
    tests: int
    bits: float
    in_all: int | None = None

    @property
    def exceptions(self) -> int:
        """How many rows break the rule."""
        return len(self.odd) if self.in_all is None else self.in_all

    @property
    def rows(self) -> list[int]:
        """The numbers of the rows that break the rule."""
        return [cell.row for cell in self.odd]


def near_dependencies(
    relation: Relation, judgement: Judgement, whole: Whole | None = None
) -> tuple[NearDependency, ...]:
    """Return the rules of one determining column that hold but for a few rows, the strongest first.

    Where the rows here are some of the ``whole``, among them those that break rules, exceptions are counted
    in all. Of a chain only the link that the exceptions break is listed. Cost: two groupings of some 2,000
    rows for each pair of columns, and of all rows for the few pairs that pass.
    """
    found = [near for rule in _screened(relation, judgement) if (near := _near(relation, rule, judgement))]
    if whole is not None:
        found = [told for near in found if (told := _in_all(near, whole))]
    both_ways = {near.rule for near in found} | set(judgement.trusted)
    found = [near for near in found if not _led_by_its_dependent(near.rule, both_ways, judgement)]
    rules = [near.rule for near in found]
    direct = [near for near in found if not _passed_on(near, found, (*judgement.foundation, *rules))]
    direct.sort(key=lambda near: (-near.bits, judgement.rank(min(near.rule.determinant))))
    same = {(near.rule.dependent, tuple(near.rows)): near for near in reversed(direct)}
    return tuple(near for near in direct if near in same.values())


def _most(tests: int) -> float:
    """Return how many rows may break a rule that has so many tests."""
    return min(MOST_EXCEPTIONS * tests, max(FEW_EXCEPTIONS, FEW_IN_ALL * tests))


def _in_all(near: NearDependency, whole: Whole) -> NearDependency | None:
    """Return a rule with how many of all rows break it; None where they are too many."""
    broken, tests = whole.exceptions(near.rule.determinant, near.rule.dependent)
    return replace(near, tests=tests, in_all=broken) if broken <= _most(tests) else None


def _screened(relation: Relation, judgement: Judgement) -> Iterator[Dependency]:
    """Yield the rules that a part of the rows does not rule out; those that hold are left out.

    The determinant must explain at least half of what differs from the most frequent dependent.
    """
    step = max(1, relation.row_count // _SCREENED_ON)
    part = relation.take(np.arange(0, relation.row_count, step))
    fit = [
        column
        for column in part.columns
        if judgement.uses[column.name] in _DETERMINING and column.name not in judgement.opaque
    ]
    for column in fit:
        reached = closure({column.name}, judgement.foundation)
        if not 2 <= relation.column(column.name).distinct < 0.9 * relation.total:
            continue
        for other in relation.columns:
            rule = Dependency(frozenset({column.name}), other.name)
            if other.name in reached or other.distinct < 2 or rule in judgement.rejected:
                continue
            differing = part.row_count - int(part.column(other.name).counts.max())
            if len(exceptions(part, rule)) > min(MOST_EXCEPTIONS * part.row_count, differing / 2):
                continue
            whole = relation.project([column.name, other.name]).take(_whole_groups(relation, column.name))
            if len(exceptions(whole, rule)) <= 2 * MOST_EXCEPTIONS * whole.row_count + _LEEWAY:
                yield rule


def _whole_groups(relation: Relation, name: str) -> Positions:
    """Return the positions of all rows that hold one of the first values of a column, some thousands."""
    column = relation.column(name)
    total = np.cumsum(column.counts[1:])
    last = int(np.searchsorted(total, _SCREENED_ON)) + 1
    return np.flatnonzero((column.codes > BLANK) & (column.codes <= last))


def _near(relation: Relation, rule: Dependency, judgement: Judgement) -> NearDependency | None:
    """Return a rule with its exceptions; None where it holds, breaks too often or weighs too little."""
    needed = rule.columns.union(*(other.determinant for other in judgement.trusted))
    rows = relation.project(in_order(needed, relation.names))
    rows = rows.take(np.flatnonzero(~blank_in(rows, rule.determinant)))
    rows = rows.take(_observations(rows, rule, judgement))
    broken = exceptions(rows, rule)
    groups = groups_by(rows, sorted(rule.determinant))
    tests = rows.row_count - int(groups.max(initial=-1)) - 1
    if not 0 < len(broken) <= _most(tests):
        return None
    codes = rows.column(rule.dependent).codes
    share = np.bincount(codes)[codes] / rows.row_count
    seen = np.ones(rows.row_count, dtype=np.bool_)
    seen[broken] = False
    seen[first_positions(groups)] = False
    agreeing = float(-np.log2(share[seen]).sum())
    price = len(broken) * log2(rows.row_count)
    kinds = determinant_bits([judgement.uses[name] for name in rule.determinant])
    bits = min(agreeing - price, EVIDENCE_CAP) + kinds + choice_bits(1, len(relation.names))
    if bits < BELIEVED_FROM:
        return None
    return NearDependency(rule, tuple(_odd_cells(relation, rule)), tests, bits)


def _observations(rows: Relation, rule: Dependency, judgement: Judgement) -> Positions:
    """Return the positions of the rows that count: one for each thing known to carry both sides."""
    for other in judgement.trusted:
        reached = closure(other.determinant, judgement.trusted)
        itself = rule.dependent in other.determinant
        if (
            not itself
            and rule.columns <= reached
            and not other.determinant <= closure(rule.determinant, judgement.trusted)
        ):
            return first_positions(groups_by(rows, sorted(other.determinant)))
    return np.arange(rows.row_count)


def _odd_cells(relation: Relation, rule: Dependency) -> Iterator[OddCell]:
    """Yield each exception among all rows with the value that the other rows of its group agree on."""
    column = relation.column(rule.dependent)
    groups = groups_by(relation, sorted(rule.determinant))
    broken = np.setdiff1d(exceptions(relation, rule), np.flatnonzero(blank_in(relation, rule.determinant)))
    kept = np.isin(groups, groups[broken])
    kept[broken] = False
    agreed = dict(zip(groups[kept].tolist(), column.codes[kept].tolist(), strict=True))
    for position in broken.tolist():
        now, instead = column.text(position), column.values[agreed[int(groups[position])]]
        beside = column.codes[[place for place in (position - 1, position + 1) if 0 <= place < len(groups)]]
        oddity, why = Oddity.DIFFERENCE, ""
        if column.codes[position] == BLANK:
            oddity = Oddity.BLANK
        elif why := misspelling(now, instead):
            oddity = Oddity.MISSPELLING
        elif column.codes[position] in beside:
            oddity = Oddity.SHIFT
        yield OddCell(int(relation.row_numbers[position]), now, instead, oddity, why)


def _led_by_its_dependent(rule: Dependency, rules: Collection[Dependency], judgement: Judgement) -> bool:
    """Return whether the two columns determine each other, and the dependent is the fitter determinant."""
    (name,) = rule.determinant
    back = Dependency(frozenset({rule.dependent}), name)
    return back in rules and judgement.rank(rule.dependent) < judgement.rank(name)


def _passed_on(
    near: NearDependency, all_near: Collection[NearDependency], rules: Collection[Dependency]
) -> bool:
    """Return whether the exceptions come from another near rule further down the chain."""
    reached = closure(near.rule.determinant, [rule for rule in rules if rule != near.rule])
    return any(
        other.rule.dependent == near.rule.dependent
        and other.rule.determinant <= reached
        and not near.rule.determinant <= closure(other.rule.determinant, rules)
        for other in all_near
        if other is not near
    )
