"""Which columns of one table hold only values that are a key of another: inclusion dependencies.

Source: M. A. Casanova, R. Fagin and C. H. Papadimitriou, "Inclusion dependencies and their interaction with
functional dependencies", JCSS 28(1), 1984; the screening by a few values before the whole comparison follows
J. Bauckmann, U. Leser, F. Naumann and V. Tietz, "Efficiently detecting inclusion dependencies", ICDE 2007.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np

from pravix.relation.grouping import blank_in
from pravix.relation.relation import Relation
from pravix.wording import joined, shortened

_SCREENED = 40
_ORPHANS_NAMED = 5

Values = frozenset[str] | frozenset[tuple[str, ...]]
"""The different values: texts of one column, tuples of several."""


@dataclass(frozen=True)
class Columns:
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


@dataclass(frozen=True)
class Inclusion:
    """Of the ``values`` different values here, ``found`` are among the ``keys`` different ones there."""

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
    """Several relations by name, with the values of their columns worked out once."""

    def __init__(self, relations: Mapping[str, Relation]) -> None:
        self.relations = relations
        self._values: dict[Columns, Values] = {}

    @cached_property
    def columns(self) -> list[Columns]:
        """Every single column of every table."""
        return [Columns(table, (name,)) for table, one in self.relations.items() for name in one.names]

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
) -> list[Inclusion]:
    """Return where at least the share ``least`` of the values of some columns is found among those of a key.

    ``keys`` are the keys of each table that may be referred to. Columns of the same table are compared too,
    but for the key with itself. Linear in the different values, for each pair that a few do not rule out.
    """
    found = []
    for table, own in keys.items():
        for key in own:
            there = Columns(table, key)
            for here in _candidates(tables, there, least):
                known, values = tables.values(there), tables.values(here)
                if here == there or not values or not _likely(values, known, least):
                    continue
                hits = len(values & known)
                if hits >= least * len(values):
                    orphans = _orphans(tables, here, values - known) if hits < len(values) else ()
                    found.append(Inclusion(here, there, len(values), hits, len(known), orphans))
    return found


def _candidates(tables: Tables, there: Columns, least: float) -> list[Columns]:
    """Return the columns that may refer to a key; for a composite one combinations from another table.

    Each column of such a combination holds values of its part of the key.
    """
    if len(there.names) == 1:
        return tables.columns
    found = []
    for table, relation in tables.relations.items():
        if table == there.table:
            continue
        parts = []
        for name in there.names:
            known = tables.values(Columns(there.table, (name,)))
            fits = [
                other
                for other in relation.names
                if (values := tables.values(Columns(table, (other,))))
                and _likely(values, known, least)
                and len(values & known) >= least * len(values)
            ]
            parts.append(fits[:8])
        found += [Columns(table, chosen) for chosen in product(*parts) if len(set(chosen)) == len(chosen)]
    return found


def _likely(values: Values, known: Values, least: float) -> bool:
    """Return whether a few of the values leave it possible that most are among the known ones."""
    sample = [value for value, _ in zip(values, range(_SCREENED), strict=False)]
    return sum(value in known for value in sample) >= (least - 0.25) * len(sample)


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
