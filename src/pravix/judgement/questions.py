"""The open questions: what the sample cannot settle and whose answer changes the tables.

A question is a decision (see ``decisions``) that touches a table which is not sure. The first is the one
whose answer is expected to settle most: how likely it is otherwise, and how many cells then move.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2

from pravix.judgement.decisions import Confidence, Decision, Kind
from pravix.judgement.evidence import Evidence
from pravix.judgement.examples import Example, breaking_rows
from pravix.judgement.judgement import Judgement, without
from pravix.judgement.near import NearDependency
from pravix.judgement.outline import Outline
from pravix.judgement.weights import MOST_QUESTIONS
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, in_order, written_dependency


@dataclass(frozen=True)
class Question:
    """A question about rules with one determinant.

    ``if_accepted`` and ``if_rejected`` say under which key each dependent is then described; ``rows_then``
    how many rows that makes, in the same order. ``evidence`` is that of the first dependent; ``near`` is set
    where the rule holds but for a few rows. ``example`` has two rows that only the answer "coincidence"
    allows.
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
    def columns(self) -> tuple[str, ...]:
        """The columns that it is about."""
        return (*self.determinant, *self.dependents)

    @property
    def id(self) -> str:
        """The rule as it is written, which names the question."""
        return written_dependency(self.determinant, self.dependents)

    @property
    def rules(self) -> tuple[Dependency, ...]:
        """The rules that are asked about."""
        return tuple(Dependency(frozenset(self.determinant), name) for name in self.dependents)


@dataclass(frozen=True)
class Choice:
    """A question with several answers: which columns identify a row, or which others refer by.

    ``choices`` are sets of columns in the order of the header, the one that stands now first; ``values`` how
    many different combinations each has, and ``rows`` two rows, by number, that show them.
    """

    kind: Kind
    choices: tuple[tuple[str, ...], ...]
    values: tuple[int, ...]
    rows: tuple[int, ...]
    weight: float

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that it is about."""
        return tuple(name for choice in self.choices for name in choice)

    @property
    def id(self) -> str:
        """The kind and the choices, which name the question."""
        return f"{self.kind.value}: {' | '.join(', '.join(choice) for choice in self.choices)}"


Open = Question | Choice
"""An open question of any kind."""


def open_questions(
    relation: Relation,
    judgement: Judgement,
    near: Sequence[NearDependency] = (),
    confidence: Confidence | None = None,
) -> tuple[Open, ...]:
    """Return the open questions, most decisive first: at most ``MOST_QUESTIONS`` with those answered.

    Nothing is asked where every table that an answer would change is sure. Cost: that of ``Confidence``.
    """
    told = confidence or Confidence(relation, judgement, near)
    asking = _Asking(relation, judgement)
    found = [asking.about(one) for one in told.decisions if not told.settled(one)]
    questions = sorted(found, key=lambda one: -one.weight)
    return tuple(questions[: max(0, MOST_QUESTIONS - told.answered)])


def most_decisive(questions: Sequence[Open]) -> tuple[Open, ...]:
    """Return questions about a file and its parts, most decisive first, no more than are asked."""
    return tuple(sorted(questions, key=lambda one: -one.weight)[:MOST_QUESTIONS])


class _Asking:
    """What is needed to put a decision as a question."""

    def __init__(self, relation: Relation, judgement: Judgement) -> None:
        self._relation = relation
        self._judgement = judgement
        self._groupings = groupings_of(relation)
        self._identifying = {rule.determinant for rule in judgement.trusted}

    def about(self, decision: Decision) -> Open:
        """Return the question about a decision."""
        if decision.kind is not Kind.RULE or decision.yes is None or decision.no is None:
            return self._choice(decision)
        near = [decision.near.rule] if decision.near is not None else []
        rules = [judged.rule for judged in decision.rules] or near
        return self._question(decision, rules, decision.yes, decision.no)

    def _choice(self, decision: Decision) -> Choice:
        names = self._relation.names
        choices = tuple(tuple(in_order(choice, names)) for choice in decision.choices)
        touched = list(decision.touched)
        sizes = self._sizes([tuple(in_order(one.key, names)) for one in touched])
        moved = sum(len(one.columns) * size for one, size in zip(touched, sizes, strict=True))
        return Choice(
            kind=decision.kind,
            choices=choices,
            values=tuple(self._groupings.size(choice) for choice in choices),
            rows=tuple(self._relation.row_numbers[:2].tolist()),
            weight=(1.0 - decision.right) * log2(2 + moved),
        )

    def _question(
        self, decision: Decision, rules: Sequence[Dependency], yes: Outline, no: Outline
    ) -> Question:
        names = self._relation.names
        dependents = in_order([rule.dependent for rule in rules], names)
        accepted = [self._leading(yes.homes[name]) for name in dependents]
        rejected = [self._leading(no.homes[name]) for name in dependents]
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
            evidence=decision.rules[0].evidence if decision.rules else None,
            near=decision.near,
            example=breaking_rows(self._relation, rules[0], without(self._judgement, rules)),
            weight=(1.0 - decision.right) * log2(2 + moved),
        )

    def _leading(self, keys: frozenset[frozenset[str]]) -> tuple[str, ...]:
        """Return the key to speak of: short, and fit to refer by. Empty for a column that is itself a key."""
        rank = self._judgement.rank
        best = min(keys, key=lambda key: (len(key), sum(map(rank, key)), sorted(key)), default=frozenset())
        return tuple(in_order(best, self._relation.names))

    def _sizes(self, keys: Sequence[tuple[str, ...]]) -> tuple[int, ...]:
        """Return how many rows tables with these keys have; one whose rows are only numbered has no key."""
        return tuple(self._groupings.size(key) if key else self._relation.total for key in keys)
