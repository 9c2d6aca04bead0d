"""What a design rests on and may be otherwise, each with its probability and the tables that it touches.

The design that stands is the best of many: every rule that could be luck, every doubted rule that could be
a law, every other key of the row and every other column to refer by gives another one. Each of these
decisions is right with some probability, taken as independent of the others; a table is right where all
are that touch it.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cached_property
from math import ceil, exp, floor, inf, log, prod

from pravix.judgement.judgement import Judgement, without
from pravix.judgement.law import Laws
from pravix.judgement.model import Effect
from pravix.judgement.near import NearDependency, Oddity
from pravix.judgement.outline import Outline, Outlined, Outlines
from pravix.judgement.row_key import equivalent
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    A_CODE,
    BEYOND_DOUBT,
    FURTHER_DECISIONS,
    HARDLY,
    LIKELY_FROM,
    MISTAKEN,
    MOST_CHOICES,
    NO_ROW_KEY,
    NOT_MISTAKEN,
    SURE_FROM,
    TOGETHER,
    TWIN_BY_RANK,
    TWIN_CODES,
    WORTH_A_LOOK,
)
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency

_LOOKED_AT = 24


class Kind(Enum):
    """What is decided."""

    RULE = "rule"
    KEY = "key"
    REFER = "refer"


@dataclass(frozen=True)
class Decision:
    """One thing that could be otherwise; ``right`` is how likely it is right as it stands.

    ``touched`` are the tables that another answer would change. ``rules`` are those with one determinant that
    are in question, ``near`` the one that holds but for a few rows; ``yes`` and ``no`` are the designs that
    follow where they are rules and where they are luck. ``choices`` are the keys, or the columns to refer
    by, the one that stands first.
    """

    kind: Kind
    right: float
    touched: frozenset[Outlined]
    rules: tuple[JudgedRule, ...] = ()
    near: NearDependency | None = None
    yes: Outline | None = None
    no: Outline | None = None
    choices: tuple[frozenset[str], ...] = ()


_INDIRECT = (Use.MOMENT, Use.DETAIL)


class Confidence:
    """How sure a judgement is: of each table, of each rule and of the key of a row."""

    def __init__(self, relation: Relation, judgement: Judgement, near: Sequence[NearDependency] = ()) -> None:
        self._relation, self._judgement, self._near = relation, judgement, near
        self._laws = Laws(relation, judgement)
        self._outlines = Outlines(judgement)

    @property
    def row_key(self) -> float:
        """How likely the key of the file identifies a row."""
        asked = [one.right for one in self._key_decision()]
        return asked[0] if asked else 1.0 if self._judgement.row_keys else NO_ROW_KEY

    def rule(self, judged: JudgedRule) -> float:
        """Return how likely a rule is a law, whatever it stands at."""
        if judged.standing in (Standing.ACCEPTED, Standing.REJECTED):
            return float(judged.standing is Standing.ACCEPTED)
        if judged.evidence is None or judged.weighing is None or judged.weighing.effect is Effect.UNTESTED:
            return 0.0 if judged.standing is Standing.DOUBTFUL else 1.0
        return self._laws.probability(judged.rule, judged.evidence, judged.weighing)

    def of(self, rule: Dependency) -> float:
        """Return how likely a rule of the design is a law, or follows from the key of the file."""
        if rule in self._judgement.accepted:
            return 1.0
        if rule.determinant == self._judgement.row_key:
            return self.row_key
        told = self._judgement.rules.weighed.get(rule)
        return self.rule(JudgedRule(rule, Standing.BELIEVED, *told)) if told else 1.0

    def table(self, columns: Collection[str]) -> float:
        """Return how likely the right design has a table with these columns of the file, and its key."""
        wanted = frozenset(columns)
        own = [one for one in self._outlines.now.tables if one.columns == wanted]
        alike = own or [one for one in self._outlines.now.tables if one.columns & wanted]
        least, *rest = sorted([1.0, *(one.right for one in self.decisions if one.touched & frozenset(alike))])
        return _calibrated(least * prod(rest) ** FURTHER_DECISIONS)

    def settled(self, decision: Decision) -> bool:
        """Return whether a decision is beyond doubt, or every table that it touches is sure as it stands."""
        return decision.right >= BEYOND_DOUBT or all(
            self.table(one.columns) >= SURE_FROM for one in decision.touched
        )

    @cached_property
    def answered(self) -> int:
        """How many questions were answered, as far as can still be told.

        A rule that was accepted though nobody would ask about it answers none, nor do columns to refer by
        that no others could stand for.
        """
        judgement, said = self._judgement, self._judgement.said
        asked = {rule.determinant for rule in judgement.rejected}
        asked |= {rule.determinant for rule in judgement.accepted if not self._beyond_doubt(rule)}
        keys = ceil(len(said.not_keys) / MOST_CHOICES) + (said.key is not None)
        return len(asked) + keys + sum(table.key in said.refer_by for table, *_ in self._with_twins())

    def _beyond_doubt(self, rule: Dependency) -> bool:
        """Whether a rule would be believed as well, or change no table, if nothing were said of it."""
        if rule not in self._judgement.rules.weighed:
            return False
        evidence, weighing = self._judgement.rules.weighed[rule]
        back = weighing.effect is Effect.BACK
        return back or self._laws.probability(rule, evidence, weighing) >= BEYOND_DOUBT

    @cached_property
    def decisions(self) -> tuple[Decision, ...]:
        """All decisions that touch a table and may well be otherwise, the least sure first."""
        rules = self._rule_decisions()
        asked = {judged.rule.determinant for decision in rules for judged in decision.rules}
        near = [one for one in self._near_decisions() if one.near and one.near.rule.determinant not in asked]
        found = [*rules, *near, *self._key_decision(), *self._twins()]
        return tuple(sorted((one for one in found if one.touched), key=lambda one: one.right))

    def _changed(self, *others: Outline) -> frozenset[Outlined]:
        now = self._outlines.now.tables
        return frozenset(one for one in now if any(one not in other.tables for other in others))

    def _rule_decisions(self) -> list[Decision]:
        judgement = self._judgement
        answered = {rule.determinant for rule in (*judgement.accepted, *judgement.rejected)}
        groups: dict[frozenset[str], list[tuple[float, JudgedRule]]] = {}
        for judged, wrong in self._laws.wrong():
            back = judged.weighing is not None and judged.weighing.effect is Effect.BACK
            if wrong >= WORTH_A_LOOK and judged.rule.determinant not in answered and not back:
                groups.setdefault(judged.rule.determinant, []).append((wrong, judged))
        doubted = sorted(groups.values(), key=lambda group: -max(wrong for wrong, _ in group))
        return [found for group in doubted[:_LOOKED_AT] if (found := self._about(group)) is not None]

    def _about(self, group: Sequence[tuple[float, JudgedRule]]) -> Decision | None:
        """Return the decision about rules with one determinant; None where no answer changes anything."""
        judgement, rules = self._judgement, [judged.rule for _, judged in group]
        yes = self._outlines.of((*judgement.trusted, *rules))
        no = self._outlines.of(without(judgement, rules))
        asked = [
            (wrong, judged)
            for wrong, judged in group
            if yes.homes[judged.rule.dependent] != no.homes[judged.rule.dependent]
        ]
        if not asked:
            return None
        right = 1.0 - max(wrong for wrong, _ in asked)
        told = tuple(judged for _, judged in asked)
        return Decision(Kind.RULE, right, self._changed(yes, no), rules=told, yes=yes, no=no)

    def _near_decisions(self) -> list[Decision]:
        judgement = self._judgement
        answered = {rule.determinant for rule in (*judgement.accepted, *judgement.rejected)}
        found = []
        for near in self._near:
            if near.rule.determinant in answered:
                continue
            yes, no = self._outlines.of((*judgement.trusted, near.rule)), self._outlines.now
            if yes.homes[near.rule.dependent] != no.homes[near.rule.dependent]:
                mistakes = sum(cell.oddity is not Oddity.DIFFERENCE for cell in near.odd)
                right = 1.0 - (MISTAKEN if 2 * mistakes > len(near.odd) else NOT_MISTAKEN)
                found.append(Decision(Kind.RULE, right, self._changed(yes), near=near, yes=yes, no=no))
        return found

    def _key_decision(self) -> list[Decision]:
        judgement = self._judgement
        if judgement.said.key is not None or not judgement.row_keys:
            return []
        best, *others = judgement.row_keys
        right, choices = best.probability, [best.columns]
        for other in others:
            if self._same_thing(best.columns, other.columns):
                right += other.probability
            if other.probability < HARDLY and len(choices) > 1:
                break
            same = [
                one
                for one in choices
                if self._same_thing(one, other.columns) or equivalent(one, other.columns, judgement.trusted)
            ]
            first = min([*same, other.columns], key=self._indirect)
            if not same:
                choices.append(first)
            elif first == other.columns:
                choices = list(dict.fromkeys(first if one in same else one for one in choices))
        outlines = [self._outlines.of(judgement.trusted, key) for key in choices[:MOST_CHOICES]]
        whole = {one for one in self._outlines.now.tables if best.columns <= one.columns}
        touched = self._changed(*outlines) & whole or whole
        return [Decision(Kind.KEY, right, frozenset(touched), choices=tuple(choices[:MOST_CHOICES]))]

    def _same_thing(self, one: frozenset[str], other: frozenset[str]) -> bool:
        """Whether two keys differ only in what goes one to one, as a code and its name do."""
        size = groupings_of(self._relation).size
        here, there = one - other, other - one
        alike = bool(one & other) or all(self._judgement.rank(name) < A_CODE for name in one | other)
        return bool(here and there and alike) and size(here) == size(there) == size(here | there)

    def _indirect(self, key: frozenset[str]) -> int:
        """Return how many columns of a key stand for something by a date or by what describes it."""
        return sum(self._judgement.uses[name] in _INDIRECT for name in key)

    def _twins(self) -> list[Decision]:
        """Return what is to be decided where a table has several columns that others could refer by."""
        judgement, found = self._judgement, []
        for table, leader, near in self._with_twins():
            if table.key not in judgement.said.refer_by:
                outlines = [self._outlines.of(judgement.trusted, first=name) for name in near]
                choices = tuple(frozenset({name}) for name in (leader, *near))
                right = TWIN_CODES if leader in judgement.codelike else 1.0 / len(choices)
                found.append(Decision(Kind.REFER, right, self._changed(*outlines), choices=choices))
        return found

    def _with_twins(self) -> Iterator[tuple[Outlined, str, list[str]]]:
        """Yield the tables of which several columns could be referred by: the one that is, and the others.

        One that was wished for though others come much earlier was no answer: nobody would have asked.
        """
        judgement, size = self._judgement, groupings_of(self._relation).size
        for table in self._outlines.now.tables:
            leader = min(table.key, default="")
            if len(table.key) != 1 or leader not in judgement.uses:
                continue
            twins = [
                name
                for name in sorted(table.columns - table.key, key=judgement.rank)
                if name not in judgement.blank and size({name}) == size({leader}) == size({name, leader})
            ]
            later = {name: judgement.rank_unsaid(name) - judgement.rank_unsaid(leader) for name in twins}
            least = -TWIN_BY_RANK if table.key in judgement.said.refer_by else -inf
            if near := [name for name in twins if least < later[name] < TWIN_BY_RANK]:
                yield table, leader, near


def _calibrated(product: float) -> float:
    """Return the probability of a table from the product of its decisions, which are not quite independent.

    A linear map of the logarithm of the odds (J. Platt, "Probabilistic outputs for support vector machines",
    in Advances in Large Margin Classifiers, 1999).
    """
    if not 0.0 < product < 1.0:
        return product
    shift, slope = TOGETHER
    return 1.0 / (1.0 + exp(-shift - slope * log(product / (1.0 - product))))


def surely(probability: float) -> str:
    """Return how sure something is: in words, and where it is not sure the probability beside them."""
    told = in_words(probability)
    return told if probability >= SURE_FROM else f"{told} {floor(100 * probability) / 100:.2f}"


def in_words(probability: float) -> str:
    """Return a probability as it is told: sure, likely, or a guess to be asked about."""
    if probability >= SURE_FROM:
        return "sure"
    return "likely" if probability >= LIKELY_FROM else "a guess"
