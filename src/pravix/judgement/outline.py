"""The tables that would follow from some rules and a key, in outline: enough to compare designs."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import cached_property, partial

from pravix.judgement.judgement import Judgement, by_key
from pravix.theory.cover import Rank
from pravix.theory.dependency import Dependency
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import synthesise_cover

Homes = Mapping[str, frozenset[frozenset[str]]]
"""For each column, the keys of the tables that it is described in."""

_ROW = ""
"""Stands for the row's number where no columns identify a row; no column has this name."""


@dataclass(frozen=True)
class Outlined:
    """A table in outline: its columns, and the key that leads."""

    columns: frozenset[str]
    key: frozenset[str]


@dataclass(frozen=True)
class Outline:
    """The tables of a design, and where each column is described."""

    tables: frozenset[Outlined]
    homes: Homes


class Outlines:
    """Outlines of the designs that a judgement allows; each is worked out once."""

    def __init__(self, judgement: Judgement) -> None:
        self._judgement = judgement
        self._known: dict[object, Outline] = {}

    @cached_property
    def now(self) -> Outline:
        """The design as it stands."""
        return self.of(self._judgement.trusted)

    def of(
        self,
        trusted: Collection[Dependency],
        row_key: frozenset[str] | None = None,
        first: str | None = None,
    ) -> Outline:
        """Return the outline of a design that rests on other rules, another key, or refers by ``first``."""
        asked = frozenset(trusted), row_key, first
        if asked not in self._known:
            self._known[asked] = self._worked(trusted, row_key or self._judgement.row_key, first)
        return self._known[asked]

    def _worked(
        self, trusted: Collection[Dependency], row_key: frozenset[str] | None, first: str | None
    ) -> Outline:
        names = tuple(self._judgement.uses)
        if row_key is None:
            names, row_key = (*names, _ROW), frozenset({_ROW})
        rank: Rank = partial(_rank, self._judgement, first)
        cover = RuleSet.covering((*trusted, *by_key(row_key, names)), rank)
        homes: dict[str, set[frozenset[str]]] = {name: set() for name in names}
        tables = set()
        for scheme in synthesise_cover(names, cover, row_key, rank):
            keys = cover.keys_of(scheme)
            tables.add(Outlined(scheme.columns - {_ROW}, row_key if row_key in keys else keys[0]))
            for name in scheme.columns.difference(*keys):
                homes[name].update(keys)
        return Outline(frozenset(tables), {name: frozenset(keys) for name, keys in homes.items()})


def _rank(judgement: Judgement, first: str | None, name: str) -> float:
    return -1.0 if name == first else judgement.rank(name)
