"""The model that weighs a rule: bits for it and bits against it, added up.

The bits are binary logarithms of odds, so that they can be added. The rows speak first: how surprising
it is that the rule held (see ``evidence``), capped, because repetition alone makes no identifier. What
the rows cannot tell enters as a prior: how many rules of that size were looked at, what kind of thing
the determinant is, whether the names belong together. A rule is believed when the sum reaches
``BELIEVED_FROM``.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from math import comb, log2

from pravix.judgement.evidence import Evidence
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    A_PERSON,
    A_WIDER_THING,
    BACK,
    BELIEVED_FROM,
    EACH_FURTHER_COLUMN,
    EACH_WORD,
    EVIDENCE_CAP,
    HALF_BACK,
    IN_DETERMINANT,
    KNOWN_THING,
    LIKE_A_CODE,
    NOTHING_IDENTIFIES,
    OFTEN,
    REFERENCE,
    SELDOM,
    SHARED_NOUN,
    UNTESTED,
)
from pravix.relation.lexicon import PERSON_WORDS, WIDER_WORDS
from pravix.relation.words import noun
from pravix.theory.dependency import Dependency

_IDENTIFYING = frozenset(Use) - {Use.MOMENT, Use.PERIOD, Use.MEASURE, Use.PROSE}


class Effect(Enum):
    """What a rule would do beside those that are known."""

    FIRST = "its determinant is not known to identify anything"
    FURTHER = "its determinant is known to identify something"
    BACK = "it leads back, one to one, to what determines its determinant"
    UNTESTED = "no determinant value comes again"


@dataclass(frozen=True)
class Weighing:
    """The account of one rule, in bits: what speaks for it (positive) and against it (negative).

    ``effect`` says what the rule would do beside those that are known.
    ``rows`` is the evidence, ``choice`` the price of picking this determinant among all that could have
    been picked, ``determinant`` what its kind says, ``names`` what the names say.
    """

    effect: Effect
    rows: float
    choice: float
    determinant: float
    names: float

    @property
    def total(self) -> float:
        """The sum of all bits."""
        return self.rows + self.choice + self.determinant + self.names


def weigh(
    rule: Dependency,
    evidence: Evidence,
    uses: Mapping[str, Use],
    effect: Effect,
    choice: float,
    names: float,
    half_back: bool = False,
    free: bool = False,
) -> Weighing:
    """Return the account of a rule, given the bits of its choice and its names.

    Where the dependent is known to determine a part of the determinant (``half_back``), the rest only tells
    things of one name apart, by luck. A determinant that is ``free`` is what people call things: two of them
    share a name by luck more often than a code that was given out.

    A determinant that is known to identify something has paid for its choice and its kind. To another the
    choice costs the more, the fewer of the observations repeat a value: what is nearly unique seems to
    determine everything.
    """
    kind = determinant_bits([uses[name] for name in rule.determinant]) + (HALF_BACK if half_back else 0.0)
    rows = min(evidence.bits, EVIDENCE_CAP)
    if effect is Effect.UNTESTED:
        return Weighing(effect, rows, choice, UNTESTED, names)
    if effect is Effect.BACK:
        return Weighing(effect, rows, BACK, kind, names)
    share = evidence.tests / evidence.observations if evidence.observations else 1.0
    if effect is Effect.FURTHER:
        seldom = SELDOM * min(0.0, log2(share / OFTEN)) if free and share else 0.0
        return Weighing(effect, rows, seldom, KNOWN_THING, names)
    return Weighing(effect, rows, choice + (SELDOM if free else 1.0) * log2(share), kind, names)


def known_thing_bits(names: float) -> float:
    """Return what speaks for a constant column describing a known thing: the rows say nothing."""
    return KNOWN_THING + names


def choice_bits(size: int, columns: int) -> float:
    """Return the price of picking a determinant of ``size`` columns from ``columns``."""
    return -log2(max(1, comb(columns - 1, size))) + EACH_FURTHER_COLUMN * (size - 1)


def hopeless(rule: Dependency, uses: Mapping[str, Use]) -> bool:
    """Return whether no evidence could make a rule believed, because of what its determinant holds."""
    return EVIDENCE_CAP + prior_bits(rule, uses) < BELIEVED_FROM


def prior_bits(rule: Dependency, uses: Mapping[str, Use]) -> float:
    """Return the most that can speak for a rule before the rows are asked, in bits."""
    kind = determinant_bits([uses[name] for name in rule.determinant])
    size = len(rule.determinant)
    return kind + choice_bits(size, size + 1) + SHARED_NOUN


def determinant_bits(uses: Sequence[Use]) -> float:
    """Return how likely columns of these kinds are to identify something together, in bits."""
    total = sum(IN_DETERMINANT[thing] for thing in uses)
    if not any(thing in _IDENTIFYING for thing in uses):
        total += NOTHING_IDENTIFIES
    return total


def reference_rank(name: str, thing: Use, codelike: bool = False) -> float:
    """Return how late a column is chosen to refer to something by: codes, then short names, then people."""
    given_out = codelike and thing in (Use.IDENTIFIER, Use.LABEL)
    rank = min(REFERENCE[thing], LIKE_A_CODE) if given_out else REFERENCE[thing]
    named = set(noun(name)) if thing in (Use.LABEL, Use.TITLE) else set()
    late = A_PERSON * bool(named & PERSON_WORDS) + A_WIDER_THING * bool(named & WIDER_WORDS)
    return rank + late + EACH_WORD * len(noun(name))
