"""What identifies a row of the file: the combinations that could, each with its account and probability.

A unique combination may be unique by luck. What speaks for one is what its columns are, that no column
of it is described elsewhere, and how surprising it is that no two rows agree: of the pairs of rows that
agree on all of its columns but one, so many would agree on that one too if it had nothing to do with the
others. Where that number is small for one of the columns, any combination with it would have been unique.
The bits add up; together they give each candidate a probability (a conditional logit: D. McFadden,
"Conditional logit analysis of qualitative choice behavior", in Frontiers in Econometrics, 1974).
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from heapq import nsmallest
from math import inf, log2, sqrt

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.budget import Budget
from pravix.discovery.discovered import Discovery
from pravix.discovery.search import MOST, Plan, discover_keys
from pravix.judgement.column_roles import ColumnRole, Probabilities
from pravix.judgement.use import Use
from pravix.judgement.weights import (
    CHANCE_CAP,
    GOOD_ROW_KEY,
    KEY,
)
from pravix.kernels.arrays import Groups
from pravix.ledger.said import Said
from pravix.processors import processors
from pravix.relation.grouping import groupings_of
from pravix.relation.lexicon import CALENDAR
from pravix.relation.relation import Relation
from pravix.relation.words import words
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency

_NUMBERS = (Use.NUMBER, Use.SERIAL)
_FOR_LARGER_KEYS = Budget(seconds=15)
_KEYS_COMPARED = 20_000
_UNSEEN, _SURELY = 4, 4
_NEXT_TO_NONE = 0.5
"""So few pairs by luck in a large table that the rest of its columns is not looked at, ..."""

_SPREAD = 0.03
"""... and how far some rows may be off, as a share of one pair and what they tell: about 0.04 bits."""

_DIGITS = 9
"""So many digits of bits count: the order in which they are added up does not."""

_WEIGHED = 40
"""How many candidates get a full account; the others are too far behind by what their columns are."""


@dataclass(frozen=True)
class RankedKey:
    """A combination that may identify a row: its account, in bits by term, and how likely it is the one."""

    columns: frozenset[str]
    account: Mapping[str, float]
    probability: float = 0.0

    @property
    def bits(self) -> float:
        """The sum of all bits."""
        return sum(self.account.values())


def kinds_bits(key: Collection[str], roles: Mapping[str, Probabilities]) -> float:
    """Return how well columns of these roles serve to identify a row, in bits: few identifiers lead."""
    worth = {name: role_bits(roles[name]) for name in key}
    return sum(_of_columns(key, worth).values()) + sum(_weighted(_number(key, roles)).values())


def _of_columns(key: Collection[str], worth: Mapping[str, float]) -> dict[str, float]:
    """Return what each column of a key is worth, in bits; the parts of a date count as one column."""
    return {name: worth[name] for name in map(min, _units(key))}


def role_bits(roles: Probabilities) -> float:
    """Return what a column is worth in a key, in bits, given how likely it is what."""
    return log2(sum(share * 2.0 ** KEY[role.value] for role, share in roles.items()))


def _number(key: Collection[str], roles: Mapping[str, Probabilities]) -> dict[str, float]:
    """Return the terms of how many columns a key has; a time alone says when, and not what."""
    units = _units(key)
    if len(units) > 1:
        return {"columns": float(len(units))}
    when = max((roles[name].get(ColumnRole.TIME, 0.0) for name in key), default=0.0)
    return {"alone": 1.0, "a time alone": when}


def _weighted(terms: Mapping[str, float]) -> dict[str, float]:
    return {term: KEY[term] * value for term, value in terms.items() if value}


def collisions(relation: Relation, key: Collection[str]) -> float:
    """Return how many pairs of rows would agree on a combination by luck, were one column of it luck.

    The column that explains most counts; the parts of a date are one. Some rows are grouped, then more and
    at last all, until they tell it well: their pairs that agree come as by a Poisson process.
    """
    samples, rest = groupings_of(relation).samples, {unit: frozenset(key) - unit for unit in _units(key)}
    rows = max(1, relation.row_count)
    alike = {unit: float(((_sizes(relation, unit) / rows) ** 2).sum()) for unit in rest}
    first = {unit: _pairs(samples[0].of(others)) for unit, others in rest.items()}
    least = inf
    for unit in sorted(rest, key=lambda unit: (first[unit] + _UNSEEN) * alike[unit]):
        if least <= _NEXT_TO_NONE and len(samples) > 1:
            break
        for place, some in enumerate(samples):
            pairs = _pairs(some.of(rest[unit])) if place else first[unit]
            by_luck = alike[unit] * (relation.total / max(1, some.row_count)) ** 2
            spread = sqrt(pairs + _UNSEEN) * by_luck if some is not samples[-1] else 0.0
            if pairs * by_luck - _SURELY * spread > least:
                break
            if spread <= _SPREAD * (1.0 + pairs * by_luck):
                least = min(least, pairs * by_luck)
                break
    return least


def _sizes(relation: Relation, unit: Collection[str]) -> NDArray[np.intp]:
    """Return how many rows share each value of a column, or of the parts of a date."""
    if len(unit) == 1:
        return relation.column(min(unit)).counts
    return np.bincount(groupings_of(relation).of(unit))


def _pairs(groups: Groups) -> float:
    sizes = np.bincount(groups)
    return (float(np.dot(sizes, sizes)) - len(groups)) / 2


def ranked_keys(
    relation: Relation,
    discovery: Discovery,
    trusted: Sequence[Dependency],
    uses: Mapping[str, Use],
    roles: Mapping[str, Probabilities],
    rejected: Collection[Dependency],
    opaque: Collection[str],
    said: Said,
    rank: Mapping[str, float],
) -> tuple[RankedKey, ...]:
    """Return the combinations that may identify a row, best first; empty where there is none.

    A column with a blank is not part of one, and no rejected rule may follow from one. A single row is
    identified by any of its columns. What was ``said`` goes before everything. Where the search for keys was
    limited and found no good one, larger keys are sought, for some seconds, among the columns that no
    trusted rule describes.
    """
    if said.key is not None:
        return (RankedKey(said.key, {}, 1.0),)
    described = frozenset(rule.dependent for rule in trusted)
    proven = _proven(uses, roles, trusted)
    unusable = {column.name for column in relation.columns if column.blanks} | set(opaque)

    def usable(key: frozenset[str]) -> bool:
        denied = any(key <= rule.determinant for rule in rejected) or any(key <= no for no in said.not_keys)
        return not key & unusable and not denied

    worth = {name: role_bits(told) for name, told in proven.items()}
    parts = {
        name: part
        for name in relation.names
        if (part := _calendar(name)) is not None
        and name not in unusable
        and relation.column(name).distinct > 1
    }

    def first_account(key: frozenset[str]) -> RankedKey:
        return RankedKey(key, _of_columns(key, worth) | _weighted(_told(key, uses, proven, described)))

    of_dates = frozenset(name for name in relation.names if _calendar(name) is not None)
    alone = {
        name: worth[name]
        + KEY["detail"] * (uses[name] is Use.DETAIL)
        + KEY["described"] * (name in described)
        for name in relation.names
    }

    def first_bits(key: frozenset[str]) -> float:
        """Return the bits of the first account, in short where every column counts by itself."""
        if len(key) < 2 or not of_dates.isdisjoint(key):
            return first_account(key).bits
        return sum(map(alone.__getitem__, key)) + KEY["columns"] * len(key)

    def order(bits: float, key: frozenset[str]) -> tuple[float, int, float]:
        return -round(bits, _DIGITS), len(key), sum(map(rank.__getitem__, key))

    def best_first(one: RankedKey) -> tuple[float, int, float]:
        return order(one.bits, one.columns)

    wider = dict.fromkeys(
        key | {name}
        for key in said.not_keys
        for name in relation.names
        if name not in closure(key, trusted) and groupings_of(relation).size(key | {name}) == relation.total
    )

    def told(keys: Iterable[frozenset[str]]) -> list[RankedKey]:
        whole = dict.fromkeys(_whole_dates(key, parts) for key in keys)
        fit = filter(usable, {**whole, **wider})
        return [
            first_account(key) for key in nsmallest(_WEIGHED, fit, lambda key: order(first_bits(key), key))
        ]

    keys = discovery.keys if relation.row_count > 1 else tuple(frozenset({name}) for name in relation.names)
    found = told(keys)
    if not discovery.complete and (not found or found[0].bits < GOOD_ROW_KEY):
        more = told(_larger(relation, described, opaque, usable))
        found = sorted({one.columns: one for one in (*found, *more)}.values(), key=best_first)
    weighed = _all_weighed(relation, found[:_WEIGHED])
    return _with_probabilities(sorted(weighed, key=best_first))


def _larger(
    relation: Relation,
    described: frozenset[str],
    opaque: Collection[str],
    usable: Callable[[frozenset[str]], bool],
) -> list[frozenset[str]]:
    """Return unique combinations of any size, of columns that no trusted rule describes.

    More of them are looked for where none of the first ones can be a key, but not when the time is over.
    """
    rest = [name for name in relation.names if name not in described and name not in opaque]
    for most in (_KEYS_COMPARED, MOST):
        found = discover_keys(relation.project(rest), most=most, budget=_FOR_LARGER_KEYS)
        larger = [key for key in found.keys if usable(key)]
        if larger or found.plan == Plan.LEVELS.value:
            return larger
    return []


def _all_weighed(relation: Relation, keys: Sequence[RankedKey]) -> list[RankedKey]:
    """Return candidates with what their uniqueness says: of many rows several at a time."""
    if len(groupings_of(relation).samples) == 1:
        return [_weighed(relation, one) for one in keys]
    with ThreadPoolExecutor(processors()) as threads:
        return list(threads.map(partial(_weighed, relation), keys))


def _weighed(relation: Relation, key: RankedKey) -> RankedKey:
    """Return a candidate with what its uniqueness says; that of one column alone says nothing more."""
    return replace(key, account={**key.account, **_weighted(_surprise(relation, key.columns))})


def _surprise(relation: Relation, key: frozenset[str]) -> dict[str, float]:
    if len(_units(key)) == 1 or relation.row_count < 2:
        return {}
    return {"surprise": min(CHANCE_CAP, log2(1.0 + collisions(relation, key)))}


def row_key_terms(
    relation: Relation,
    key: frozenset[str],
    uses: Mapping[str, Use],
    roles: Mapping[str, Probabilities],
    trusted: Sequence[Dependency],
) -> tuple[list[Probabilities], dict[str, float]]:
    """Return what the columns of a key are and the other terms of its account before they are weighted."""
    proven = _proven(uses, roles, trusted)
    described = frozenset(rule.dependent for rule in trusted)
    terms = {**_told(key, uses, proven, described), **_surprise(relation, key)}
    return [proven[min(unit)] for unit in _units(key)], terms


def _told(
    key: frozenset[str],
    uses: Mapping[str, Use],
    roles: Mapping[str, Probabilities],
    described: frozenset[str],
) -> dict[str, float]:
    """Return the terms of a key but for what its columns are and what its uniqueness says."""
    details = sum(uses[name] is Use.DETAIL for name in key)
    return _number(key, roles) | {"detail": float(details), "described": float(len(key & described))}


def _proven(
    uses: Mapping[str, Use], roles: Mapping[str, Probabilities], trusted: Iterable[Dependency]
) -> dict[str, Probabilities]:
    """Return the roles of columns, a number that is known to decide others being an identifier."""
    alone = {name for rule in trusted if len(rule.determinant) == 1 for name in rule.determinant}
    return {
        name: {ColumnRole.IDENTIFIER: 1.0} if uses[name] in _NUMBERS and name in alone else told
        for name, told in roles.items()
    }


def _units(key: Collection[str]) -> list[frozenset[str]]:
    """Return the columns of a key one by one, the parts of a date together."""
    date = frozenset(name for name in key if _calendar(name) is not None)
    rest = [frozenset({name}) for name in sorted(key) if name not in date]
    return [date, *rest] if date else rest


def _with_probabilities(keys: Sequence[RankedKey]) -> tuple[RankedKey, ...]:
    """Return candidates, best first, with their probabilities; some of it is left for none of them."""
    if not keys:
        return ()
    odds = np.exp2(np.array([key.bits for key in keys]) - keys[0].bits)
    shares = odds / (odds.sum() + 2.0 ** (KEY["none of them"] - keys[0].bits))
    return tuple(replace(key, probability=float(share)) for key, share in zip(keys, shares, strict=True))


def _whole_dates(key: frozenset[str], parts: Mapping[str, int]) -> frozenset[str]:
    """Return a combination with the coarser ones of the ``parts`` of a date that it names a finer part of.

    A day means nothing without its month, nor a month without its year, where the file has those.
    """
    named = [part for name in key if (part := _calendar(name)) is not None] if parts else []
    if not named:
        return key
    return key | {name for name, part in parts.items() if part < max(named) and part not in named}


@lru_cache(maxsize=10_000)
def _calendar(name: str) -> int | None:
    """Return which part of a date a column is by its name alone: 0 a year, 1 a month, 2 a day, 3 an hour."""
    told = words(name)
    return next((place for place, part in enumerate(CALENDAR) if len(told) == 1 and told[0] in part), None)


def equivalent(one: frozenset[str], other: frozenset[str], rules: Collection[Dependency]) -> bool:
    """Whether two sets of columns determine each other."""
    return one <= closure(other, rules) and other <= closure(one, rules)
