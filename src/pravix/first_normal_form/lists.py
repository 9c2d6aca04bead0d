"""Cells that hold a list, and the separator between its items.

A list is told from a compound value by its items: they are words of one vocabulary and turn up in any
place of the list. In ``Holm, Dario`` family names stand first and given names second, in every cell.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import BETWEEN_PARTS, Expressions, FromChild, Name
from pravix.first_normal_form.repair import Bundle, ChildPlace, Parts
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.wording import counted, shortened

SEPARATORS = (";", "|", "/", ",", "\n", "+", "&")
_LASTS = (" and ", " & ", " und ", " et ", " y ", " e ", " og ", " och ", " en ")
_TURNED = re.compile(r"([^,]+),\s*([^,]+)")
_MOST_VALUES = 20_000
_LONGEST_ITEM = 60
_FEWEST_CELLS = 3
_SHARED_FROM = 0.5


LIST = Topic("list", "Lists in a cell", "lists")


@dataclass(frozen=True)
class ListColumn:
    """A column of lists: the mark between items, the separator as it is mostly typed, and how sure.

    ``last`` stands before the last item instead of the separator, as in ``A, B and C``; else it is empty.
    """

    column: str
    mark: str
    separator: str
    sure: float
    last: str = ""

    def evened(self, cell: str) -> str:
        """Return a cell with the usual separator between its items."""
        return put_together(self.items(cell), self.separator, self.last)

    def items(self, cell: str) -> tuple[str, ...]:
        """Return the items of a cell, without outer spaces and without empty ones."""
        return items(cell, self.mark, self.last)


def items(cell: str, mark: str, last: str = "") -> tuple[str, ...]:
    """Return the items between the marks of a cell, without outer spaces and without empty ones."""
    parts = cell.split(mark)
    if last:
        parts = [*parts[:-1], *parts[-1].rsplit(last, 1)]
    return tuple(item for part in parts if (item := part.strip()))


def put_together(found: Sequence[str], separator: str, last: str) -> str:
    """Return items as one cell."""
    if not last or len(found) < 2:
        return separator.join(found)
    return f"{separator.join(found[:-1])}{last}{found[-1]}"


class RebuiltList(FromChild, frozen=True, kw_only=True, tag="list"):
    """A column that is put together from the items in a child table."""

    separator: str
    mark: Name
    last: str = ""

    def parts(self, cell: str) -> Iterator[tuple[int, str]]:
        """As said there."""
        yield from enumerate(items(cell, self.mark, self.last), 1)

    def query(self, fact: str, position: str, source: str, where: str, database: Expressions) -> str:
        """As said there."""
        if not self.last:
            return database.list_of(fact, position, self.separator, source, where)
        return database.list_with_last(fact, position, self.separator, self.last, source, where)

    def replay(self, values: dict[str, str]) -> None:
        """As said there."""
        values[self.bundle] = BETWEEN_PARTS.join(items(values[self.column], self.mark, self.last))


@dataclass(frozen=True)
class SplitList(Bundle):
    """Lists whose items get a table of their own; ``fact`` is the column for them."""

    kind: ClassVar[str] = "list"
    how: ClassVar[str] = "a list in a cell"
    each: ClassVar[str] = "an item"
    parts_of: ClassVar[str] = "items of the list"
    answer: ClassVar[str] = "split"
    keyed_by_item: ClassVar[bool] = True

    of: ListColumn
    fact: str

    @property
    def separator(self) -> str:
        """As said there."""
        return self.of.separator

    @property
    def column(self) -> str:
        """As said there: it keeps its name, and is still the column of the file."""
        return self.of.column

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.of.column,)

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.of.column,)

    @property
    def facts(self) -> tuple[str, ...]:
        """As said there."""
        return (self.fact,)

    @property
    def first_sources(self) -> tuple[str, ...]:
        """As said there."""
        return (self.of.column,)

    def named(self, name: str) -> SplitList:
        """As said there."""
        return replace(self, fact=name)

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        return [relation.column(self.of.column)]

    def undo(self, texts: dict[str, list[str]]) -> None:
        """As said there: nothing was changed."""

    def parts(self, cell: str) -> Parts:
        """As said there."""
        return [(place, (item,)) for place, item in enumerate(self.of.items(cell), 1)]

    def cell(self, parts: Parts) -> str:
        """As said there."""
        return put_together([row[0] for _, row in sorted(parts)], self.of.separator, self.of.last)

    def from_child(self, child: ChildPlace) -> Sequence[RebuiltList]:
        """As said there."""
        return [
            RebuiltList(
                column=self.of.column,
                bundle=self.of.column,
                table=child.table,
                fact=child.facts[0],
                position=child.position,
                separator=self.of.separator,
                mark=self.of.mark,
                last=self.of.last,
            )
        ]


def declared_list(column: Column, mark: str) -> ListColumn:
    """Return how the cells of a column are lists with a mark between items, as the analyst says."""
    usual = [value for value in column.present_values if mark in value]
    return ListColumn(column.name, mark, _usual_separator(usual, mark) if usual else mark, 1.0)


def list_column(column: Column) -> ListColumn | None:
    """Return how the cells of a column are lists, or None. Linear in the different values."""
    if column_type(column).meant not in (Kind.TEXT, Kind.CODE):
        return None
    values = column.present_values[:_MOST_VALUES]
    tried = [(mark, last) for mark in SEPARATORS for last in ("", *_lasts(values, mark))]
    found = [one for mark, last in tried if (one := _candidate(column.name, values, mark, last))]
    return max(found, key=lambda candidate: (candidate.sure, bool(candidate.last)), default=None)


def _lasts(values: Sequence[str], mark: str) -> list[str]:
    """Return the commonest word before the last of several names, as in A, B and C; nothing without one."""
    if mark not in (",", ";"):
        return []
    counts = {word: sum(word in value for value in values) for word in _LASTS}
    best = max(counts, key=lambda word: counts[word])
    return [best] if counts[best] >= _FEWEST_CELLS else []


def _candidate(name: str, values: Sequence[str], mark: str, last: str = "") -> ListColumn | None:
    several = [value for value in values if mark in value or (last and last in value)]
    if len(several) < _FEWEST_CELLS:
        return None
    cells = [items(value, mark, last) if last else _parts(value, mark) for value in values]
    lists = [cell for cell in cells if len(cell) > 1]
    if any(not item or len(item) > _LONGEST_ITEM for cell in lists for item in cell):
        lists = [tuple(filter(None, cell)) for cell in lists if max(map(len, cell)) <= _LONGEST_ITEM]
        if len(lists) < 0.9 * len(several):
            return None
    places: dict[str, set[int]] = {}
    for cell in cells:
        for place, item in enumerate(cell):
            places.setdefault(item, set()).add(place if len(cell) > 1 else -1)
    weights = Counter(item for cell in lists for item in cell)
    moving = sum(times for item, times in weights.items() if len(places[item]) > 1)
    shared = moving / sum(weights.values())
    repeated = len(weights) <= 0.7 * sum(weights.values())
    if shared < _SHARED_FROM or not repeated or all(item.isdecimal() for item in weights):
        return None
    usual = [value for value in several if mark in value]
    separator = _usual_separator(usual, mark) if usual else f"{mark} "
    return ListColumn(name, mark, separator, min(1.0, 0.5 + shared / 2), last)


def _parts(value: str, mark: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in value.split(mark))


def _usual_separator(values: list[str], mark: str) -> str:
    """Return the mark with the spaces around it that occur most often."""
    around = re.compile(rf"\s*{re.escape(mark)}\s*")
    found: list[str] = [separator for value in values for separator in around.findall(value)]
    return Counter(found).most_common(1)[0][0]


def _turned_round(vocabulary: Collection[str]) -> str:
    """Return how many items are another with its two names turned round, with an example."""
    pairs = [
        (item, plain)
        for item in sorted(vocabulary)
        if (match := _TURNED.fullmatch(item)) and (plain := f"{match[2]} {match[1]}") in vocabulary
    ]
    if not pairs:
        return ""
    count = counted(len(pairs), "item")
    are = "is" if len(pairs) == 1 else "are"
    return f"{count} {are} another turned round, as {pairs[0][0]} for {pairs[0][1]}"


def find_lists(relation: Relation) -> list[Finding]:
    """Return a finding for each column of lists."""
    return [
        _finding(relation, column, found)
        for column in relation.columns
        if (found := list_column(column)) is not None
    ]


def _finding(relation: Relation, column: Column, found: ListColumn) -> Finding:
    sizes = np.array([len(found.items(value)) for value in column.values])
    several = np.flatnonzero(sizes[column.codes] > 1)
    longest = int(np.argmax(sizes))
    vocabulary = {item for value in column.present_values for item in found.items(value)}
    told = (
        f"{column.name} holds several values in {counted(len(several), 'row')}, up to {sizes[longest]}, "
        f"as in {shortened(column.values[longest], 50)}; {counted(len(vocabulary), 'different item')} in all"
    )
    turned = _turned_round(vocabulary)
    if turned:
        told += f"; {turned}"
    uneven = np.array([bool(value) and found.evened(value) != value for value in column.values])
    rows = np.flatnonzero(uneven[column.codes])
    if len(rows):
        told += f"; {counted(len(rows), 'cell')} with other separators would have to be corrected first"
    preview = [(str(place), item) for place, item in enumerate(found.items(column.values[longest]), 1)]
    return Finding(
        topic=LIST,
        columns=(column.name,),
        told=told,
        sure=found.sure,
        rows=tuple(relation.row_numbers[rows[:5] if len(rows) else several[:5]].tolist()),
        question=f"Give each item of {column.name} a row of its own, in a table beside?",
        answers=("keep",) if len(rows) else ("split", "keep"),
        preview=(("position", column.name), *preview),
        repair=None if len(rows) else SplitList(found, column.name),
    )
