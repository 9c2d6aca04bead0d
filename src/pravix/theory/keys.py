"""Candidate keys of a scheme.

Source: C. L. Lucchesi and S. L. Osborn, "Candidate keys for relations", J. Computer and System
Sciences 17(2), 1978.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable

from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex


def minimised_key(
    columns: Iterable[str], scheme: Collection[str], dependencies: Collection[Dependency]
) -> frozenset[str]:
    """Return a candidate key inside the superkey ``columns``; the last names go first."""
    return _minimised(columns, scheme, RuleIndex(dependencies))


def _minimised(columns: Iterable[str], scheme: Collection[str], index: RuleIndex) -> frozenset[str]:
    key = frozenset(columns)
    kept, wanted = index.bits(key), index.bits(scheme)
    for column in sorted(key, reverse=True):
        rest = kept & ~index.bits([column])
        if not wanted & ~index.closure(rest, until=wanted):
            key, kept = key - {column}, rest
    return key


def candidate_keys(
    scheme: Collection[str], dependencies: Collection[Dependency]
) -> tuple[frozenset[str], ...]:
    """Return every minimal set of columns that determines the whole scheme.

    The dependencies must mention columns of the scheme only. Polynomial in the number of keys and
    dependencies; the number of keys itself may be exponential in the number of columns. Sorted by
    size, then by name.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> texts = "code -> honey", "honey -> code", "drum, code -> weight"
    >>> rules = [parse_dependencies(text)[0] for text in texts]
    >>> [sorted(key) for key in candidate_keys(["drum", "code", "honey", "weight"], rules)]
    [['code', 'drum'], ['drum', 'honey']]
    """
    index = RuleIndex(dependencies)
    first = _minimised(scheme, scheme, index)
    keys = {first}
    queue = deque([first])
    while queue:
        key = queue.popleft()
        for rule in dependencies:
            if rule.dependent not in key:
                continue
            other = rule.determinant | (key - {rule.dependent})
            if not any(known <= other for known in keys):
                found = _minimised(other, scheme, index)
                keys.add(found)
                queue.append(found)
    return tuple(sorted(keys, key=lambda key: (len(key), sorted(key))))
