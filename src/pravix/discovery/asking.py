"""All rows of a flat table, as a search for their rules asks them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from itertools import combinations

import numpy as np

from pravix.discovery.refuting import Outcome
from pravix.engines.flat import SETTLING, Flat
from pravix.engines.place import Row
from pravix.engines.sample import Sample
from pravix.errors import InputError
from pravix.relation.grouping import constant_within, first_positions, groupings_of, groups_by
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency

_FEW = 2
"""Groups by so many columns are made quickly, where they are not many."""

_NEARLY_UNIQUE = 0.9
_MANY_GROUPS = 0.3
"""As a share of the rows of the sample."""

_TIMES = 5
"""Of nearly as many groups as rows so many times as many are looked at next, where few did not tell."""

_SMALL_PART = 0.05
"""Of the rows of the sample: where so few can break a rule, only such are looked at."""


class Asked:
    """All rows, as a search asks them through a sample; see ``pravix.discovery.refuting.Elsewhere``.

    ``tested`` is the flat table with the columns that are searched, ``searched`` makes rows of these from
    rows of the sample. With ``settling`` all rows that agree on some columns are fetched where they are
    few: that pays where every rule is asked about.
    """

    def __init__(
        self, sample: Sample, tested: Flat, searched: Callable[[Relation], Relation], settling: bool = True
    ) -> None:
        self._sample = sample
        self._settling = settling
        self._tested = tested
        self._searched = searched
        self._below: dict[Dependency, Relation | None] = {}
        self._estimates: dict[Dependency, int] = {}
        self._parts: dict[str, Flat | None] = {}
        self.begun()

    def begun(self) -> Relation:
        """Return the sample as it is searched, and begin to keep apart what is added."""
        self._start = len(self._sample)
        self._estimates.clear()
        self._relation = self._searched(self._sample.relation())
        return self._relation

    def broken(self, determinant: Collection[str], dependents: Sequence[str], as_key: bool) -> Outcome:
        """As said there: of many columns on a part of the groups first, where the engine can, then on all.

        Of nearly as many groups as rows ever larger parts come between: to look at all takes longest there.
        """
        flat, wrong, left, shared = self._tested, set[str](), list(dependents), False
        settled: set[Dependency] = set()
        if flat.identified_by(determinant):
            return Outcome(frozenset(), False, True)

        def ask(some: Flat, parts: int = 1) -> bool:
            """Ask some rows for such as break what is left; return whether there are any."""
            nonlocal shared, left
            keyed, whole = as_key and not shared, some is flat and parts == 1
            within = self._narrowed(determinant, left) if whole and not keyed else ()
            found = some.breaking(determinant, left, parts, keyed, within)
            for rows in some.rows_of(determinant, found):
                self._sample.add(rows)
            broken = {name for one in found for name in one.ends}
            wrong.update(broken)
            if whole and flat.all_told(found):
                settled.update(Dependency(frozenset(determinant), name) for name in broken)
            left = [name for name in left if name not in wrong]
            shared = shared or bool(found)
            return bool(found)

        if len(determinant) > _FEW:
            for rule, breaking in self._settled_below(determinant, tuple(left)):
                settled.add(rule)
                left.remove(rule.dependent)
                groups = groups_by(breaking, determinant)
                if not constant_within(groups, breaking.column(rule.dependent).codes):
                    wrong.add(rule.dependent)
            if not left and not as_key:
                return Outcome(frozenset(wrong), bool(wrong), settled=frozenset(settled))
        for some, parts in self._parts_of(determinant):
            if (left or (as_key and not shared)) and ask(some, parts) and not left:
                return Outcome(frozenset(wrong), True, settled=frozenset(settled))
        if self._settling and self._groups(determinant) >= _NEARLY_UNIQUE:
            summary = flat.summary(determinant, left)
            if summary.sharing <= SETTLING:
                self._sample.add(flat.sharing_rows(determinant))
                return Outcome(summary.broken | wrong, summary.sharing > 0, True)
        while (left or (as_key and not shared)) and ask(flat):
            pass
        unique = as_key and not shared
        if unique:
            flat.sizes[frozenset(determinant), frozenset()] = flat.row_count
        return Outcome(frozenset(wrong), shared, unique, frozenset(settled))

    def _parts_of(self, determinant: Collection[str]) -> Iterator[tuple[Flat, int]]:
        """Yield ever larger parts of the rows, each with in how many parts its groups are looked at."""
        flat = self._tested
        many = len(determinant) > _FEW or self._groups(determinant) >= _MANY_GROUPS
        if flat.slices == 1 or not many:
            return
        yield self._part(determinant)
        if self._groups(determinant) >= _NEARLY_UNIQUE:
            parts = flat.slices // _TIMES
            while parts > 1:
                yield flat, parts
                parts //= _TIMES

    def _part(self, determinant: Collection[str]) -> tuple[Flat, int]:
        """Return the rows among which one in so many groups of a determinant is looked at, and in how many.

        Where that can be, these rows are kept apart, once for each column.
        """
        flat = self._tested
        if not determinant:
            return flat, 1
        column = flat.finest(determinant)
        if column not in self._parts:
            self._parts[column] = flat.part(column)
        kept = self._parts[column]
        return (flat, flat.slices) if kept is None else (kept, 1)

    def _settled_below(
        self, determinant: Collection[str], dependents: Sequence[str]
    ) -> Iterator[tuple[Dependency, Relation]]:
        """Yield rules of a part of a determinant that few rows break, with all rows that break them.

        They decide all rules with more columns on the left. The rows here say which may be so.
        """
        chosen: dict[str, Dependency] = {}
        unknown: dict[frozenset[str], list[str]] = {}
        for name in dependents:
            rules = [Dependency(frozenset(part), name) for part in combinations(sorted(determinant), _FEW)]
            known = next((rule for rule in rules if self._below.get(rule) is not None), None)
            if known is None:
                likely = [rule for rule in rules if rule not in self._below]
                known = min(likely, key=self._rows_breaking, default=None)
                if known is None or self._rows_breaking(known) * self._scale > SETTLING:
                    continue
                unknown.setdefault(known.determinant, []).append(name)
            chosen[name] = known
        for part, names in unknown.items():
            self._below.update(self._all_breaking(part, names))
        for known in chosen.values():
            breaking = self._below[known]
            if breaking is not None:
                yield known, breaking

    def _all_breaking(
        self, determinant: frozenset[str], dependents: Sequence[str]
    ) -> dict[Dependency, Relation | None]:
        """Fetch all rows of the groups that break some rules, where they are few; None where they are not.

        A part of the groups tells of many before all rows are asked.
        """
        flat, many = self._tested, set[str]()
        if flat.slices > 1:
            some, parts = self._part(determinant)
            found = some.breaking(determinant, dependents, parts)
            wrong = {name: [one for one in found if name in one.ends] for name in dependents}
            many = {name for name, groups in wrong.items() if flat.many(groups, flat.slices)}
        told: dict[Dependency, Relation | None] = {Dependency(determinant, name): None for name in many}
        left = [name for name in dependents if name not in many]
        return told | self._few_breaking(determinant, left) if left else told

    def _few_breaking(
        self, determinant: frozenset[str], dependents: Sequence[str]
    ) -> dict[Dependency, Relation | None]:
        found = self._tested.breaking(determinant, dependents)
        if not self._tested.all_told(found):
            if len(dependents) == 1:
                return {Dependency(determinant, dependents[0]): None}
            apart = [self._few_breaking(determinant, [name]) for name in dependents]
            return {rule: rows for one in apart for rule, rows in one.items()}
        rows: list[Row] = []
        for some in self._tested.rows_of(determinant, found) if found else ():
            self._sample.add(some)
            rows += some
        breaking = self._searched(self._sample.relation_of(rows))
        return {Dependency(determinant, name): breaking for name in dependents}

    @property
    def _scale(self) -> float:
        """How many rows there are for each that was drawn."""
        return self._tested.row_count / max(1, self._relation.row_count)

    def _rows_breaking(self, rule: Dependency) -> int:
        """Return how many rows here are in groups that break a rule."""
        if rule not in self._estimates:
            groups = groups_by(self._relation, rule.determinant)
            codes = self._relation.column(rule.dependent).codes
            differs = codes != codes[first_positions(groups)][groups]
            wrong = np.zeros(int(groups.max(initial=-1)) + 1, dtype=np.bool_)
            wrong[groups[differs]] = True
            self._estimates[rule] = int(wrong[groups].sum())
        return self._estimates[rule]

    def _groups(self, determinant: Collection[str]) -> float:
        """Return how many groups the rows of the sample make, for each row: near 1 few of all rows agree."""
        return groupings_of(self._relation).size(determinant) / max(1, self._relation.row_count)

    def _narrowed(self, determinant: Collection[str], dependents: Sequence[str]) -> frozenset[str]:
        """Return a part of a determinant of which few rows of the sample break the rules; empty for none.

        It makes few groups, so that to look at these first costs little.
        """
        if len(determinant) <= _FEW or not dependents:
            return frozenset()
        most = _SMALL_PART * self._relation.row_count
        parts = sorted(map(frozenset, combinations(sorted(determinant), _FEW)), key=self._groups)
        few = (part for part in parts if self._groups(part) < _NEARLY_UNIQUE)
        return next(
            (
                part
                for part in few
                if all(self._rows_breaking(Dependency(part, name)) <= most for name in dependents)
            ),
            frozenset(),
        )

    def witnesses(self) -> Relation:
        """As said there. Raises InputError for none: then cells are told apart that look alike."""
        if len(self._sample) == self._start:
            raise InputError(
                f"{self._tested.place.name} tells cells apart that are read as the same text",
                "Name the columns of interest in a query, each as a text: --query",
            )
        return self._searched(self._sample.relation(self._start))
