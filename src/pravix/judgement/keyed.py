"""Tables by their keys: the things that two of them have in common, and what stands there of these."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property, lru_cache
from itertools import count, islice, product
from operator import eq
from typing import overload

import numpy as np
from numpy.typing import NDArray

from pravix.judgement.kinds import uses
from pravix.judgement.linking import GENERIC_WORDS, singular
from pravix.judgement.use import Use
from pravix.relation.relation import Column, Positions, Relation
from pravix.relation.texts import Span, chosen
from pravix.relation.types import Kind, column_type
from pravix.relation.words import noun, words
from pravix.sources.coding import Numbering

_CHUNK = 4

Cell = str | None
"""A cell of a table that is put together from several: None where no source knows it."""

Both = tuple[Positions, Positions]
"""The places of some things in two tables."""


class _Cells(Sequence[Cell]):
    """The cells of a column, made when they are asked for."""

    def __init__(self, column: Column) -> None:
        self._column = column

    def __len__(self) -> int:
        return len(self._column.codes)

    @overload
    def __getitem__(self, place: int) -> Cell: ...
    @overload
    def __getitem__(self, place: Span) -> list[Cell]: ...
    def __getitem__(self, place: int | Span) -> Cell | list[Cell]:
        if isinstance(place, slice):
            return self.at(np.arange(len(self))[place])
        return self._column.text(place)

    def __iter__(self) -> Iterator[Cell]:
        return iter(self._column.texts())

    def at(self, places: Positions) -> list[Cell]:
        """Return the cells at some places."""
        return [*chosen(self._column.values, self._column.codes[places].tolist())]


@dataclass(frozen=True, eq=False)
class Keyed:
    """A table called ``name``: its cells by column, the keys of its rows, and their row numbers.

    ``numbering`` numbers the values of its key and those of others.
    """

    name: str
    cells: Mapping[str, Sequence[Cell]]
    keys: tuple[tuple[str, ...], ...]
    row_numbers: NDArray[np.int64] | range
    rows: Relation | None = None
    numbering: Numbering | None = None

    @classmethod
    def of(
        cls, name: str, rows: Relation, keys: Sequence[tuple[str, ...]], numbering: Numbering | None = None
    ) -> Keyed:
        """Return the rows of a relation as such a table."""
        cells = {column.name: _Cells(column) for column in rows.columns}
        return cls(name, cells, tuple(keys), rows.row_numbers, rows, numbering)

    @cached_property
    def columns(self) -> Mapping[str, Column]:
        """The columns as coded ones, what is unknown taken for a blank."""
        if self.rows is not None:
            return {column.name: column for column in self.rows.columns}
        return {
            name: Column.from_texts(name, (cell or "" for cell in cells))
            for name, cells in self.cells.items()
        }

    @cached_property
    def uses(self) -> dict[str, Use]:
        """What kind of thing each column holds."""
        return uses(list(self.columns.values()))

    @cached_property
    def kinds(self) -> dict[str, Kind]:
        """The kind of each column's cells."""
        return {name: column_type(column).meant for name, column in self.columns.items()}

    @cached_property
    def numbered(self) -> bool:
        """Whether the values of all columns are numbered."""
        return (
            self.rows is not None and self.numbering is not None and self.numbering.covers(self.rows.columns)
        )

    def cells_at(self, name: str, places: Positions) -> list[Cell]:
        """Return the cells of a column in some rows, by their places."""
        cells = self.cells[name]
        if isinstance(cells, _Cells):
            return cells.at(places)
        return [cells[place] for place in places.tolist()]

    def places(self, key: Sequence[str]) -> Mapping[tuple[Cell, ...], int]:
        """Return the place of each row by its key."""
        told = tuple(key)
        if told not in self._places:
            values = zip(*(self.cells[name] for name in key), strict=True)
            self._places[told] = dict(zip(values, count(), strict=False))
        return self._places[told]

    @cached_property
    def _places(self) -> dict[tuple[str, ...], Mapping[tuple[Cell, ...], int]]:
        return {}

    def numbers(self, name: str, numbering: Numbering) -> NDArray[np.int32]:
        """Return the number of each cell of a column; -1 for a blank."""
        known = self._numbers.get(name)
        if known is None or known[0] is not numbering:
            known = self._numbers[name] = numbering, numbering.by_row(self.columns[name])
        return known[1]

    def numbers_in_order(self, name: str, numbering: Numbering) -> tuple[Positions, NDArray[np.int32]]:
        """Return the places of the rows in the order of these numbers, and the numbers in it."""
        known = self._in_order.get(name)
        if known is None or known[0] is not numbering:
            numbers = self.numbers(name, numbering)
            order = np.argsort(numbers, kind="stable")
            known = self._in_order[name] = numbering, (order, numbers[order])
        return known[1]

    @cached_property
    def _numbers(self) -> dict[str, tuple[Numbering, NDArray[np.int32]]]:
        return {}

    @cached_property
    def _in_order(self) -> dict[str, tuple[Numbering, tuple[Positions, NDArray[np.int32]]]]:
        return {}

    def nouns(self, key: Sequence[str]) -> set[str]:
        """Return the nouns for its things: of the table's name, and of the columns of a key."""
        told = tuple(key)
        if told not in self._nouns:
            of_key = {word for name in key for word in singular(noun(name))}
            self._nouns[told] = telling({*singular(words(self.name)), *of_key}) - GENERIC_WORDS
        return self._nouns[told]

    @cached_property
    def _nouns(self) -> dict[tuple[str, ...], set[str]]:
        return {}


