"""Why one rule is believed or doubted, in full: its bits, its tests, and what else would explain it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import comb

from pravix.discovery.exceptions import exceptions
from pravix.judgement.evidence import by_luck, held_out
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import NearDependency
from pravix.judgement.standing import JudgedRule, Standing
from pravix.relation.relation import Relation
from pravix.theory.closure import derivation
from pravix.theory.dependency import Dependency, in_order, written_in_order
from pravix.wording import counted, joined

_ALTERNATIVES = 3
_LIKELY = -3.0


@dataclass(frozen=True)
class RuleAccount:
    """What is known of a rule.

    ``judged`` is the minimal rule behind it, which may have fewer columns; None where the rows break it or
    larger determinants were not searched. ``broken`` holds the numbers of the rows that break it, ``near``
    the cells that do, where they are few. ``chain`` are the trusted rules that it follows from.
    """

    rule: Dependency
    judged: JudgedRule | None
    broken: tuple[int, ...]
    near: NearDependency | None
    chain: tuple[Dependency, ...]
    alternatives: tuple[JudgedRule, ...]


def account_of(
    relation: Relation, judgement: Judgement, near: Sequence[NearDependency], rule: Dependency
) -> RuleAccount:
    """Return the account of any rule over the columns of a relation."""
    broken = tuple(relation.row_numbers[exceptions(relation, rule)].tolist())
    same = [judged for judged in judgement.rules if judged.rule.dependent == rule.dependent]
    behind = [judged for judged in same if judged.rule.determinant <= rule.determinant]
    best = max(behind, key=lambda judged: _weight(judged, rule), default=None)
    others = [other for other in judgement.foundation if other != rule]
    weighed = [
        judged
        for judged in same
        if judged.weighing is not None
        and judged.weighing.total > _LIKELY
        and not judged.rule.determinant <= rule.determinant
    ]
    weighed.sort(key=lambda judged: -judgement.rules.bits(judged.rule))
    return RuleAccount(
        rule=rule,
        judged=best,
        broken=broken,
        near=next((one for one in near if one.rule == rule), None),
        chain=derivation(rule, others) or (),
        alternatives=tuple(weighed[:_ALTERNATIVES]),
    )


def _weight(judged: JudgedRule, rule: Dependency) -> tuple[bool, float]:
    return judged.rule == rule, judged.weighing.total if judged.weighing else 0.0


def weighing_lines(judged: JudgedRule, header: Sequence[str]) -> list[tuple[str, float, str]]:
    """Return what speaks for and against a rule: a word, its bits, and why. Empty where not weighed."""
    weighing, evidence = judged.weighing, judged.evidence
    if weighing is None or evidence is None:
        return []
    determinant = joined(in_order(judged.rule.determinant, header))
    among = f"different {joined(evidence.observed)}" if evidence.observed else "rows"
    luck = by_luck(evidence.bits, comb(len(header) - 1, len(judged.rule.determinant)))
    _, bound = held_out(evidence.tests)
    if evidence.tests:
        again = counted(evidence.tests, "time")
        rows = (
            f"{determinant} came again {again} among {evidence.observations:,} {among}; that it always held "
            f"is a coincidence with probability {luck:.2g}; the next one breaks it in at most {bound:.1%}"
        )
    else:
        rows = f"{determinant} never came again with a new {joined(evidence.observed) or 'row'}"
    return [
        ("rows", weighing.rows, rows),
        ("choice", weighing.choice, "the price of picking this determinant among all of its size"),
        ("determinant", weighing.determinant, weighing.effect.value),
        ("names", weighing.names, "whether the names share a noun"),
    ]


def verdict(account: RuleAccount, header: Sequence[str]) -> str:
    """Return in one sentence what is to be said of a rule."""
    rule = written_in_order(account.rule, header)
    if account.judged is None:
        if account.broken:
            return f"{rule} is broken by {counted(len(account.broken), 'row')}"
        return f"{rule} holds in the rows, but determinants of that size were not searched"
    behind = account.judged.rule
    if behind == account.rule:
        return f"{rule} is {account.judged.standing.value}"
    smaller = written_in_order(behind, header)
    standing = account.judged.standing.value
    if account.judged.standing is Standing.DOUBTFUL:
        return f"{rule} holds only because {smaller} holds with fewer columns, which is {standing}"
    return f"{rule} holds because {smaller} does with fewer columns, which is {standing}"
