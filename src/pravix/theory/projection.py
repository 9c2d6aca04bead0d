"""The dependencies that hold within some columns of a scheme.

Source: G. Gottlob, "Computing covers for embedded functional dependencies", PODS 1987 (reduction by
resolution).
"""

from __future__ import annotations

from collections.abc import Collection
from functools import lru_cache

from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex


def projected(dependencies: Collection[Dependency], columns: Collection[str]) -> tuple[Dependency, ...]:
    """Return a canonical cover of all dependencies within ``columns`` that follow.

    The columns outside are removed one by one: where X -> B and Y, B -> A, the dependency X, Y -> A
    takes their place. Exponential in the worst case, as the size of the result can be; small where
    few dependencies lead to each removed column.
    """
    return Projections(dependencies).on(columns)


class Projections:
    """Dependencies made ready for being projected on many sets of columns."""

    def __init__(self, dependencies: Collection[Dependency]) -> None:
        self._index = RuleIndex(dependencies)
        self._producing: dict[str, list[Dependency]] = {}
        for rule in dependencies:
            self._producing.setdefault(rule.dependent, []).append(rule)

    def on(self, columns: Collection[str]) -> tuple[Dependency, ...]:
        """Return a canonical cover of all dependencies within some columns; see ``projected``."""
        inside = frozenset(columns)
        return _cover_within(frozenset(self._relevant(inside)), inside)

    def _relevant(self, inside: frozenset[str]) -> list[Dependency]:
        """Return the dependencies that can be used to derive one within ``inside`` from another.

        Their determinants are reached from there, and their dependents lead back there. Linear in these.
        """
        reached = inside | self._index.reached(inside)
        found, wanted, queue = [], set(inside), list(inside)
        while queue:
            for rule in self._producing.get(queue.pop(), ()):
                if rule.determinant <= reached:
                    found.append(rule)
                    new = rule.determinant - wanted
                    wanted |= new
                    queue += new
        return found


@lru_cache(maxsize=4096)
def _cover_within(relevant: frozenset[Dependency], inside: frozenset[str]) -> tuple[Dependency, ...]:
    """Return the cover, remembered: designs that differ in one rule have most of their tables in common."""
    rules = set(canonical_cover(relevant))
    outside = {name for rule in rules for name in rule.columns} - inside
    while outside:
        column = min(outside, key=lambda name: (_resolvents(name, rules), name))
        outside.remove(column)
        rules = _resolved(column, rules)
    return canonical_cover(rules)


def _resolvents(column: str, rules: Collection[Dependency]) -> int:
    """Return how many dependencies the removal of a column can produce."""
    producing = sum(rule.dependent == column for rule in rules)
    using = sum(column in rule.determinant for rule in rules)
    return producing * using


def _resolved(column: str, rules: Collection[Dependency]) -> set[Dependency]:
    """Return the dependencies without one column, with what followed through it, minimal ones only."""
    producing = [rule for rule in rules if rule.dependent == column]
    using = [rule for rule in rules if column in rule.determinant]
    joined = {
        Dependency(before.determinant | (after.determinant - {column}), after.dependent)
        for before in producing
        for after in using
    }
    found = {rule for rule in rules if column not in rule.columns} | joined
    found = {rule for rule in found if not rule.trivial and column not in rule.columns}
    return {
        rule
        for rule in found
        if not any(
            other.dependent == rule.dependent and other.determinant < rule.determinant for other in found
        )
    }
