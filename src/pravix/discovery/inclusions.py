"""Which columns of one table hold only values that are a key of another: inclusion dependencies.

Source: M. A. Casanova, R. Fagin and C. H. Papadimitriou, "Inclusion dependencies and their interaction with
functional dependencies", JCSS 28(1), 1984. All columns are compared with a key at once: every different
value of any column has a number, and the numbers that the key has are counted in each column.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from pravix.relation.grouping import blank_in
from pravix.relation.relation import Column, Relation
from pravix.sources.coding import Numbering
from pravix.wording import joined, shortened

_MOST_PARTS = 8
_ORPHANS_NAMED = 5

Values = frozenset[str] | frozenset[tuple[str, ...]]
"""The different values: texts of one column, tuples of several."""


class Columns(NamedTuple):
    """Some columns of a table, in an order that counts."""

    table: str
    names: tuple[str, ...]

    def __str__(self) -> str:
        return f"{self.table}.{', '.join(self.names)}"


@dataclass(frozen=True)
class Orphan:
    """A value that refers to nothing, with the first rows that hold it, by number."""

    value: tuple[str, ...]
    rows: tuple[int, ...]

    def __str__(self) -> str:
        value = ", ".join(shortened(cell) for cell in self.value)
        return f"{value} ({'row' if len(self.rows) == 1 else 'rows'} {', '.join(map(str, self.rows))})"


class Inclusion(NamedTuple):
    """Of the ``values`` different values here, ``found`` are among the ``keys`` different ones there.

    ``orphans`` are those which are not, where they were looked up.
    """

    here: Columns
    there: Columns
    values: int
    found: int
    keys: int
    orphans: tuple[Orphan, ...] = ()

    @property
    def exact(self) -> bool:
        """Whether every value is found."""
        return self.found == self.values

    def orphans_told(self, most: int) -> str:
        """Return the first orphans with their rows, and how many more there are."""
        more = len(self.orphans) - most
        return joined([*map(str, self.orphans[:most]), *([f"{more} more"] if more > 0 else [])])

    @property
    def share(self) -> float:
        """The share of values that are found."""
        return self.found / self.values


class Tables:
    """Several relations by name, with the values of their columns worked out once.

    ``numbering`` spares numbering them where it is known for all of them.
    """

    def __init__(self, relations: Mapping[str, Relation], numbering: Numbering | None = None) -> None:
        self.relations = relations
        self._known = numbering
        self._values: dict[Columns, Values] = {}

    @cached_property
    def columns(self) -> list[Columns]:
        """Every single column of every table."""
        return [Columns(table, (name,)) for table, one in self.relations.items() for name in one.names]

    @cached_property
    def _numbering(self) -> Numbering:
        """The numbers of the different values of all columns."""
        columns = [self._column(one) for one in self.columns]
        known = self._known
        return known if known is not None and known.covers(columns) else Numbering(columns)

    def _column(self, single: Columns) -> Column:
        return self.relations[single.table].column(single.names[0])

    def count(self, column: Columns) -> int:
        """Return how many different values a single column has."""
        return len(self._numbering.of(self._column(column)))

    def found_in(self, there: Columns, least: float) -> Iterator[tuple[Columns, int, int]]:
        """Yield the columns of whose values at least the share ``least`` is among those of one column.

        Each comes with how many different values it has, and how many of these are found.
        """
        common, sizes = self._common(self._column(there)), self._sizes
        found = np.flatnonzero((sizes > 0) & (common >= least * sizes))
        columns = (self.columns[place] for place in found.tolist())
        return zip(columns, sizes[found].tolist(), common[found].tolist(), strict=True)

    @cached_property
    def _common(self) -> Callable[[Column], NDArray[np.int64]]:
        """What counts how many values a column has in common with each."""
        return self._numbering.counted([self._column(one) for one in self.columns])

    @cached_property
    def _sizes(self) -> NDArray[np.int64]:
        """How many different values each column has."""
        return np.array([self.count(one) for one in self.columns], dtype=np.int64)

    def values(self, columns: Columns) -> Values:
        """Return the different values of some columns; rows with a blank in one of them are left out."""
        if columns not in self._values:
            relation = self.relations[columns.table]
            if len(columns.names) == 1:
                found: Values = relation.column(columns.names[0]).value_set
            else:
                filled = ~blank_in(relation, columns.names)
                rows = relation.project(columns.names).take(filled.nonzero()[0]).rows()
                found = frozenset(rows)
            self._values[columns] = found
        return self._values[columns]


def inclusions(
    tables: Tables, keys: Mapping[str, Sequence[tuple[str, ...]]], least: float = 0.9
) -> Iterator[Inclusion]:
    """Yield where at least the share ``least`` of the values of some columns is found among those of a key.

    ``keys`` are the keys of each table that may be referred to. Columns of the same table are compared too,
    but for the key with itself. Linear in the different values of all columns, for each key.
    """
    for table, own in keys.items():
        for key in own:
            there = Columns(table, key)
            single = len(key) == 1
            compared = tables.found_in(there, least) if single else _combined(tables, there, least)
            known = tables.count(there) if single else len(tables.values(there))
            for here, values, hits in compared:
                if here != there:
                    yield Inclusion(here, there, values, hits, known)


def _combined(tables: Tables, there: Columns, least: float) -> Iterator[tuple[Columns, int, int]]:
    """Yield combinations of columns of another table that refer to a composite key, with their counts.

    Each column of such a combination holds values of its part of the key.
    """
    known = tables.values(there)
    fits: list[dict[str, list[str]]] = []
    for name in there.names:
        fits.append({table: [] for table in tables.relations})
        for here, *_ in tables.found_in(Columns(there.table, (name,)), least):
            fits[-1][here.table] += here.names
    for table in tables.relations:
        if table != there.table:
            for chosen in product(*(fit[table][:_MOST_PARTS] for fit in fits)):
                if len(set(chosen)) == len(chosen):
                    here = Columns(table, chosen)
                    values = tables.values(here)
                    hits = len(values & known)
                    if values and hits >= least * len(values):
                        yield here, len(values), hits


def with_orphans(tables: Tables, found: Inclusion) -> Inclusion:
    """Return an inclusion with the values that refer to nothing. Linear in the rows, where there are such."""
    if found.exact:
        return found
    lost = tables.values(found.here) - tables.values(found.there)
    return found._replace(orphans=_orphans(tables, found.here, lost))


def _orphans(tables: Tables, here: Columns, lost: Values) -> tuple[Orphan, ...]:
    relation = tables.relations[here.table]
    columns = [relation.column(name) for name in here.names]
    if len(columns) == 1:
        (column,) = columns
        is_lost = np.fromiter((value in lost for value in column.values), np.bool_, len(column.values))
        places = np.flatnonzero(is_lost[column.codes]).tolist()
    else:
        places = [place for place, value in enumerate(relation.project(here.names).rows()) if value in lost]
    rows: dict[tuple[str, ...], list[int]] = {}
    for place in places:
        named = rows.setdefault(tuple(column.text(place) for column in columns), [])
        if len(named) < _ORPHANS_NAMED:
            named.append(int(relation.row_numbers[place]))
    return tuple(Orphan(value, tuple(rows[value])) for value in sorted(rows))
