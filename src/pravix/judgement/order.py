"""The order in which determinants are judged, and which of equally fine columns leads."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from pravix.judgement.kinds import codelike
from pravix.judgement.model import reference_rank
from pravix.judgement.use import Use
from pravix.judgement.weights import EACH_PLACE
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Column, Relation
from pravix.relation.words import noun, share_noun
from pravix.theory.dependency import Dependency


def by_content(relation: Relation) -> dict[str, int]:
    """Return a place for each column that follows from its values alone.

    Neither the order of the columns nor that of the rows changes it, nor do names, but for columns that hold
    the same values equally often. Linear in the values of the columns that are alike in numbers.
    """

    def numbers(column: Column) -> tuple[int, int]:
        return -column.distinct, column.blanks

    def texts(column: Column) -> tuple[list[tuple[str, int]], str]:
        counted = [(column.values[code], int(column.counts[code])) for code in range(1, len(column.values))]
        return sorted(pair for pair in counted if pair[1]), column.name

    alike: dict[tuple[int, int], list[Column]] = {}
    for column in relation.columns:
        alike.setdefault(numbers(column), []).append(column)
    groups = [alike[told] for told in sorted(alike)]
    ordered = [column for group in groups for column in (sorted(group, key=texts) if group[1:] else group)]
    return {column.name: place for place, column in enumerate(ordered)}


class FinestFirst:
    """The order in which rules are judged: determinants with most different values first."""

    def __init__(self, relation: Relation, uses: Mapping[str, Use]) -> None:
        self.groupings = groupings_of(relation)
        self.uses = uses
        self.place = by_content(relation)
        self._codes = {column.name for column in relation.columns if codelike(column) and not column.blanks}
        self._unfitness = {
            name: reference_rank(name, kind, name in self._codes) for name, kind in uses.items()
        }
        self.rank = {name: self._unfitness[name] + EACH_PLACE * place for name, place in self.place.items()}
        self._named_things: frozenset[str] = frozenset()
        self._named_things = frozenset(filter(self._names_a_thing, relation.names))

    def is_code(self, name: str) -> bool:
        """Return whether a column looks like a code that was given out, in every row."""
        return name in self._codes and self.uses[name] is Use.IDENTIFIER

    def size(self, columns: Collection[str]) -> int:
        """Return how many different values a set of columns has."""
        return self.groupings.size(columns)

    def of(self, determinant: frozenset[str]) -> tuple[float, ...]:
        """Return the sorting key of a determinant.

        Of equally fine ones those that name things lead, then those that are fitter to refer by.
        """
        return (
            -self.size(determinant),
            len(determinant),
            sum(name not in self._named_things or self.uses[name] is Use.TITLE for name in determinant),
            sum(self._unfitness[name] for name in determinant),
            *sorted(self.place[name] for name in determinant),
        )

    def named_thing(self, determinant: frozenset[str]) -> bool:
        """Return whether a column leads its noun, and that noun stands in other names as well."""
        return len(determinant) == 1 and determinant <= self._named_things

    def leads(self, determinant: frozenset[str]) -> bool:
        """Return whether a column comes before all others that are as fine and share its noun."""
        if len(determinant) > 1:
            return False
        (name,) = determinant
        alike = [
            frozenset({other})
            for other in self.place
            if noun(other) == noun(name) and self.size({other}) >= self.size(determinant)
        ]
        return min(alike, key=self.of) == determinant

    def _names_a_thing(self, name: str) -> bool:
        if self.uses[name] not in (Use.IDENTIFIER, Use.TITLE) or not self.leads(frozenset({name})):
            return False
        return any(share_noun(name, other) for other in self.place if other != name)

    def of_rule(self, rule: Dependency) -> tuple[tuple[float, ...], int]:
        """Return the sorting key of a rule: that of its determinant, then the dependent's place."""
        return self.of(rule.determinant), self.place[rule.dependent]
