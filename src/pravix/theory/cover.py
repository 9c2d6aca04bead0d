"""The canonical cover: the same rules, with nothing said twice.

Source: D. Maier, "Minimum covers in the relational database model", J. ACM 27(4), 1980; Ullman,
*Principles of Database and Knowledge-Base Systems*, vol. 1, section 7.3.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable

from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex

Rank = Callable[[str], float]
"""How gladly a design refers to a column: the higher the number, the later it is chosen."""


def no_rank(column: str) -> float:
    """Rank every column alike."""
    return 0.0


def left_reduced(dependencies: Iterable[Dependency], rank: Rank = no_rank) -> list[Dependency]:
    """Return the dependencies without the determinant columns that they can do without.

    Columns of a high rank are tried for removal first. Trivial dependencies are dropped. Quadratic
    in the number of dependencies.
    """
    rules = [rule for rule in dependencies if not rule.trivial]
    index = RuleIndex(rules)
    reduced: dict[Dependency, None] = {}
    for rule in rules:
        determinant = rule.determinant
        for column in sorted(determinant, key=lambda name: (-rank(name), name)):
            smaller = determinant - {column}
            if index.determines(smaller, [rule.dependent]):
                determinant = smaller
        reduced[Dependency(determinant, rule.dependent)] = None
    return list(reduced)


def canonical_cover(dependencies: Collection[Dependency], rank: Rank = no_rank) -> tuple[Dependency, ...]:
    """Return an equivalent, left-reduced, non-redundant set with one column on each right side.

    Where several covers exist, a dependency with columns of a high rank is the first to go, so that
    a design refers to a code (low rank) rather than to its label (high rank); then the one whose names
    come last. Quadratic in the number of dependencies. The result is sorted and does not depend on the
    order given.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> texts = "drum -> keeper", "keeper -> village", "drum -> village"
    >>> rules = [parse_dependencies(text)[0] for text in texts]
    >>> [str(rule) for rule in canonical_cover(rules)]
    ['drum -> keeper', 'keeper -> village']
    """
    reduced = left_reduced(sorted(dependencies, key=_order), rank)
    kept = dict.fromkeys(sorted(reduced, key=_order, reverse=True))

    def dispensable_first(rule: Dependency) -> tuple[float, float, int]:
        return -sum(map(rank, rule.determinant)), -rank(rule.dependent), -len(rule.determinant)

    index = RuleIndex(kept)
    for rule in sorted(kept, key=dispensable_first):
        if index.implies(rule, without=rule):
            index.discard(rule)
            del kept[rule]
    return tuple(sorted(kept, key=_order))


def _order(rule: Dependency) -> tuple[str, list[str]]:
    return rule.dependent, sorted(rule.determinant)
