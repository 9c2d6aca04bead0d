"""Which two tables of one design hold one kind of thing in two roles, and which columns say the same.

Names tell it where they differ by the word of the role only: ``from_depot`` and ``to_depot``. Values tell it
where two keys have many things in common and what both say of these agrees.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.design.model import Role, Table
from pravix.judgement.keyed import Keyed, in_common
from pravix.judgement.linking import GENERIC_WORDS
from pravix.judgement.sameness import facts_of, same_things
from pravix.relation.relation import Column
from pravix.relation.words import cut_words, noun, words
from pravix.sources.coding import Numbering

_MOST_WORDS = 2
_SHARED_THINGS = 0.5
_LEAST_SHARED = 4
_SURPRISING = 8.0


@dataclass(frozen=True)
class Pair:
    """Two tables in their roles; ``sure`` says that nothing is to be asked."""

    one: Role
    other: Role
    sure: bool = True


def could_be_roles(table: Table) -> bool:
    """Whether a table may be a role of something: known by one column, and not put together before."""
    return len(table.primary_key) == 1 and not (table.made_from or table.roles or table.apart_from)


def is_nameless(pair: Pair, one: Table) -> bool:
    """Whether all that two keys have in common is a word that says nothing of the thing, like *no*."""
    (rest,) = (name for name, flat in pair.one.columns if flat == one.primary_key[0])
    return set(words(rest)) <= GENERIC_WORDS


def named_alike(one: Table, other: Table) -> Pair | None:
    """Return the roles of two tables whose columns are called alike but for the word of the role."""
    if len(one.columns) != len(other.columns):
        return None
    differing = difference(words(one.primary_key[0]), words(other.primary_key[0]))
    if differing is None:
        return None
    here, there = differing
    by_words = {tuple(words(name)): name for name in other.column_names}
    first, second = {}, {}
    for name in one.column_names:
        found = words(name)
        place = place_of(here, found)
        if place is None:
            return None
        partner = by_words.get((*found[:place], *there, *found[place + len(here) :]))
        rest = cut_words(name, place, len(here))
        if partner is None or not rest:
            return None
        first[rest], second[rest] = name, partner
    if len(first) < len(one.columns) or len(set(second.values())) < len(one.columns):
        return None
    return Pair(Role(" ".join(here), tuple(first.items())), Role(" ".join(there), tuple(second.items())))


def _key_of(table: Table) -> Column:
    return table.rows.column(table.primary_key[0])


class KeyedTables:
    """Tables by their primary keys, each worked out once; ``numbering`` is of their values."""

    def __init__(self, tables: Iterable[Table], numbering: Numbering) -> None:
        self._known: dict[int, tuple[Table, Keyed]] = {}
        self._numbering = numbering
        keys = [_key_of(table) for table in tables if could_be_roles(table)]
        self._place = {key: place for place, key in enumerate(keys)}
        self._counted = numbering.counted(keys)
        self._counts: dict[Column, NDArray[np.int64]] = {}

    def common(self, one: Table, other: Table) -> int:
        """Return how many values the keys of two tables have in common: of those at hand all at once."""
        here, there = _key_of(one), _key_of(other)
        if here in self._place and there in self._place:
            if here not in self._counts:
                self._counts[here] = self._counted(here)
            return int(self._counts[here][self._place[there]])
        return in_common(self.of(one), one.primary_key, self.of(other), other.primary_key)

    def of(self, table: Table) -> Keyed:
        """Return a table by its primary key."""
        if id(table) not in self._known:
            keyed = Keyed.of(table.name, table.rows, [table.primary_key], self._numbering)
            self._known[id(table)] = table, keyed
        return self._known[id(table)][1]


def alike_by_values(one: Table, other: Table, wished: bool, keyed: KeyedTables) -> Pair | None:
    """Return the roles of two tables that hold the same things and say the same of them.

    The pair is sure where the names of the keys say so as well, or where that is ``wished``. Columns that
    only one of the two has belong to its role alone. Linear in the cells of both, for each pair of columns.
    """
    here, there = one.primary_key, other.primary_key
    least = min(one.rows.row_count, other.rows.row_count)
    common = keyed.common(one, other)
    if not wished and not (common >= _LEAST_SHARED and common >= _SHARED_THINGS * least):
        return None
    mine, theirs = keyed.of(one), keyed.of(other)
    facts = facts_of(mine, here, theirs, there, _SURPRISING)
    if facts.differing or facts.contradicting or not (facts.shared or wished):
        return None
    believed = same_things(mine, theirs)
    if not wished and believed is None and not facts.wonders:
        return None
    pairs = [(here[0], there[0]), *facts.shared]
    left = [name for name in other.column_names if name not in {b for _, b in pairs}]
    return _roles(one, other, pairs, left, wished or believed is not None)


def _roles(
    one: Table, other: Table, pairs: Sequence[tuple[str, str]], left: Sequence[str], sure: bool
) -> Pair | None:
    rests = {a: _rest(a, b) for a, b in pairs}
    rests |= {name: name for name in one.column_names if name not in rests}
    first = {rest: name for name, rest in rests.items()}
    second = {rests[a]: b for a, b in pairs}
    for name in left:
        free = name if name not in first else f"{other.name}_{name}"
        second[free] = name
    roles = _role_names(pairs[0], rests[pairs[0][0]])
    if len(first) < len(one.columns) or len(second) < len(other.columns) or len(set(roles)) < 2:
        return None
    return Pair(Role(roles[0], tuple(first.items())), Role(roles[1], tuple(second.items())), sure)


def _rest(one: str, other: str) -> str:
    """Return what two names have in common at their end, as one of them spells it; else the shorter."""
    mine, theirs = words(one), words(other)
    shared = 0
    while shared < min(len(mine), len(theirs)) and mine[-1 - shared] == theirs[-1 - shared]:
        shared += 1
    if shared == 0 or set(mine[-shared:]) <= GENERIC_WORDS:
        return one if len(mine) <= len(theirs) else other
    longer, count = (one, len(mine)) if len(mine) >= len(theirs) else (other, len(theirs))
    return cut_words(longer, 0, count - shared) or longer


def _role_names(keys: tuple[str, str], rest: str) -> tuple[str, str]:
    """Return what two roles are called: by the words of their keys that are not shared."""
    shared = set(words(rest))
    names = [" ".join(word for word in words(key) if word not in shared) for key in keys]
    return tuple(name or " ".join(noun(key)) for name, key in zip(names, keys, strict=True))  # type: ignore[return-value]


def difference(one: Sequence[str], other: Sequence[str]) -> tuple[list[str], list[str]] | None:
    """Return the run of words in which two names, given as words, differ; None where nothing is in common."""
    start = 0
    while start < min(len(one), len(other)) and one[start] == other[start]:
        start += 1
    end = 0
    while end < min(len(one), len(other)) - start and one[-1 - end] == other[-1 - end]:
        end += 1
    here, there = list(one[start : len(one) - end]), list(other[start : len(other) - end])
    short = 0 < len(here) <= _MOST_WORDS and 0 < len(there) <= _MOST_WORDS
    return (here, there) if short and start + end > 0 else None


def place_of(part: Sequence[str], whole: Sequence[str]) -> int | None:
    """Return where a run of words stands in others; None where it does not."""
    for place in range(len(whole) - len(part) + 1):
        if list(whole[place : place + len(part)]) == list(part):
            return place
    return None
