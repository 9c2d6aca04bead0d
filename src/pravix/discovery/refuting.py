"""Discovery where the rows stay elsewhere: the rules of a sample, those that other rows break taken back.

Every rule that holds in all rows holds in some of them. So the minimal rules of all rows are those of a
sample to which the rows that break its other rules were added: take the sample's minimal rules, have all
rows asked, add some that break a rule, and begin anew until none is broken. Then sample and whole have the
same minimal rules of the size that was searched, and the same keys.

A determinant on which only few rows agree with others is settled at once: with all of these rows in the
sample, every rule that it is a part of is as true there as in the whole. So is a rule that only few rows
break: with all of them in the sample, those with more columns on the left are true there where they are true.

Source of the alternation between candidates from a sample and their refutation: T. Papenbrock and F.
Naumann, "A hybrid approach to functional dependency discovery", SIGMOD 2016; of witnesses as an Armstrong-
like relation: H. Mannila and K.-J. Räihä, "Design by example: an application of Armstrong relations", JCSS
33(2), 1986.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Protocol

from pravix.discovery.discovered import Discovery
from pravix.progress import Progress, silent
from pravix.relation.grouping import constant_within, groups_by
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.rule_index import RuleIndex

_DONE_AT_ONCE = 0.2
"""The share of a round's determinants after whose refutation the rules are worked out anew, ..."""

_LEAST_AT_ONCE = 5
"""... if they are more than so many."""


@dataclass(frozen=True)
class Outcome:
    """What all rows say of a determinant.

    ``broken`` are the dependents that some rows break, ``shared`` says that two rows agree on the
    determinant. All rows that break a rule that is ``settled`` are in the sample; with ``whole`` all that
    agree with another.
    """

    broken: frozenset[str]
    shared: bool
    whole: bool = False
    settled: frozenset[Dependency] = frozenset()


class Elsewhere(Protocol):
    """All rows, wherever they are, as a search asks them."""

    def broken(self, determinant: Collection[str], dependents: Sequence[str], as_key: bool) -> Outcome:
        """Return what all rows say of a determinant, and add rows to the sample that show it.

        Only with ``as_key`` rows are wanted that agree on the determinant and nothing else is known of.
        """
        ...

    def witnesses(self) -> Relation:
        """Return the rows that were added to the sample since it was last searched, as it is searched."""
        ...


class Refuting:
    """The claims of a sample held against all rows; ``true`` keeps the rules that these obey.

    What is said of determinants of several columns that are ``idle`` is left as the sample says it: nobody
    weighs it. Keys are always asked about.
    """

    def __init__(
        self,
        rows: Elsewhere,
        names: Sequence[str],
        true: RuleIndex,
        progress: Progress = silent,
        idle: Callable[[frozenset[str]], bool] = lambda columns: False,
    ) -> None:
        self._rows = rows
        self._names = tuple(names)
        self._progress = progress
        self._idle = idle
        self._true = true
        self._keys: set[frozenset[str]] = set()
        self._settled: list[frozenset[str]] = []
        self._settled_for: dict[str, list[frozenset[str]]] = {}
        self.asked = 0

    def completed(self, search: Callable[[], Discovery], keys_only: bool = False) -> Discovery:
        """Return the rules of all rows, and have the sample completed with rows that break all others.

        ``search`` finds the minimal rules and keys of the sample as it stands. It ends, because every round
        takes back a claim about one of finitely many sets of columns. Cost: a pass over all rows for each
        determinant that is not settled by others, made where they are.
        """
        while True:
            found = search()
            if not self._held_against(self._claims(found, keys_only)):
                return found

    def _claims(self, found: Discovery, keys_only: bool) -> dict[frozenset[str], tuple[list[str], bool]]:
        """Return what is to be asked, by determinant: its dependents, and whether it is a key."""
        claims: dict[frozenset[str], tuple[list[str], bool]] = {}
        if not keys_only:
            for rule in found.dependencies:
                if len(rule.determinant) > 1 and self._idle(rule.determinant):
                    continue
                claims.setdefault(rule.determinant, ([], False))[0].append(rule.dependent)
        for key in found.keys:
            claims[key] = claims.get(key, ([], False))[0], True
        return claims

    def _held_against(self, claims: dict[frozenset[str], tuple[list[str], bool]]) -> bool:
        """Ask all rows, small determinants first; return whether they break something."""
        added: Relation | None = None
        broken = 0
        order = sorted(claims, key=lambda one: (len(one), in_order(one, self._names)))
        for determinant in order:
            dependents, key = claims[determinant]
            open_ones, key = self._open(determinant, dependents, key, added)
            if not open_ones and not key:
                continue
            self.asked += 1
            self._progress("asking all rows", self.asked)
            outcome = self._rows.broken(determinant, open_ones, key)
            for name in open_ones:
                if name not in outcome.broken:
                    self._true.add(Dependency(determinant, name))
            if key and not outcome.shared:
                self._keys.add(determinant)
            if outcome.whole:
                self._settled.append(determinant)
            for rule in outcome.settled:
                self._settled_for.setdefault(rule.dependent, []).append(rule.determinant)
            if outcome.broken or (key and outcome.shared):
                broken += 1
                added = self._rows.witnesses()
                if broken > max(_LEAST_AT_ONCE, _DONE_AT_ONCE * len(order)):
                    break
        return added is not None

    def _open(
        self, determinant: frozenset[str], dependents: Sequence[str], key: bool, added: Relation | None
    ) -> tuple[list[str], bool]:
        """Return what of a claim is neither known to be true nor broken by the rows added just now."""
        if any(one <= determinant for one in self._settled):
            return [], False
        reached = self._true.reached(determinant)
        dependents = [
            name
            for name in dependents
            if name not in reached and not any(one <= determinant for one in self._settled_for.get(name, ()))
        ]
        if key and any(one <= reached for one in self._keys):
            key = False
        if added is not None and (dependents or key):
            groups = groups_by(added, determinant)
            dependents = [name for name in dependents if constant_within(groups, added.column(name).codes)]
            key = key and int(groups.max(initial=-1)) + 1 == added.row_count
        return list(dependents), key
