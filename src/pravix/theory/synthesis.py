"""Tables in third normal form from dependencies.

Source: P. A. Bernstein, "Synthesizing third normal form relations from functional dependencies",
ACM TODS 1(4), 1976; the table for the key is from J. Biskup, U. Dayal and P. A. Bernstein,
"Synthesizing independent database schemas", SIGMOD 1979.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from pravix.theory.cover import Rank, canonical_cover, no_rank
from pravix.theory.dependency import Dependency
from pravix.theory.keys import is_superkey, minimised_key
from pravix.theory.rule_index import RuleIndex


@dataclass(frozen=True)
class Scheme:
    """The columns of one table and the keys that it was made for, the leading key first."""

    columns: frozenset[str]
    keys: tuple[frozenset[str], ...]


def synthesise(
    columns: Collection[str],
    dependencies: Collection[Dependency],
    key: Iterable[str] = (),
    rank: Rank = no_rank,
) -> tuple[Scheme, ...]:
    """Return lossless, dependency-preserving tables in third normal form.

    ``columns`` are those of the whole scheme. ``key`` is the superkey to keep together where no
    table holds a key of the scheme; by default one is computed. ``rank`` says which of several
    equivalent columns a table should refer to (see ``canonical_cover``) and which of several keys
    leads. Quadratic in the number of dependencies.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> rules = [parse_dependencies(text)[0] for text in ("drum -> keeper", "keeper -> village")]
    >>> [sorted(scheme.columns) for scheme in synthesise(["drum", "keeper", "village"], rules)]
    [['drum', 'keeper'], ['keeper', 'village']]
    """
    return synthesise_cover(columns, canonical_cover(dependencies, rank), key, rank)


def synthesise_cover(
    columns: Collection[str],
    cover: Collection[Dependency],
    key: Iterable[str] = (),
    rank: Rank = no_rank,
) -> tuple[Scheme, ...]:
    """Return the tables of a canonical cover that was made with the same ``rank``; see ``synthesise``."""
    groups = _merged_groups(cover, rank)
    schemes = [Scheme(frozenset().union(*keys, dependents), tuple(keys)) for keys, dependents in groups]
    if not any(is_superkey(scheme.columns, columns, cover) for scheme in schemes):
        whole = minimised_key(key or columns, columns, cover)
        schemes.append(Scheme(whole, (whole,)))
    kept = [
        scheme
        for number, scheme in enumerate(schemes)
        if not any(
            scheme.columns < other.columns or (scheme.columns == other.columns and place < number)
            for place, other in enumerate(schemes)
        )
    ]
    return tuple(kept)


def _merged_groups(
    cover: Collection[Dependency], rank: Rank
) -> list[tuple[list[frozenset[str]], frozenset[str]]]:
    """Group a cover by determinant, merge equivalent determinants, drop what follows (steps 3 to 5)."""
    determinants = sorted({rule.determinant for rule in cover}, key=lambda x: _key_order(x, rank))
    known = RuleIndex(cover)
    closed = {determinant: known.reached(determinant) for determinant in determinants}
    classes: list[list[frozenset[str]]] = []
    for determinant in determinants:
        for members in classes:
            if members[0] <= closed[determinant] and determinant <= closed[members[0]]:
                members.append(determinant)
                break
        else:
            classes.append([determinant])
    bijections = [
        Dependency(one, column)
        for members in classes
        for one, other in zip(members, members[1:] + members[:1], strict=True)
        for column in sorted(other - one)
    ]
    rest = [rule for rule in cover if not _inside_class(rule, classes)]
    index = RuleIndex([*bijections, *rest])
    for rule in list(rest):
        if index.implies(rule, without=rule):
            index.discard(rule)
            rest.remove(rule)
    return [
        (members, frozenset(rule.dependent for rule in rest if rule.determinant in members))
        for members in classes
    ]


def _inside_class(rule: Dependency, classes: Iterable[list[frozenset[str]]]) -> bool:
    """Whether the rule only says that two determinants of one class are equivalent."""
    return any(
        rule.determinant in members and rule.dependent in frozenset().union(*members) for members in classes
    )


def _key_order(key: frozenset[str], rank: Rank) -> tuple[float, int, list[str]]:
    return sum(rank(column) for column in key), len(key), sorted(key)