def telling(found: Collection[str]) -> set[str]:
    """Return the words that tell something: no single letters, no numbers."""
    return {word for word in found if len(word) > 1 and not word.isdigit()}


def agreeing_at(
    one: Keyed, mine: Sequence[str], other: Keyed, theirs: Sequence[str], places: Both
) -> NDArray[np.int64]:
    """Return at how many of some pairs of places each of some columns has the same cell as each of others.

    By numbers at once, if possible.
    """
    found = np.zeros((len(mine), len(theirs)), dtype=np.int64)
    numbering = one.numbering
    numbered = numbering is not None and numbering is other.numbering and one.numbered and other.numbered
    if numbering is not None and numbered:
        here = np.array([one.numbers(name, numbering)[places[0]] for name in mine])
        there = np.array([other.numbers(name, numbering)[places[1]] for name in theirs])
        if mine and theirs:
            found = np.count_nonzero(here[:, np.newaxis] == there, axis=2)
    for (row, name), (column, called) in product(enumerate(mine), enumerate(theirs)):
        kinds = one.kinds[name], other.kinds[called]
        if not numbered or (Kind.DECIMAL in kinds and all(kind.numeric for kind in kinds)):
            found[row, column] = sum(map(eq, *cells_side_by_side(one, name, other, called, places)))
    return found


def in_common(one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str]) -> int:
    """Return how many things two tables have in common, by their keys."""
    return len(in_both(one, here, other, there)[0])


def in_both(
    one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str], most: int | None = None
) -> Both:
    """Return the places of the first things that two tables have in common, by their keys.

    n log n in the rows, the less the sooner there are as many as wanted.
    """
    if len(here) > 1 or one.rows is None or other.rows is None:
        known = other.places(there)
        found = ((place, known[value]) for value, place in one.places(here).items() if value in known)
        both = np.array(list(islice(found, most)), dtype=np.intp).reshape(-1, 2)
        return both[:, 0], both[:, 1]
    numbering = one.numbering
    if numbering is None or not numbering.covers((one.columns[here[0]], other.columns[there[0]])):
        numbering = Numbering((one.columns[here[0]], other.columns[there[0]]))
    numbers, (order, ordered) = one.numbers(here[0], numbering), other.numbers_in_order(there[0], numbering)
    mine, theirs, count = [order[:0]], [order[:0]], 0
    step = len(numbers) if most is None else _CHUNK * most
    for start in range(0, len(numbers) if len(ordered) else 0, max(step, 1)):
        some = numbers[start : start + step]
        found_at = np.minimum(np.searchsorted(ordered, some), len(ordered) - 1)
        (hits,) = np.nonzero((ordered[found_at] == some) & (some >= 0))
        mine.append(hits + start)
        theirs.append(order[found_at[hits]])
        count += len(hits)
        if most is not None and count >= most:
            break
    return np.concatenate(mine)[:most], np.concatenate(theirs)[:most]


def cells_side_by_side(
    one: Keyed, here: str, other: Keyed, there: str, places: Both
) -> tuple[Sequence[Cell], Sequence[Cell]]:
    """Return the cells of two columns at pairs of places; numbers, where both hold them, by their value."""
    cells, others = one.cells_at(here, places[0]), other.cells_at(there, places[1])
    if one.kinds[here].numeric and other.kinds[there].numeric:
        return list(map(_in_one_form, cells)), list(map(_in_one_form, others))
    return cells, others


@lru_cache(maxsize=100_000)
def _in_one_form(number: Cell) -> Cell:
    """Return a number in the form that equal ones share: 18.0 as 18."""
    return f"{Decimal(number).normalize():f}" if number else number
