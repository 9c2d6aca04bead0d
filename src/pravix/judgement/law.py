"""Law or luck: how likely a weighed rule is a rule of the world, and not of these rows only.

The bits of the first weighing (``model``) decide in which order rules are taken up; what stands is then
given a probability by a logistic regression (D. R. Cox, "The regression analysis of binary sequences",
JRSS B 20(2), 1958), whose terms add up. ``tools/fit_judgement.py`` fits the weights, ``weights.LAW``.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from math import exp, log2

from pravix.judgement.evidence import Evidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.kinds import Thing
from pravix.judgement.model import Role, Weighing
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.weights import LAW, LONE_LAW_OF_NAMES, OFTEN, OVER_A_SHORT_SPAN, SHORT_SPAN
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.relation.words import share_noun
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex

_NAMES = (Thing.LABEL, Thing.TITLE, Thing.DETAIL)
_WHEN = (Thing.PERIOD, Thing.MOMENT)
_ANOTHER = (Thing.IDENTIFIER, Thing.LABEL, Thing.TITLE)
_TEN = 10.0
_CLEAR = 25.0
_MOST = 60.0
_MOST_AGAIN = 3.0
_ISO_DATE = 10


class Laws:
    """The rules of a judgement, asked how likely each is a law."""

    def __init__(self, relation: Relation, judgement: Judgement) -> None:
        self._relation, self._judgement = relation, judgement
        self._groupings = groupings_of(relation)
        told: dict[frozenset[str], set[str]] = {}
        for rule in judgement.trusted:
            told.setdefault(rule.determinant, set()).add(rule.dependent)
        self._told = told
        self._short = _span(relation, judgement) <= SHORT_SPAN

    def wrong(self) -> Iterator[tuple[JudgedRule, float]]:
        """Yield the weighed rules that the design rests on or does without, with the odds that it is wrong.

        What was decided, what follows from other rules and what the rows never tested is left out.
        """
        judgement = self._judgement
        needed = frozenset(canonical_cover(judgement.foundation, judgement.rank))
        trusted = frozenset(judgement.trusted)
        decided = {*judgement.accepted, *judgement.rejected}
        foundation = RuleIndex(judgement.foundation)
        for rule, (evidence, weighing) in judgement.rules.weighed.items():
            if weighing.role is Role.UNTESTED or rule.determinant == judgement.row_key or rule in decided:
                continue
            stands = rule in trusted
            if rule not in needed if stands else foundation.implies(rule):
                continue
            law = self.probability(rule, evidence, weighing)
            standing = Standing.BELIEVED if stands else Standing.DOUBTFUL
            yield JudgedRule(rule, standing, evidence, weighing), 1.0 - law if stands else law

    def probability(self, rule: Dependency, evidence: Evidence, weighing: Weighing) -> float:
        """Return how likely a weighed rule is a law."""
        found = self.features(rule, evidence, weighing)
        odds = sum(LAW[name] * value for name, value in found.items())
        another = self._judgement.things[rule.dependent] in _ANOTHER and weighing.names <= 0
        if self._short and another:
            odds += OVER_A_SHORT_SPAN
        if self._lone_law_of_names(rule):
            odds = min(odds, LONE_LAW_OF_NAMES)
        return 1.0 / (1.0 + exp(-odds))

    def _lone_law_of_names(self, rule: Dependency) -> bool:
        """Whether what people call things decides one other thing, and nothing else is told of it.

        That each place lies in one region holds for hundreds of rows and may be no rule of the world; a thing
        of which more is told is a thing.
        """
        if not rule.determinant <= self._judgement.free or len(rule.determinant) > 1:
            return False
        if self._judgement.things[rule.dependent] not in (*_NAMES, Thing.IDENTIFIER):
            return False
        (name,), size = rule.determinant, self._groupings.size
        others = self._told.get(rule.determinant, set()) - {rule.dependent}
        same = {*rule.determinant, rule.dependent}
        return not share_noun(name, rule.dependent) and all(
            any(size({one}) == size({other}) == size({one, other}) for one in same) for other in others
        )

    def features(self, rule: Dependency, evidence: Evidence, weighing: Weighing) -> Mapping[str, float]:
        """Return the terms of a rule's account, each about between -10 and 10, before they are weighted."""
        judgement, total = self._judgement, weighing.total
        things = [judgement.things[name] for name in rule.determinant]
        dependent = judgement.things[rule.dependent]
        told = self._told.get(rule.determinant, set()) - {rule.dependent}
        free = rule.determinant <= judgement.free
        leads_on = frozenset({rule.dependent}) in self._told and weighing.names <= 0
        again = log2(1 + evidence.tests / max(1, evidence.values))
        size = self._groupings.size
        return {
            "any": 1.0,
            "bits": min(total, _CLEAR) / _TEN,
            "bits above 25": max(0.0, min(total, _MOST) - _CLEAR) / _TEN,
            "bits below 0": min(0.0, total) / _TEN,
            "tests": log2(1 + evidence.tests),
            "values": log2(1 + evidence.values),
            "columns": len(rule.determinant) - 1.0,
            "columns of a known thing": (len(rule.determinant) - 1.0) * (weighing.role is Role.FURTHER),
            "seldom seen again": min(0.0, log2((1 + evidence.tests) / (1 + evidence.observations) / OFTEN)),
            "by identifiers": float(all(thing is Thing.IDENTIFIER for thing in things)),
            "by codes": float(rule.determinant <= judgement.codelike),
            "by a word": float(Thing.LABEL in things),
            "by a name": float(Thing.TITLE in things),
            "by a detail": float(Thing.DETAIL in things),
            "by a number": float(Thing.NUMBER in things or Thing.SERIAL in things),
            "by a time": float(any(thing in _WHEN for thing in things)),
            "shared noun": float(weighing.names > 0),
            "another's noun": float(weighing.names < 0),
            "back": float(weighing.role is Role.BACK),
            "back, values": log2(1 + evidence.values) if weighing.role is Role.BACK else 0.0,
            "known thing": float(weighing.role is Role.FURTHER),
            "more told": log2(1 + len(told)),
            "more told by a name": log2(1 + len(told)) if free else 0.0,
            "of an identifier": float(dependent is Thing.IDENTIFIER),
            "of a name": float(dependent in _NAMES),
            "of a measure": float(dependent in (Thing.MEASURE, Thing.PROSE)),
            "leads on, often seen": min(_MOST_AGAIN, again) if leads_on else 0.0,
            "one to one": float(size(rule.determinant) == size({rule.dependent})),
        }


def _span(relation: Relation, judgement: Judgement) -> int:
    """Return how many days lie between the first and the last date of a table; very many without dates."""
    spans = []
    for column in relation.columns:
        if judgement.things[column.name] is Thing.MOMENT and column_type(column).iso:
            days = sorted(value[:_ISO_DATE] for value in column.present_values)
            spans.append((date.fromisoformat(days[-1]) - date.fromisoformat(days[0])).days)
    return max(spans, default=date.max.toordinal())
