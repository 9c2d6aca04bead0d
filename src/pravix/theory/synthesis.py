"""Tables in third normal form from dependencies.

Source: P. A. Bernstein, "Synthesizing third normal form relations from functional dependencies",
ACM TODS 1(4), 1976; the table for the key is from J. Biskup, U. Dayal and P. A. Bernstein,
"Synthesizing independent database schemas", SIGMOD 1979.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

from pravix.theory.cover import Rank, canonical_cover, no_rank
from pravix.theory.dependency import Dependency
from pravix.theory.keys import minimised_key
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
    known = RuleIndex(cover)
    everything = known.bits(columns)
    if not any(known.reaches(known.bits(scheme.columns), everything) for scheme in schemes):
        whole = minimised_key(key or columns, columns, cover)
        schemes.append(Scheme(whole, (whole,)))
    return tuple(_not_within_others(schemes))


def lacking_schemes(
    schemes: Sequence[Scheme], main: Iterable[str], rules: Collection[Dependency]
) -> list[Scheme]:
    """Return the tables that lack for every column to be found from those of the ``main`` one.

    A column is found where a key of its table is known already. That a join of all tables loses nothing does
    not say so: what a key needs may stand only in tables that are known by other keys. Then a rule gets a
    table of its own, which repeats what another table holds. Quadratic in the tables.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> rules = [parse_dependencies(text)[0] for text in ("drum -> keeper", "keeper, drum -> village")]
    >>> [sorted(one.columns) for one in lacking_schemes([], ["drum"], rules)]
    [['drum', 'keeper'], ['drum', 'keeper', 'village']]
    """
    added: list[Scheme] = []
    known = frozenset(main)
    while True:
        every = [*schemes, *added]
        met = [one for one in every if not one.columns <= known and any(key <= known for key in one.keys)]
        known = known.union(*(one.columns for one in met))
        if met:
            continue
        lacking = [rule for rule in rules if rule.determinant <= known and rule.dependent not in known]
        if not lacking:
            return added
        determinant = lacking[0].determinant
        dependents = {rule.dependent for rule in lacking if rule.determinant == determinant}
        added.append(Scheme(determinant | dependents, (determinant,)))


def _not_within_others(schemes: Sequence[Scheme]) -> Iterator[Scheme]:
    """Yield the tables whose columns no other holds; of those with the same columns the first."""
    holding: dict[str, list[int]] = {}
    for place, scheme in enumerate(schemes):
        for column in scheme.columns:
            holding.setdefault(column, []).append(place)
    for number, scheme in enumerate(schemes):
        others = min((holding[column] for column in scheme.columns), key=len, default=range(len(schemes)))
        if not any(
            scheme.columns < schemes[place].columns
            or (scheme.columns == schemes[place].columns and place < number)
            for place in others
        ):
            yield scheme


def _merged_groups(
    cover: Collection[Dependency], rank: Rank
) -> list[tuple[list[frozenset[str]], frozenset[str]]]:
    """Group a cover by determinant, merge equivalent determinants, drop what follows (steps 3 to 5)."""
    determinants = sorted({rule.determinant for rule in cover}, key=lambda x: _key_order(x, rank))
    known = RuleIndex(cover)
    alike: dict[int, list[frozenset[str]]] = {}
    for determinant in determinants:
        alike.setdefault(known.closure(known.bits(determinant)), []).append(determinant)
    classes = list(alike.values())
    bijections = [
        Dependency(one, column)
        for members in classes
        for one, other in zip(members, members[1:] + members[:1], strict=True)
        for column in sorted(other - one)
    ]
    inside = {one: frozenset().union(*members) for members in classes for one in members}
    rest = dict.fromkeys(rule for rule in cover if rule.dependent not in inside[rule.determinant])
    index = RuleIndex([*bijections, *rest])
    for rule in list(rest):
        if index.implies(rule, without=rule):
            index.discard(rule)
            del rest[rule]
    dependents: dict[frozenset[str], set[str]] = {one: set() for one in determinants}
    for rule in rest:
        dependents[rule.determinant].add(rule.dependent)
    return [(members, frozenset().union(*(dependents[one] for one in members))) for members in classes]


def _key_order(key: frozenset[str], rank: Rank) -> tuple[float, int, list[str]]:
    return sum(rank(column) for column in key), len(key), sorted(key)
