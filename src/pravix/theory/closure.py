"""What a set of columns determines: closure, implication and the chain of reasons behind it.

Source: C. Beeri and P. A. Bernstein, "Computational problems related to the design of normal form
relational schemas", ACM TODS 4(1), 1979; Ullman, *Principles of Database and Knowledge-Base
Systems*, vol. 1, section 7.3.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Collection, Iterable

from pravix.theory.dependency import Dependency


def closure(columns: Iterable[str], dependencies: Iterable[Dependency]) -> frozenset[str]:
    """Return every column that ``columns`` determine under ``dependencies`` (written X+).

    Linear in the total length of the dependencies (the counting algorithm of Beeri and Bernstein).

    >>> from pravix.theory.dependency import parse_dependencies
    >>> rules = [parse_dependencies(text)[0] for text in ("drum -> keeper", "keeper -> village")]
    >>> sorted(closure(["drum"], rules))
    ['drum', 'keeper', 'village']
    """
    return frozenset(_reached(columns, dependencies))


def implies(dependencies: Iterable[Dependency], rule: Dependency) -> bool:
    """Return whether ``rule`` follows from ``dependencies`` by Armstrong's axioms."""
    return rule.dependent in closure(rule.determinant, dependencies)


def equivalent(one: Collection[Dependency], other: Collection[Dependency]) -> bool:
    """Return whether two sets of dependencies imply each other."""
    return all(implies(other, rule) for rule in one) and all(implies(one, rule) for rule in other)


def derivation(rule: Dependency, dependencies: Iterable[Dependency]) -> tuple[Dependency, ...] | None:
    """Return the dependencies that lead from the rule's determinant to its dependent, in order.

    Each one's determinant is covered by the rule's determinant and the dependents before it. None
    where the rule does not follow. An empty tuple where it is trivial. Shortest in the number of
    rounds, not always in the number of dependencies.
    """
    reached = _reached(rule.determinant, dependencies)
    if rule.dependent not in reached:
        return None
    used: dict[Dependency, None] = {}

    def collect(column: str) -> None:
        reason = reached[column]
        if reason is None or reason in used:
            return
        for needed in sorted(reason.determinant):
            collect(needed)
        used[reason] = None

    collect(rule.dependent)
    return tuple(used)


def _reached(columns: Iterable[str], dependencies: Iterable[Dependency]) -> dict[str, Dependency | None]:
    """Return each column of the closure with the dependency that added it (None for a given one)."""
    reached: dict[str, Dependency | None] = dict.fromkeys(columns)
    waiting: dict[str, list[int]] = defaultdict(list)
    rules = list(dependencies)
    missing = [len(rule.determinant) for rule in rules]
    queue = deque(reached)
    for number, rule in enumerate(rules):
        for column in rule.determinant:
            waiting[column].append(number)
        if not rule.determinant and rule.dependent not in reached:
            reached[rule.dependent] = rule
            queue.append(rule.dependent)
    while queue:
        for number in waiting[queue.popleft()]:
            missing[number] -= 1
            rule = rules[number]
            if missing[number] == 0 and rule.dependent not in reached:
                reached[rule.dependent] = rule
                queue.append(rule.dependent)
    return reached
