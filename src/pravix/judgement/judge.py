"""From evidence to standings: which rules are believed, and what identifies a row.

The first pass weighs rule by rule and takes what reaches the line. What came of it is then one of many
designs: each is scored by how likely all that it rests on is, and those that differ in the least likely
rules are tried, the best few kept, until none is better. So an early mistake is not final.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import partial
from math import log
from types import MappingProxyType

from pravix.discovery.discovered import Discovery
from pravix.judgement.first_pass import FirstPass
from pravix.judgement.judgement import Judgement, by_key, without_keys, without_rejected
from pravix.judgement.kinds import codelike
from pravix.judgement.law import Laws
from pravix.judgement.model import Effect
from pravix.judgement.row_key import ranked_keys
from pravix.judgement.standing import JudgedRules, bits_of
from pravix.judgement.weights import BELIEVED_FROM, BETTER_BY, EXCHANGED_FROM
from pravix.ledger.said import NOTHING_SAID, Said
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency

_KEPT = 3
_TRIED = 4
_ROUNDS = 4
_LEAST = 1e-6


@dataclass(frozen=True)
class _State:
    """What a design takes up or leaves out against the first weighing."""

    taken: frozenset[Dependency] = frozenset()
    left: frozenset[Dependency] = frozenset()


def judge(
    relation: Relation,
    discovery: Discovery,
    accepted: Collection[Dependency] = (),
    rejected: Collection[Dependency] = (),
    opaque: Collection[str] = (),
    said: Said = NOTHING_SAID,
    declared: Mapping[str, str] = MappingProxyType({}),
) -> Judgement:
    """Return the standing of every discovered rule.

    ``accepted``, ``rejected`` and what is ``said`` of keys are the analyst's decisions; what they imply
    follows them; ``declared`` says which columns are a period or an identifier. Columns that are ``opaque``
    hold several values in a cell; they determine nothing and identify nothing. Cost: one grouping of the rows
    for each rule of up to ``WEIGHED_TO`` columns, and some passes over what was grouped.
    """
    first_pass = FirstPass(relation, discovery, opaque, declared)
    judged = partial(_judged, first_pass, tuple(accepted), tuple(rejected), said)
    start = _State()
    known = {start: _Scored(relation, judged(start))}
    best = [start]
    for _ in range(_ROUNDS):
        found = dict.fromkeys(state for parent in best for state in _exchanges(parent, known[parent]))
        tried = [state for state in found if state not in known]
        if not tried:
            break
        known |= {state: _Scored(relation, judged(state)) for state in tried}
        best = sorted(known, key=lambda state: -known[state].score)[:_KEPT]
    leader = best[0] if known[best[0]].score > known[start].score + BETTER_BY else start
    return known[leader].judgement


class _Scored:
    """A judgement with the logarithm of how likely all that it rests on is."""

    def __init__(self, relation: Relation, judgement: Judgement) -> None:
        self.judgement = judgement
        laws = Laws(relation, judgement)
        wrong, exchangeable = dict[Dependency, float](), set[Dependency]()
        for judged, odds in laws.wrong():
            wrong[judged.rule] = odds
            weighing = judged.weighing
            if (
                weighing is not None
                and weighing.effect is not Effect.BACK
                and weighing.total >= BELIEVED_FROM
            ):
                exchangeable.add(judged.rule)
        groups: dict[frozenset[str], float] = {}
        for rule, odds in wrong.items():
            groups[rule.determinant] = max(odds, groups.get(rule.determinant, 0.0))
        keys = judgement.row_keys
        key = keys[0].probability if keys else _LEAST
        self.score = sum(log(max(_LEAST, 1.0 - odds)) for odds in groups.values()) + log(max(_LEAST, key))
        self.least_likely = sorted(
            (rule for rule, odds in wrong.items() if odds > EXCHANGED_FROM and rule in exchangeable),
            key=lambda rule: (-wrong[rule], sorted(judgement.place[name] for name in rule.columns)),
        )


def _exchanges(parent: _State, scored: _Scored) -> list[_State]:
    """Return the designs that differ in one of the least likely rules."""
    found = []
    for rule in scored.least_likely[:_TRIED]:
        if rule in scored.judgement.trusted:
            found.append(_State(parent.taken - {rule}, parent.left | {rule}))
        else:
            found.append(_State(parent.taken | {rule}, parent.left - {rule}))
    return found


def _judged(
    first_pass: FirstPass,
    accepted: tuple[Dependency, ...],
    rejected: tuple[Dependency, ...],
    said: Said,
    state: _State,
) -> Judgement:
    """Return the judgement where some rules are taken up, and others left out, whatever they weigh."""
    relation, discovery, order = first_pass.relation, first_pass.discovery, first_pass.order
    taken = [*accepted, *sorted(state.taken, key=str)]
    weighed = first_pass.weighed(taken, (*rejected, *state.left))
    weighed |= first_pass.weighed_beside(state.left, weighed)
    weighed |= first_pass.weighed_against_kind(weighed)
    believed = first_pass.believed(weighed, (*rejected, *state.left))
    believed = [*taken, *(rule for rule in believed if rule not in taken and rule not in state.left)]
    bits = partial(bits_of, weighed)
    believed += [rule for rule in first_pass.referring(said, believed) if rule not in rejected]
    told = believed
    believed = first_pass.without_arithmetic(first_pass.by_codes(told, accepted), accepted)
    trusted = without_rejected(believed, bits, accepted, rejected)
    trusted = without_keys(trusted, bits, accepted, said, relation.names)
    keys = ranked_keys(
        relation,
        discovery,
        trusted,
        first_pass.uses,
        first_pass.roles,
        rejected,
        first_pass.opaque,
        said,
        order.rank,
    )
    foundation = (*trusted, *by_key(keys[0].columns if keys else None, relation.names))
    return Judgement(
        rules=JudgedRules(relation.names, discovery.dependencies, accepted, rejected, foundation, weighed),
        trusted=tuple(trusted),
        row_keys=keys,
        uses=first_pass.uses,
        roles=first_pass.roles,
        searched_to=discovery.searched_to,
        accepted=accepted,
        rejected=rejected,
        opaque=first_pass.opaque,
        idle=frozenset(told) - frozenset(believed),
        blank=frozenset(column.name for column in relation.columns if column.blanks),
        keyless=first_pass.keyless,
        codelike=frozenset(column.name for column in relation.columns if codelike(column)),
        free=first_pass.free,
        said=said,
        place=order.place,
    )
