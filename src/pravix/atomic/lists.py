"""Cells that hold a list, and the separator between its items.

A list is told from a compound value by its items: they are words of one vocabulary and turn up in any
place of the list. In ``Holm, Dario`` family names stand first and given names second, in every cell.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pravix.atomic.finding import Finding, Topic
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.wording import counted, shortened

SEPARATORS = (";", "|", "/", ",", "\n", "+", "&")
_MOST_VALUES = 20_000
_LONGEST_ITEM = 60
_FEWEST_CELLS = 3
_SHARED_FROM = 0.5


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
        return tuple(item for part in cell.split(self.mark) if (item := part.strip()))


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
        topic=Topic.LIST,
        columns=(column.name,),
        told=told,
        sure=found.sure,
        rows=tuple(relation.row_numbers[rows[:5] if len(rows) else several[:5]].tolist()),
        question=f"Give each item of {column.name} a row of its own, in a table beside?",
        answers=("keep",) if len(rows) else ("split", "keep"),
        preview=(("position", column.name), *preview),
    )
