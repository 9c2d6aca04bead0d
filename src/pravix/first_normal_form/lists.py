"""Cells that hold a list, and the separator between its items.

A list is told from a compound value by its items: they are words of one vocabulary and turn up in any
place of the list. In ``Holm, Dario`` family names stand first and given names second, in every cell.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
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
_MOST_VALUES = 20_000
_LONGEST_ITEM = 60
_FEWEST_CELLS = 3
_SHARED_FROM = 0.5


LIST = Topic("list", "Lists in a cell", "lists")


@dataclass(frozen=True)
class ListColumn:
    """A column of lists: the mark between items, the separator as it is mostly typed, and how sure."""

    column: str
    mark: str
    separator: str
    sure: float

    def evened(self, cell: str) -> str:
        """Return a cell with the usual separator between its items."""
        return self.separator.join(self.items(cell))

    def items(self, cell: str) -> tuple[str, ...]:
        """Return the items of a cell, without outer spaces and without empty ones."""
        return items(cell, self.mark)


def items(cell: str, mark: str) -> tuple[str, ...]:
    """Return the items between the marks of a cell, without outer spaces and without empty ones."""
    return tuple(item for part in cell.split(mark) if (item := part.strip()))


class RebuiltList(FromChild, frozen=True, kw_only=True, tag="list"):
    """A column that is put together from the items in a child table."""

    separator: str
    mark: Name

    def parts(self, cell: str) -> Iterator[tuple[int, str]]:
        """As said there."""
        yield from enumerate(items(cell, self.mark), 1)

    def query(self, fact: str, position: str, source: str, where: str, database: Expressions) -> str:
        """As said there."""
        return database.list_of(fact, position, self.separator, source, where)

    def replay(self, values: dict[str, str]) -> None:
        """As said there."""
        values[self.bundle] = BETWEEN_PARTS.join(items(values[self.column], self.mark))


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
        return self.of.separator.join(row[0] for _, row in sorted(parts))

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
            )
        ]


def list_column(column: Column) -> ListColumn | None:
    """Return how the cells of a column are lists, or None. Linear in the different values."""
    if column_type(column).kind not in (Kind.TEXT, Kind.CODE):
        return None
    values = column.present_values[:_MOST_VALUES]
    found = [candidate for mark in SEPARATORS if (candidate := _candidate(column.name, values, mark))]
    return max(found, key=lambda candidate: candidate.sure, default=None)


def _candidate(name: str, values: Sequence[str], mark: str) -> ListColumn | None:
    several = [value for value in values if mark in value]
    if len(several) < _FEWEST_CELLS:
        return None
    cells = [tuple(part.strip() for part in value.split(mark)) for value in values]
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
    return ListColumn(name, mark, _usual_separator(several, mark), min(1.0, 0.5 + shared / 2))


def _usual_separator(values: list[str], mark: str) -> str:
    """Return the mark with the spaces around it that occur most often."""
    around = re.compile(rf"\s*{re.escape(mark)}\s*")
    found: list[str] = [separator for value in values for separator in around.findall(value)]
    return Counter(found).most_common(1)[0][0]


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
