"""A set of rules with what follows from it, each thing worked out once."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import cached_property, lru_cache

from pravix.theory.cover import Rank, canonical_cover, no_rank
from pravix.theory.dependency import Dependency
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import NormalForm, form_within
from pravix.theory.projection import Projections
from pravix.theory.rule_index import RuleIndex
from pravix.theory.synthesis import Scheme


class RuleSet(Collection[Dependency]):
    """Rules that do not change, in their order; see ``covering`` for a canonical cover.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> texts = "drum -> keeper", "keeper -> village", "drum -> village"
    >>> rules = RuleSet.covering(parse_dependencies(text)[0] for text in texts)
    >>> [str(rule) for rule in rules]
    ['drum -> keeper', 'keeper -> village']
    >>> rules.form(["drum", "keeper", "village"]).form.value
    '2NF'
    """

    def __init__(self, rules: Iterable[Dependency]) -> None:
        self._rules = tuple(rules)
        self._within: dict[frozenset[str], RuleSet] = {}
        self._forms: dict[frozenset[str], NormalForm] = {}

    @classmethod
    def covering(cls, rules: Iterable[Dependency], rank: Rank = no_rank) -> RuleSet:
        """Return the canonical cover of some rules; see ``canonical_cover``."""
        return cls(canonical_cover(tuple(rules), rank))

    def __len__(self) -> int:
        return len(self._rules)

    def __iter__(self) -> Iterator[Dependency]:
        return iter(self._rules)

    def __contains__(self, rule: object) -> bool:
        return rule in self._rules

    @cached_property
    def _projections(self) -> Projections:
        return Projections(self._rules)

    @cached_property
    def _index(self) -> RuleIndex:
        return RuleIndex(self._rules)

    def closure(self, columns: Iterable[str]) -> frozenset[str]:
        """Return every column that some columns determine, these among them."""
        given = frozenset(columns)
        return given | self._index.reached(given)

    def within(self, columns: Collection[str]) -> RuleSet:
        """Return a canonical cover of all rules that follow within some columns; see ``projected``."""
        inside = frozenset(columns)
        if inside not in self._within:
            self._within[inside] = RuleSet(self._projections.on(inside))
        return self._within[inside]

    def keys(self, columns: Collection[str]) -> tuple[frozenset[str], ...]:
        """Return every candidate key of a table with some columns; see ``candidate_keys``."""
        return self.form(columns).keys

    def form(self, columns: Collection[str]) -> NormalForm:
        """Return the normal form of a table with some columns; see ``normal_form``."""
        inside = frozenset(columns)
        if inside not in self._forms:
            self._forms[inside] = form_within(inside, self.within(inside))
        return self._forms[inside]

    def keys_of(self, scheme: Scheme) -> tuple[frozenset[str], ...]:
        """Return every candidate key of a synthesised table, the leading key first."""
        found = _keys_within(scheme.columns, self.within(scheme.columns)._rules)
        leading = [key for key in scheme.keys if key in found]
        return tuple(leading + [key for key in found if key not in leading])


@lru_cache(maxsize=4096)
def _keys_within(columns: frozenset[str], inside: tuple[Dependency, ...]) -> tuple[frozenset[str], ...]:
    """Return every candidate key, remembered: designs that differ in one rule have most tables in common."""
    return candidate_keys(columns, inside)
