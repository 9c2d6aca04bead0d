"""What the header says for a rule: nouns that columns share, and where the columns stand."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import pairwise
from math import log2

from pravix.judgement.kinds import Thing
from pravix.relation.words import noun, share_noun, words
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency

_SHARED_NOUN = 6.0
_ANOTHER_NOUN = -4.0
_PLACE_CAP = 3.0

BEST_NAMES = _SHARED_NOUN
"""The most that names can say for a rule, in bits."""

BEST_PLACE = _PLACE_CAP
"""The most that a place can say for a rule, in bits."""


class Header:
    """The names and places of a table's columns, asked about rules.

    How much a place tells is learned from the rules that are known already (``learn``): in many files
    what describes a thing stands next to it, in others the columns are mixed.
    """

    def __init__(self, names: Sequence[str], things: Mapping[str, Thing]) -> None:
        identifying = [name for name in names if things[name] in (Thing.IDENTIFIER, Thing.TITLE)]
        nouns = {tuple(noun(name)): None for name in identifying}
        self._before = dict(zip(names[1:], names, strict=False))
        self._after = dict(pairwise(names))
        self._owned = {
            name: any(tuple(words(name)[: len(one)]) == one for one in nouns if one)
            for name in names
            if name not in identifying
        }
        self._width = len(names)
        self._named = {
            frozenset({name}): frozenset(other for other in names if share_noun(name, other))
            for name in identifying
        }
        self._blocks = self._named
        self._beside = self._apart = 0.0

    def names_bits(self, rule: Dependency) -> float:
        """Return what the names say: a shared noun is for a rule, the noun of another thing against it."""
        if any(share_noun(name, rule.dependent) for name in rule.determinant):
            return _SHARED_NOUN
        return _ANOTHER_NOUN if self._owned.get(rule.dependent) else 0.0

    def place_bits(self, rule: Dependency, both_sides: bool = False) -> float:
        """Return what the place of the dependent says, as far as places tell anything in this file.

        It stands beside its thing where the column before it does; with ``both_sides`` the one after it too.
        """
        block = self._blocks.get(rule.determinant, rule.determinant)
        beside = self._before.get(rule.dependent) in block
        if both_sides:
            beside &= self._after.get(rule.dependent, rule.dependent) in block | {rule.dependent}
        return self._beside if beside else self._apart

    def learn(self, known: Collection[Dependency]) -> None:
        """Learn from known rules how often a dependent stands right after its thing, against chance."""
        homes = _homes(known)
        self._blocks = {
            determinant: determinant
            | self._named.get(determinant, frozenset())
            | {name for name, home in homes.items() if determinant in home}
            | frozenset().union(*(home for names in homes.values() for home in names if determinant in names))
            for determinant in {rule.determinant for rule in known}
        }
        told = [self._blocks[min(home, key=sorted)] for home in homes.values()]
        beside = sum(self._before.get(name) in block for name, block in zip(homes, told, strict=True))
        chance = sum((len(block) - 1) / max(1, self._width - 1) for block in told)
        share, by_luck = (beside + 1) / (len(told) + 2), (chance + 1) / (len(told) + 2)
        self._beside = max(-_PLACE_CAP, min(_PLACE_CAP, log2(share / by_luck)))
        self._apart = max(-_PLACE_CAP, min(_PLACE_CAP, log2((1 - share) / (1 - by_luck))))


def _homes(known: Collection[Dependency]) -> dict[str, list[frozenset[str]]]:
    """Return, for each dependent, the known determinants that describe it without another in between.

    Those in one-to-one correspondence stand together.
    """
    reached = {rule.determinant: closure(rule.determinant, known) for rule in known if rule.determinant}
    homes: dict[str, list[frozenset[str]]] = {}
    for dependent in {rule.dependent for rule in known}:
        found = [one for one, columns in reached.items() if dependent in columns - one]
        direct = [
            one for one in found if all(one <= reached[other] for other in found if other <= reached[one])
        ]
        if direct:
            homes[dependent] = direct
    return homes
