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
from pravix.judgement.header import BEST_NAMES, BEST_PLACE
from pravix.judgement.kinds import Thing
from pravix.relation.words import noun
from pravix.theory.dependency import Dependency

BELIEVED_FROM = 3.0
"""Bits from which a rule is believed."""

WEIGHED_TO = 4
"""Columns in the largest determinant that is weighed; larger ones are doubtful unless implied."""

EVIDENCE_CAP = 40.0
"""The most that the rows can say for one rule, in bits."""

_IN_DETERMINANT = {
    Thing.IDENTIFIER: 1.0,
    Thing.LABEL: 0.0,
    Thing.TITLE: -1.0,
    Thing.DETAIL: -3.0,
    Thing.SERIAL: -3.0,
    Thing.CONTACT: -6.0,
    Thing.MOMENT: -4.0,
    Thing.PERIOD: -4.0,
    Thing.NUMBER: -9.0,
    Thing.MARK: -9.0,
    Thing.MEASURE: -50.0,
    Thing.PROSE: -50.0,
}
_NOTHING_IDENTIFIES = -50.0
_IDENTIFYING = frozenset(Thing) - {Thing.MOMENT, Thing.PERIOD, Thing.MEASURE, Thing.PROSE}
_SELDOM = 2.0
_OFTEN = 0.25
_KNOWN_THING = 2.0
_HALF_BACK = -12.0
_UNTESTED = -50.0
_BACK = -1.0
_EACH_FURTHER_COLUMN = -4.0


class Role(Enum):
    """What a rule would do beside those that are known."""

    FIRST = "its determinant is not known to identify anything"
    FURTHER = "its determinant is known to identify something"
    BACK = "it leads back, one to one, to what determines its determinant"
    UNTESTED = "no determinant value comes again"


@dataclass(frozen=True)
class Weighing:
    """The account of one rule, in bits: what speaks for it (positive) and against it (negative).

    ``role`` says what the rule would do beside those that are known.
    ``rows`` is the evidence, ``choice`` the price of picking this determinant among all that could have
    been picked, ``determinant`` what its kind says, ``names`` what the names say, ``place`` what the place
    of the dependent in the header says.
    """

    role: Role
    rows: float
    choice: float
    determinant: float
    names: float
    place: float

    @property
    def total(self) -> float:
        """The sum of all bits."""
        return self.rows + self.choice + self.determinant + self.names + self.place


def weigh(
    rule: Dependency,
    evidence: Evidence,
    things: Mapping[str, Thing],
    role: Role,
    choice: float,
    names: float,
    place: float,
    half_back: bool = False,
    free: bool = False,
) -> Weighing:
    """Return the account of a rule, given the bits of its choice, its names and its place.

    Where the dependent is known to determine a part of the determinant (``half_back``), the rest only tells
    things of one name apart, by luck. A determinant that is ``free`` is what people call things: two of them
    share a name by luck more often than a code that was given out.

    A determinant that is known to identify something has paid for its choice and its kind. To another the
    choice costs the more, the fewer of the observations repeat a value: what is nearly unique seems to
    determine everything.
    """
    kind = determinant_bits([things[name] for name in rule.determinant]) + (_HALF_BACK if half_back else 0.0)
    rows = min(evidence.bits, EVIDENCE_CAP)
    if role is Role.UNTESTED:
        return Weighing(role, rows, choice, _UNTESTED, names, place)
    if role is Role.BACK:
        return Weighing(role, rows, _BACK, kind, names, 0.0)
    share = evidence.tests / evidence.observations if evidence.observations else 1.0
    if role is Role.FURTHER:
        seldom = _SELDOM * min(0.0, log2(share / _OFTEN)) if free and share else 0.0
        return Weighing(role, rows, seldom, _KNOWN_THING, names, place)
    return Weighing(role, rows, choice + (_SELDOM if free else 1.0) * log2(share), kind, names, place)


def known_thing_bits(names: float, place: float) -> float:
    """Return what speaks for a constant column describing a known thing: the rows say nothing."""
    return _KNOWN_THING + names + place


def choice_bits(size: int, columns: int) -> float:
    """Return the price of picking a determinant of ``size`` columns from ``columns``."""
    return -log2(max(1, comb(columns - 1, size))) + _EACH_FURTHER_COLUMN * (size - 1)


def hopeless(rule: Dependency, things: Mapping[str, Thing]) -> bool:
    """Return whether no evidence could make a rule believed, because of what its determinant holds."""
    return EVIDENCE_CAP + prior_bits(rule, things) < BELIEVED_FROM


def prior_bits(rule: Dependency, things: Mapping[str, Thing]) -> float:
    """Return the most that can speak for a rule before the rows are asked, in bits."""
    kind = determinant_bits([things[name] for name in rule.determinant])
    size = len(rule.determinant)
    return kind + choice_bits(size, size + 1) + BEST_NAMES + BEST_PLACE


def determinant_bits(things: Sequence[Thing]) -> float:
    """Return how likely columns of these kinds are to identify something together, in bits."""
    total = sum(_IN_DETERMINANT[thing] for thing in things)
    if not any(thing in _IDENTIFYING for thing in things):
        total += _NOTHING_IDENTIFIES
    return total


_IN_ROW_KEY = {
    Thing.IDENTIFIER: -2.0,
    Thing.LABEL: -5.0,
    Thing.TITLE: -6.0,
    Thing.DETAIL: -8.0,
    Thing.SERIAL: -4.5,
    Thing.CONTACT: -12.0,
    Thing.MOMENT: -5.0,
    Thing.PERIOD: -4.0,
    Thing.NUMBER: -6.0,
    Thing.MARK: -12.0,
    Thing.MEASURE: -25.0,
    Thing.PROSE: -25.0,
}
_DESCRIBED_ELSEWHERE = -6.0

_EACH_WORD = 0.01
_LIKE_A_CODE = -1.9

GOOD_ROW_KEY = -15.0
"""Bits from which a key is good enough not to look for a larger one."""


def row_key_bits(key: Sequence[str], things: Mapping[str, Thing], described: frozenset[str]) -> float:
    """Return how well a unique combination of columns serves to identify a row, in bits.

    Short keys of identifiers lead. A column that a believed rule describes (a depot's town) is worse
    than the one that it depends on (the depot).
    """
    return sum(
        _IN_ROW_KEY[things[name]] + (_DESCRIBED_ELSEWHERE if name in described else 0.0) for name in key
    )


def reference_rank(name: str, thing: Thing, codelike: bool = False) -> float:
    """Return how late a column is chosen to refer to something by: codes first, then short names."""
    given_out = codelike and thing in (Thing.IDENTIFIER, Thing.LABEL, Thing.DETAIL)
    bits = max(_IN_ROW_KEY[thing], _LIKE_A_CODE) if given_out else _IN_ROW_KEY[thing]
    return -bits + _EACH_WORD * len(noun(name))
