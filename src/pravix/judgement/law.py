"""Law or luck: how likely a weighed rule is a rule of the world, and not of these rows only.

The bits of the first weighing (``model``) decide in which order rules are taken up; what stands is then
given a probability by a logistic regression (D. R. Cox, "The regression analysis of binary sequences",
JRSS B 20(2), 1958), whose terms add up. ``tools/fit_judgement.py`` fits the weights, ``weights.LAW``.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from math import exp, log2

from pravix.judgement.column_roles import ColumnRole
from pravix.judgement.evidence import Evidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.model import Effect, Weighing, hopeless
from pravix.judgement.recoding import recoded
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    AGAINST_ITS_KIND,
    LAW,
    LONE_LAW_OF_NAMES,
    NAME_THAT_CHANGES,
    OFTEN,
    OVER_A_SHORT_SPAN,
    PERHAPS_MEASURED,
    SHORT_SPAN,
)
from pravix.relation.grouping import groupings_of
from pravix.relation.lexicon import POSTAL_WORDS
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.relation.words import share_noun, words
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex

_NAMES = (Use.LABEL, Use.TITLE, Use.DETAIL)
_ANOTHER = (Use.IDENTIFIER, Use.LABEL, Use.TITLE)
_NO_THING = (ColumnRole.FLAG, ColumnRole.CONTACT, ColumnRole.COORDINATE, ColumnRole.TEXT)
_TEN = 10.0
_CLEAR = 25.0
_MOST = 60.0
_MOST_AGAIN = 3.0
_FEW_VALUES = 4.0
_TWO = 2
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
        decided = {*judgement.accepted, *judgement.rejected, *judgement.idle}
        foundation = RuleIndex(judgement.foundation)
        for rule, (evidence, weighing) in judgement.rules.weighed.items():
            if weighing.effect is Effect.UNTESTED or rule.determinant == judgement.row_key or rule in decided:
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
        another = self._judgement.uses[rule.dependent] in _ANOTHER and weighing.names <= 0
        if self._short and another:
            odds += OVER_A_SHORT_SPAN
        if self._code_with_several_names(rule):
            odds += NAME_THAT_CHANGES
        if self._lone_law_of_names(rule) or _by_postcode(rule) or self._recoded(rule, evidence):
            odds = min(odds, LONE_LAW_OF_NAMES)
        if weighing.effect is Effect.FIRST and hopeless(rule, self._judgement.uses):
            odds = AGAINST_ITS_KIND
        return 1.0 / (1.0 + exp(-odds))

    def _lone_law_of_names(self, rule: Dependency) -> bool:
        """Whether what people call things decides one other thing, and nothing else is told of it.

        That each place lies in one region holds for hundreds of rows and may be no rule of the world; a thing
        of which more is told is a thing.
        """
        if not rule.determinant <= self._judgement.free or len(rule.determinant) > 1:
            return False
        if self._judgement.uses[rule.dependent] not in (*_NAMES, Use.IDENTIFIER):
            return False
        (name,), size = rule.determinant, self._groupings.size
        others = self._told.get(rule.determinant, set()) - {rule.dependent}
        same = {*rule.determinant, rule.dependent}
        return not share_noun(name, rule.dependent) and all(
            any(size({one}) == size({other}) == size({one, other}) for one in same) for other in others
        )

    def _recoded(self, rule: Dependency, evidence: Evidence) -> bool:
        """Whether what is counted or measured, or has two values only, decides, or all of it goes by steps.

        That each weight goes with one class of weights holds in every row, and makes no table.
        """
        if len(rule.determinant) > 1:
            return False
        roles = self._judgement.roles
        measured = max(roles[name][ColumnRole.QUANTITY] for name in rule.determinant)
        if measured >= PERHAPS_MEASURED or evidence.values <= _TWO:
            return True
        told = [Dependency(rule.determinant, name) for name in self._told.get(rule.determinant, set())]
        return all(recoded(self._relation, one, self._judgement.uses) for one in (rule, *told))

    def _code_with_several_names(self, rule: Dependency) -> bool:
        """Whether a name decides its code and the code has several names, as where names change in time."""
        uses, size = self._judgement.uses, self._groupings.size
        return (
            len(rule.determinant) == 1
            and all(uses[name] in _NAMES for name in rule.determinant)
            and uses[rule.dependent] is Use.IDENTIFIER
            and any(share_noun(name, rule.dependent) for name in rule.determinant)
            and size(rule.determinant) > size({rule.dependent})
        )

    def features(self, rule: Dependency, evidence: Evidence, weighing: Weighing) -> Mapping[str, float]:
        """Return the terms of a rule's account, each about between -10 and 10, before they are weighted."""
        judgement, total = self._judgement, weighing.total
        uses = [judgement.uses[name] for name in rule.determinant]
        roles, of = judgement.roles, judgement.roles[rule.dependent]
        told = self._told.get(rule.determinant, set()) - {rule.dependent}
        free = rule.determinant <= judgement.free
        leads_on = frozenset({rule.dependent}) in self._told and weighing.names <= 0
        again = log2(1 + evidence.tests / max(1, evidence.values))
        size = self._groupings.size
        one_to_one = size(rule.determinant) == size({rule.dependent})

        def by(role: ColumnRole) -> float:
            return max(roles[name][role] for name in rule.determinant)

        return {
            "any": 1.0,
            "bits": min(total, _CLEAR) / _TEN,
            "bits above 25": max(0.0, min(total, _MOST) - _CLEAR) / _TEN,
            "bits below 0": min(0.0, total) / _TEN,
            "tests": log2(1 + evidence.tests),
            "values": log2(1 + evidence.values),
            "columns": len(rule.determinant) - 1.0,
            "columns of a known thing": (len(rule.determinant) - 1.0) * (weighing.effect is Effect.FURTHER),
            "seldom seen again": min(0.0, log2((1 + evidence.tests) / (1 + evidence.observations) / OFTEN)),
            "by identifiers": min(roles[name][ColumnRole.IDENTIFIER] for name in rule.determinant),
            "by codes": float(rule.determinant <= judgement.codelike),
            "by a name": by(ColumnRole.NAME),
            "by a category": by(ColumnRole.CATEGORY),
            "by a detail": float(Use.DETAIL in uses),
            "by a title": float(Use.TITLE in uses),
            "by a quantity": by(ColumnRole.QUANTITY),
            "by a time": by(ColumnRole.TIME),
            "by no thing": max(map(by, _NO_THING)),
            "shared noun": float(weighing.names > 0),
            "another's noun": float(weighing.names < 0),
            "back": float(weighing.effect is Effect.BACK),
            "back, values": log2(1 + evidence.values) if weighing.effect is Effect.BACK else 0.0,
            "known thing": float(weighing.effect is Effect.FURTHER),
            "more told": log2(1 + len(told)),
            "more told by a name": log2(1 + len(told)) if free else 0.0,
            "of an identifier": of[ColumnRole.IDENTIFIER],
            "of a name": of[ColumnRole.NAME],
            "of a category": of[ColumnRole.CATEGORY],
            "of a quantity": of[ColumnRole.QUANTITY],
            "of a time": of[ColumnRole.TIME],
            "of a text": of[ColumnRole.TEXT],
            "leads on, often seen": min(_MOST_AGAIN, again) if leads_on else 0.0,
            "one to one": float(one_to_one),
            "one to one, another noun": float(one_to_one and weighing.names <= 0),
            "few values": max(0.0, _FEW_VALUES - log2(max(1, evidence.values))),
        }


def _by_postcode(rule: Dependency) -> bool:
    """Whether postal codes decide: what lies where holds for most, and is no law."""
    return all(set(words(name)[-2:]) & POSTAL_WORDS for name in rule.determinant)


def _span(relation: Relation, judgement: Judgement) -> int:
    """Return how many days lie between the first and the last date of what happened, row by row.

    Dates that describe a thing, as when it was built, do not count. Very many without dates.
    """
    described = {rule.dependent for rule in judgement.trusted}
    spans = []
    for column in relation.columns:
        happened = judgement.uses[column.name] is Use.MOMENT and column.name not in described
        if happened and column_type(column).iso:
            days = sorted(value[:_ISO_DATE] for value in column.present_values)
            spans.append((date.fromisoformat(days[-1]) - date.fromisoformat(days[0])).days)
    return max(spans, default=date.max.toordinal())
