"""Repaired rows of a source whose rows stay elsewhere: what a repaired column is compared by there.

Columns that are repaired in their place are functions of the cells that leave. Where these have few different
values, each is replayed here as on a new row, and told there by a CASE; a list stays the cell that it is, a
family the cells that it was.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import cache
from typing import Any

from pravix.discovery.asking import Asked
from pravix.discovery.discovered import Discovery
from pravix.discovery.refuting import Refuting
from pravix.engines.flat import Flat
from pravix.engines.place import MOST_ROWS
from pravix.engines.staying import Staying
from pravix.errors import InputError
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.rebuilt import FromChild, Rebuilt
from pravix.first_normal_form.repair import InPlace, Repair, Repaired
from pravix.progress import Progress
from pravix.relation.grouping import groupings_of
from pravix.relation.relation import Relation
from pravix.theory.rule_index import RuleIndex
from pravix.wording import joined, shortened

MOST_VALUES = 2_000
"""A repair is replayed for at most so many different values of the columns that leave."""


class SearchedElsewhere:
    """The repaired rows of a source whose rows stay where they are.

    ``relation`` are those drawn, which stand for all, ``repaired`` the same with their repairs; ``flat`` are
    all, with the repaired columns. Combinations with ``nearly_unique`` times as many different values as rows
    are weighed by nobody. ``searched`` are the rows of the last search, those that break rules among them.
    """

    def __init__(self, source: Staying, repaired: Repaired, nearly_unique: float) -> None:
        self.source = source
        self._nearly_unique = nearly_unique
        self.flat = repaired_elsewhere(source.flat, repaired)
        self.relation = source.standing(repaired.relation, self.flat)
        original = source.standing(repaired.original, source.flat)
        self.repaired = replace(repaired, original=original, relation=self.relation)
        self.searched = self.relation
        self._sample = source.sample.copied()

    def completed(
        self, search: Callable[[Relation], Discovery], keys_only: bool, weighed_only: bool, progress: Progress
    ) -> Discovery:
        """Return the rules of all rows, found by searching some and asking all; see ``Refuting``.

        With ``weighed_only`` rules of several columns that identify nearly every row are left as the rows
        drawn say them: no judgement weighs them.
        """
        asked = Asked(self._sample, self.flat, self.repaired.on, settling=not weighed_only)
        groupings = groupings_of(self.relation)
        least = self._nearly_unique * self.flat.row_count

        @cache
        def idle(columns: frozenset[str]) -> bool:
            return weighed_only and groupings.told_here(columns, least, self.flat.row_count) is True

        refuting = Refuting(asked, self.relation.names, self.flat.rules, progress, idle)
        found = refuting.completed(lambda: search(asked.begun()), keys_only)
        self.searched = asked.begun()
        return found


def repaired_elsewhere(flat: Flat, repaired: Repaired) -> Flat:
    """Return a flat table with the columns of repaired rows. Raises InputError as ``replayed`` does."""
    if not repaired.repairs:
        return flat
    told = {**flat.told, **replayed(flat, [one for repair in repaired.in_place for one in repair.rebuilt()])}
    for bundle in repaired.bundles:
        told[bundle.column] = tuple(one for name in bundle.leaving for one in flat.told[name])
    told = {name: told[name] for name in repaired.relation.names}
    return replace(flat, told=told, sizes={}, full=set(), rules=RuleIndex(()))


def replayed(flat: Flat, entries: Iterable[Rebuilt]) -> dict[str, tuple[Any, ...]]:
    """Return the columns that repairs in place gave, each by what it is compared by where the rows are.

    ``entries`` say how the columns of the file come back. Raises InputError where they have too many values.
    """
    found: dict[str, tuple[Any, ...]] = {}
    for together in _together([one for one in entries if not isinstance(one, FromChild)], flat.names):
        found |= _mapped(flat, together)
    return found


def held_against_all(finding: Finding, source: Staying) -> Finding:
    """Return a finding that tells how many of all rows its repair would not give back, or that it was only
    looked for in those that were drawn.
    """
    if finding.repair is None and source.relation.row_count == source.flat.row_count:
        return finding
    every = f"all {source.flat.row_count:,} rows"
    against = None if finding.repair is None else _not_given_back(source, finding.repair)
    if against is None:
        told = f"{finding.told}, as far as the rows go that were drawn of {every}"
    else:
        undone = f"would not give back {against:,} of" if against else "gives back"
        told = f"{finding.told}; its repair {undone} {every}"
    return replace(finding, told=told)


def _not_given_back(source: Staying, repair: Repair) -> int | None:
    """Return how many of all rows a repair would not give back; None where too many are different.

    Each combination of the cells that it is about is repaired here, and put back.
    """
    flat, names = source.flat, list(repair.leaving)
    if isinstance(repair, InPlace):
        needs = [name for one in repair.rebuilt() for name in one.needs if name not in repair.arriving]
        names = list(dict.fromkeys([*names, *needs]))
    if not set(names) <= set(flat.told) or flat.size(names) > MOST_ROWS:
        return None
    found = list(flat.values(names))
    cells = source.sample.cleaned(Relation.from_rows(names, [one.texts for one in found]))
    made = {name: cells.column(name).texts() for name in names if name not in repair.leaving}
    made |= {column.name: column.texts() for column in repair.columns(cells)}
    repair.undo(made)
    given = zip(*(made[name] for name in names), strict=True)
    return sum(
        one.rows for row, back, one in zip(cells.rows(), given, found, strict=True) if row != tuple(back)
    )


def gives(entry: Rebuilt, names: Sequence[str]) -> set[str]:
    """Return the columns that replaying an entry gives; none for a column that is only computed."""
    values = dict.fromkeys(names, "")
    entry.replay(values)
    return values.keys() - set(names)


def _together(entries: Sequence[Rebuilt], names: Sequence[str]) -> list[list[Rebuilt]]:
    """Return the entries that give something, those that give the same together."""
    groups: list[tuple[set[str], list[Rebuilt]]] = []
    for entry in entries:
        given = gives(entry, names)
        if given:
            alike = [group for group in groups if group[0] & given]
            groups = [group for group in groups if group not in alike]
            columns = given.union(*(group[0] for group in alike))
            groups.append((columns, [*(one for group in alike for one in group[1]), entry]))
    return [together for _, together in groups]


def _mapped(flat: Flat, entries: Sequence[Rebuilt]) -> dict[str, tuple[Any, ...]]:
    """Return each column that some entries give, value by value of those that they are about."""
    from sqlalchemy import and_, case

    leaving = [entry.column for entry in entries]
    found = list(flat.values(leaving, MOST_VALUES + 1))
    if len(found) > MOST_VALUES:
        raise InputError(
            f"{joined(list(map(shortened, leaving)))} has more than {MOST_VALUES:,} different values, too "
            "many to be repaired where the rows are",
            "Keep it as it is (pravix repair --keep), or repair it in the database, in a view.",
        )
    cells = [one for name in leaving for one in flat.told[name]]
    cases: dict[str, list[tuple[Any, str]]] = {}
    for one in found:
        values = dict(zip(leaving, one.texts, strict=True))
        for entry in entries:
            entry.replay(values)
        same = and_(*(cell == value for cell, value in zip(cells, one.compared, strict=True)))
        for name in values.keys() - set(leaving):
            cases.setdefault(name, []).append((same, values[name]))
    return {name: (case(*pairs, else_=""),) for name, pairs in cases.items()}
