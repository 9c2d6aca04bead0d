"""A repair: what it does to the columns of a relation, and how everything comes back exactly.

A column of lists stays one column of the repaired relation, and a numbered family becomes one (its
*bundle*), so that the dependencies tell which table each belongs to. There the design gives them a
table of their own.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from pravix.first_normal_form.rebuilt import FromChild, Rebuilt
from pravix.relation.relation import Column, Relation

Parts = Sequence[tuple[int, tuple[str, ...]]]
"""The parts of a cell, each with its position and its values."""

BETWEEN_POSITIONS = "\x1f"
BETWEEN_FACTS = "\x1e"


def readable(cell: str) -> str:
    """Return a cell of a bundle as people read it; any other cell as it is."""
    return cell.replace(BETWEEN_POSITIONS, "; ").replace(BETWEEN_FACTS, ", ")


class Repair(ABC):
    """One repair; ``answer`` asks for it, ``namable`` says that the analyst may name what comes of it."""

    answer: ClassVar[str]
    namable: ClassVar[bool] = False

    @property
    @abstractmethod
    def leaving(self) -> tuple[str, ...]:
        """The columns that leave the relation."""

    @property
    @abstractmethod
    def arriving(self) -> tuple[str, ...]:
        """The names of the columns that come in their place."""

    def named(self, name: str) -> Self:
        """Return the repair with the name that the analyst wishes."""
        return self

    @abstractmethod
    def columns(self, relation: Relation) -> list[Column]:
        """Return the columns that come in the place of those that leave. Linear in the rows."""

    @abstractmethod
    def undo(self, texts: dict[str, list[str]]) -> None:
        """Put the cells of the columns that left back, and take away those that came."""


class InPlace(Repair):
    """A repair whose columns come back from others of the same row."""

    @property
    @abstractmethod
    def told(self) -> str:
        """What became of the columns, as a sentence."""

    @abstractmethod
    def rebuilt(self) -> Sequence[Rebuilt]:
        """Return how each of the columns that left comes back."""

    def undo(self, texts: dict[str, list[str]]) -> None:
        """As said there."""
        made = {}
        for one in self.rebuilt():
            rows = zip(*(texts[name] for name in one.needs), strict=True)
            known: dict[tuple[str, ...], str] = {}
            made[one.column] = [
                known[row] if row in known else known.setdefault(row, one.cell(row)) for row in rows
            ]
        for name in self.arriving:
            del texts[name]
        texts.update(made)


@dataclass(frozen=True)
class ChildPlace:
    """Where the parts of a bundle are: the child table, its column for the position, and the flat facts.

    A fact stands in the child, or in a table that it refers to.
    """

    table: str
    facts: tuple[str, ...]
    position: str


class Bundle(Repair):
    """A column of the repaired relation that holds several values, which get a table of their own.

    ``kind`` and ``how`` say what it was made from, ``each`` and ``parts_of`` what a row of that table is.
    ``keyed_by_item`` says that the items of a cell identify a row as well where none comes twice.
    """

    kind: ClassVar[str]
    how: ClassVar[str]
    each: ClassVar[str]
    parts_of: ClassVar[str]
    keyed_by_item: ClassVar[bool] = False

    @property
    def separator(self) -> str:
        """What stood between the parts in a cell; empty where they were columns."""
        return ""

    @property
    @abstractmethod
    def column(self) -> str:
        """The column of the repaired relation."""

    @property
    @abstractmethod
    def facts(self) -> tuple[str, ...]:
        """The columns that the child table gets for the values."""

    @property
    @abstractmethod
    def first_sources(self) -> tuple[str, ...]:
        """For each fact the first column of the file that holds it."""

    @property
    def sources(self) -> tuple[str, ...]:
        """The columns of the file that it comes from."""
        return self.leaving

    @abstractmethod
    def parts(self, cell: str) -> Parts:
        """Return the position and the values of each part of a cell; blank parts are left out."""

    @abstractmethod
    def cell(self, parts: Parts) -> str:
        """Return the cell that has these parts: the inverse of ``parts``."""

    @abstractmethod
    def from_child(self, child: ChildPlace) -> Sequence[FromChild]:
        """Return how each column comes back from the child table."""


@dataclass(frozen=True, eq=False)
class Repaired:
    """A relation after its repairs, and what undoes them. ``original`` is the relation before."""

    original: Relation
    relation: Relation
    repairs: tuple[Repair, ...] = ()

    @property
    def bundles(self) -> tuple[Bundle, ...]:
        """The columns that get a table of their own."""
        return tuple(one for one in self.repairs if isinstance(one, Bundle))

    @property
    def in_place(self) -> tuple[InPlace, ...]:
        """The repairs whose columns come back from others, each after those that it needs."""
        known = set(self.relation.names) | {name for one in self.bundles for name in one.sources}
        waiting, found = [one for one in self.repairs if isinstance(one, InPlace)], list[InPlace]()
        while waiting:
            ready = next(one for one in waiting if _needed(one) <= known)
            waiting.remove(ready)
            found.append(ready)
            known |= set(ready.leaving)
        return tuple(found)

    @property
    def opaque(self) -> frozenset[str]:
        """The columns that hold several values, and so determine nothing."""
        return frozenset(bundle.column for bundle in self.bundles)

    def on(self, relation: Relation) -> Relation:
        """Return other rows, with the original columns, after the same repairs."""
        columns = {column.name: column for column in relation.columns}
        for repair in self.repairs:
            columns = columns_after(columns, repair, repair.columns(relation))
        return Relation(tuple(columns.values()), relation.row_numbers)

    def rebuilt(self) -> Relation:
        """Return the original columns, worked out from the repaired relation alone."""
        texts = {column.name: column.texts() for column in self.relation.columns}
        for repair in (*self.bundles, *self.in_place):
            repair.undo(texts)
        columns = tuple(Column.from_texts(name, texts[name]) for name in self.original.names)
        return Relation(columns, self.relation.row_numbers)

    def differing_rows(self) -> tuple[int, ...]:
        """Return the numbers of the rows that do not come back exactly."""
        if not self.repairs:
            return ()
        differs = np.zeros(self.original.row_count, dtype=np.bool_)
        for old, new in zip(self.original.columns, self.rebuilt().columns, strict=True):
            same = [one == other for one, other in zip(old.texts(), new.texts(), strict=True)]
            differs |= ~np.array(same, dtype=np.bool_)
        return tuple(self.original.row_numbers[differs].tolist())


def _needed(repair: InPlace) -> set[str]:
    return {name for one in repair.rebuilt() for name in one.needs}


def columns_after(columns: Mapping[str, Column], repair: Repair, made: Sequence[Column]) -> dict[str, Column]:
    """Return columns with those ``made`` in the place of the first of those that leave."""
    found: dict[str, Column] = {}
    for name, column in columns.items():
        if name == repair.leaving[0]:
            found |= {new.name: new for new in made}
        if name not in repair.leaving:
            found[name] = column
    return found
