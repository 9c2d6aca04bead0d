"""The standing of every rule that a discovery found, worked out for all determinants of a column at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import ColumnSets, from_places, held_by, holding, sizes, word_count
from pravix.discovery.discovered import Dependencies
from pravix.judgement.evidence import Evidence
from pravix.judgement.model import Weighing
from pravix.judgement.weights import BELIEVED_FROM
from pravix.kernels.arrays import Words
from pravix.theory.dependency import Dependency


class Standing(Enum):
    """Whether a design may rest on a rule: our judgement, or the analyst's decision."""

    BELIEVED = "believed"
    DOUBTFUL = "doubtful"
    ACCEPTED = "accepted"
    REJECTED = "rejected"


@dataclass(frozen=True)
class JudgedRule:
    """A rule with its standing, and what it rests on where it was weighed."""

    rule: Dependency
    standing: Standing
    evidence: Evidence | None
    weighing: Weighing | None


_ORDER = list(Standing)
_DOUBTFUL, _BELIEVED, _ACCEPTED, _REJECTED = map(
    _ORDER.index, (Standing.DOUBTFUL, Standing.BELIEVED, Standing.ACCEPTED, Standing.REJECTED)
)


Weighed = Mapping[Dependency, tuple[Evidence, Weighing]]
"""What was found out about each rule that was weighed."""


def bits_of(weighed: Weighed, rule: Dependency) -> float:
    """Return what a rule weighs; one that was not weighed is just believed."""
    return weighed[rule][1].total if rule in weighed else BELIEVED_FROM


class JudgedRules:
    """The discovered rules with their standings, in the order of the discovery; made when asked for.

    ``accepted`` and ``rejected`` are the analyst's decisions, ``foundation`` the rules that the design
    rests on, ``weighed`` the evidence of those that were weighed. What the accepted rules imply is
    accepted, what the foundation implies is believed.
    """

    def __init__(
        self,
        names: Sequence[str],
        dependencies: Dependencies,
        accepted: Collection[Dependency],
        rejected: Collection[Dependency],
        foundation: Collection[Dependency],
        weighed: Weighed,
    ) -> None:
        self._names = tuple(names)
        self._dependencies = dependencies
        self._accepted = tuple(accepted)
        self._rejected = frozenset(rejected)
        self._foundation = tuple(foundation)
        self.weighed = weighed

    def __len__(self) -> int:
        return len(self._dependencies)

    def __iter__(self) -> Iterator[JudgedRule]:
        return self.of(*Standing)

    def of(self, *standings: Standing) -> Iterator[JudgedRule]:
        """Yield the rules of some standings."""
        wanted = [_ORDER.index(standing) for standing in standings]
        for dependent, determinants, states in self.by_dependent:
            chosen = np.flatnonzero(np.isin(states, wanted))
            named = ColumnSets(determinants.words[chosen], self._names)
            for determinant, state in zip(named, states[chosen].tolist(), strict=True):
                yield self._judged(Dependency(determinant, dependent), state)

    def _judged(self, rule: Dependency, state: int) -> JudgedRule:
        evidence, weighing = self.weighed.get(rule, (None, None))
        return JudgedRule(rule, _ORDER[state], evidence, weighing)

    @property
    def by_dependent(self) -> Iterator[tuple[str, ColumnSets, NDArray[np.int8]]]:
        """The determinants of each column, with a number for the standing of each."""
        for (dependent, determinants), states in zip(
            self._dependencies.by_dependent, self._standings, strict=True
        ):
            yield dependent, determinants, states

    def one(self, dependent: str, sets: ColumnSets, states: NDArray[np.int8], place: int) -> JudgedRule:
        """Return one of the rules of a dependent."""
        (determinant,) = ColumnSets(sets.words[place : place + 1], self._names)
        return self._judged(Dependency(determinant, dependent), int(states[place]))

    def special(self, dependent: str, sets: ColumnSets, blank: Collection[str]) -> NDArray[np.bool_]:
        """Return which rules of a dependent were weighed, the design rests on, or blanks tell against."""
        result: NDArray[np.bool_] = sizes(sets.words & self._words(blank)) > 0
        result |= sizes(sets.words) == 0
        rules = {rule for rule in (*self.weighed, *self._foundation) if rule.dependent == dependent}
        for words in (self._words(rule.determinant) for rule in rules):
            result |= held_by(words, sets.words) & held_by(~words, ~sets.words)
        return result

    def bits(self, rule: Dependency) -> float:
        """Return what a rule was found to weigh."""
        return bits_of(self.weighed, rule)

    @cached_property
    def counts(self) -> Counter[Standing]:
        """How many rules have each standing."""
        found = np.concatenate([np.zeros(0, dtype=np.int8), *self._standings])
        return Counter(dict(zip(_ORDER, np.bincount(found, minlength=len(_ORDER)).tolist(), strict=True)))

    @cached_property
    def _standings(self) -> list[NDArray[np.int8]]:
        result = []
        for place, (dependent, determinants) in enumerate(self._dependencies.by_dependent):
            sets = determinants.words
            states = np.full(len(sets), _DOUBTFUL, dtype=np.int8)
            states[self._implied(sets, place, self._foundation)] = _BELIEVED
            states[self._implied(sets, place, self._accepted)] = _ACCEPTED
            for rule in self._rejected:
                if rule.dependent == dependent:
                    states[(sets == self._words(rule.determinant)).all(axis=1)] = _REJECTED
            result.append(states)
        return result

    def _implied(self, sets: Words, place: int, rules: Collection[Dependency]) -> NDArray[np.bool_]:
        """Return which sets determine the column at ``place``: their closures, all grown together."""
        reached = sets.copy()
        told: dict[frozenset[str], set[str]] = {}
        for rule in rules:
            told.setdefault(rule.determinant, set()).add(rule.dependent)
        pairs = [(self._words(determinant), self._words(names)) for determinant, names in told.items()]
        grown = True
        while grown:
            grown = False
            for determinant, dependents in pairs:
                more = np.flatnonzero(held_by(determinant, reached) & ~held_by(dependents, reached))
                if len(more):
                    grown = True
                    reached[more] |= dependents
        return holding(reached, place)

    def _words(self, columns: Collection[str]) -> Words:
        places = [place for place, name in enumerate(self._names) if name in columns]
        words: Words = from_places([places], word_count(len(self._names)))[0]
        return words
