"""The open questions: rules that the sample cannot settle and whose answer changes the tables.

Whether an answer changes anything is found out by designing with both: the tables that follow where the
rule holds are compared with those where it does not.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import log2

from pravix.judgement.evidence import Evidence
from pravix.judgement.examples import Example, breaking_rows
from pravix.judgement.judgement import Judgement, without
from pravix.judgement.kinds import Thing
from pravix.judgement.near import NearDependency
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.weights import BELIEVED_FROM
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Relation
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency, in_order, written_dependency
from pravix.theory.synthesis import Scheme, synthesise, table_keys

MOST_QUESTIONS = 8
"""The most determinants that are asked about for one file, answered ones included."""

_LOOKED_AT = 2 * MOST_QUESTIONS
_UNLIKELY_DOWN_TO = -5.0
_BELIEVED_UP_TO = 8.0
_UNCERTAIN = 4.0
_MOST_DOUBT = 6.0
_NAMES = (Thing.LABEL, Thing.TITLE, Thing.DETAIL)
"""Names of places, persons and the like: what they decide in all rows is often no rule of the world."""


Homes = Mapping[str, frozenset[frozenset[str]]]
"""For each column, the keys of the tables that it is described in."""


@dataclass(frozen=True)
class Question:
    """A question about rules with one determinant.

    ``if_accepted`` and ``if_rejected`` say under which key each dependent is then described; ``rows_then``
    how many rows that makes, in the same order. ``evidence`` is that of the first dependent; ``near`` is
    set where the rule holds but for a few rows. ``example`` has two rows that only the answer "luck" allows.
    """

    determinant: tuple[str, ...]
    dependents: tuple[str, ...]
    if_accepted: tuple[tuple[str, ...], ...]
    if_rejected: tuple[tuple[str, ...], ...]
    rows_accepted: tuple[int, ...]
    rows_rejected: tuple[int, ...]
    link: bool
    evidence: Evidence | None
    near: NearDependency | None
    example: Example | None
    weight: float

    @property
    def id(self) -> str:
        """The rule as it is written, which names the question."""
        return written_dependency(self.determinant, self.dependents)

    @property
    def rules(self) -> tuple[Dependency, ...]:
        """The rules that are asked about."""
        return tuple(Dependency(frozenset(self.determinant), name) for name in self.dependents)


def open_questions(
    relation: Relation, judgement: Judgement, near: Sequence[NearDependency] = ()
) -> tuple[Question, ...]:
    """Return the open questions, most decisive first: at most ``MOST_QUESTIONS`` with the answered ones.

    Decisive is what is uncertain and moves many cells. Nothing is asked that follows from what is
    accepted. Cost: two syntheses for each uncertain determinant.
    """
    asking = _Asking(relation, judgement)
    answered = {rule.determinant for rule in (*judgement.accepted, *judgement.rejected)}
    groups = [group for group in _uncertain(judgement) if group[0].rule.determinant not in answered]
    found = [asking.about(group) for group in groups[:_LOOKED_AT]]
    found += [asking.about_near(rule) for rule in near if rule.rule.determinant not in answered]
    questions = sorted((one for one in found if one is not None), key=lambda one: -one.weight)
    return tuple(questions[: max(0, MOST_QUESTIONS - len(answered))])


def _uncertain(judgement: Judgement) -> list[list[JudgedRule]]:
    """Return the rules that are neither clear nor decided, those with one determinant together.

    Where one of them is uncertain, the unlikely ones are asked about with it, so that nobody is asked twice
    about one determinant.
    """
    trusted = frozenset(judgement.trusted)
    law = _laws_of_names(judgement)
    groups: dict[frozenset[str], list[JudgedRule]] = {}
    for judged in judgement.rules.of(Standing.BELIEVED, Standing.DOUBTFUL):
        weighing = judged.weighing
        if weighing is None or judged.rule.determinant == judgement.row_key:
            continue
        implied = judged.standing is Standing.BELIEVED and judged.rule not in trusted
        near_the_line = _UNLIKELY_DOWN_TO < weighing.total < _BELIEVED_UP_TO
        if (near_the_line or judged.rule in law) and not implied:
            groups.setdefault(judged.rule.determinant, []).append(judged)
    uncertain = [
        group
        for group in groups.values()
        if min(map(_doubt, group)) <= _UNCERTAIN or any(judged.rule in law for judged in group)
    ]
    return sorted(uncertain, key=lambda group: min(map(_doubt, group)))


def _laws_of_names(judgement: Judgement) -> frozenset[Dependency]:
    """Return the believed rules by which a name decides one other name and nothing else.

    That each place lies in one region holds for hundreds of rows and may be no rule of the world; a thing of
    which more is told is a thing.
    """
    told: dict[frozenset[str], list[Dependency]] = {}
    for rule in judgement.trusted:
        told.setdefault(rule.determinant, []).append(rule)
    leads = {(*rule.determinant, rule.dependent) for rule in judgement.trusted if len(rule.determinant) == 1}
    found = []
    for determinant, rules in told.items():
        (name, *more) = determinant
        if more or judgement.things.get(name) not in _NAMES or name in judgement.codelike:
            continue
        others = [rule for rule in rules if (rule.dependent, name) not in leads]
        dependents = {rule.dependent for rule in others}
        first = [one for one in sorted(dependents) if not any((d, one) in leads for d in dependents - {one})]
        twins = [one for one in dependents if all((one, d) in leads for d in dependents - {one})]
        things = {judgement.things.get(one) for one in dependents}
        if (len(first) == 1 or twins) and dependents and things <= {*_NAMES, Thing.IDENTIFIER}:
            found += others
    return frozenset(found)


def _doubt(judged: JudgedRule) -> float:
    """Return how far a rule is from the line between believed and doubtful, in bits.

    It is never far: repetition alone makes no law.
    """
    if judged.weighing is None:
        return 0.0
    return min(abs(judged.weighing.total - BELIEVED_FROM), _MOST_DOUBT)


class _Asking:
    """What is needed to find out what an answer would do."""

    def __init__(self, relation: Relation, judgement: Judgement) -> None:
        self._relation = relation
        self._judgement = judgement
        self._groupings = groupings_of(relation)
        self._identifying = {rule.determinant for rule in judgement.trusted}

    def about(self, group: Sequence[JudgedRule]) -> Question | None:
        """Return the question about rules with one determinant; None where no answer changes anything."""
        rules = [judged.rule for judged in group]
        yes = self._homes((*self._judgement.foundation, *rules))
        no = self._homes((*without(self._judgement, rules), *self._by_key()))
        asked = [judged for judged in group if yes[judged.rule.dependent] != no[judged.rule.dependent]]
        if not asked:
            return None
        doubt = min(map(_doubt, asked))
        return self._question([judged.rule for judged in asked], yes, no, asked[0].evidence, None, doubt)

    def about_near(self, near: NearDependency) -> Question | None:
        """Return the question about a rule that holds but for a few rows."""
        yes = self._homes((*self._judgement.foundation, near.rule))
        no = self._homes(self._judgement.foundation)
        if yes[near.rule.dependent] == no[near.rule.dependent]:
            return None
        return self._question([near.rule], yes, no, None, near, 0.0)

    def _by_key(self) -> tuple[Dependency, ...]:
        return self._judgement.foundation[len(self._judgement.trusted) :]

    def _homes(self, rules: Collection[Dependency]) -> Homes:
        judgement, names = self._judgement, self._relation.names
        key = judgement.row_key or frozenset(names)
        schemes = synthesise(names, rules, key, judgement.rank)
        return homes(names, schemes, canonical_cover(rules, judgement.rank))

    def _question(
        self,
        rules: Sequence[Dependency],
        yes: Homes,
        no: Homes,
        evidence: Evidence | None,
        near: NearDependency | None,
        doubt: float,
    ) -> Question:
        names = self._relation.names
        dependents = in_order([rule.dependent for rule in rules], names)
        accepted = [self._leading(yes[name]) for name in dependents]
        rejected = [self._leading(no[name]) for name in dependents]
        rows_accepted, rows_rejected = self._sizes(accepted), self._sizes(rejected)
        moved = sum(abs(a - b) for a, b in zip(rows_accepted, rows_rejected, strict=True))
        return Question(
            determinant=tuple(in_order(rules[0].determinant, names)),
            dependents=tuple(dependents),
            if_accepted=tuple(accepted),
            if_rejected=tuple(rejected),
            rows_accepted=rows_accepted,
            rows_rejected=rows_rejected,
            link=any(frozenset({name}) in self._identifying for name in dependents),
            evidence=evidence,
            near=near,
            example=breaking_rows(self._relation, rules[0], without(self._judgement, rules)),
            weight=log2(1 + moved) - doubt,
        )

    def _leading(self, keys: frozenset[frozenset[str]]) -> tuple[str, ...]:
        """Return the key to speak of: short, and fit to refer by. Empty for a column that is itself a key."""
        rank = self._judgement.rank
        best = min(keys, key=lambda key: (len(key), sum(map(rank, key)), sorted(key)), default=frozenset())
        return tuple(in_order(best, self._relation.names))

    def _sizes(self, keys: Sequence[tuple[str, ...]]) -> tuple[int, ...]:
        return tuple(self._groupings.size(key) if key else self._relation.row_count for key in keys)


def homes(names: Sequence[str], schemes: Collection[Scheme], cover: Collection[Dependency]) -> Homes:
    """Return, for each column, the keys of the tables in which it is no part of a key."""
    found: dict[str, set[frozenset[str]]] = {name: set() for name in names}
    for scheme in schemes:
        keys = table_keys(scheme, cover)
        for name in scheme.columns.difference(*keys):
            found[name].update(keys)
    return {name: frozenset(keys) for name, keys in found.items()}
