"""A flat table where it lives: what is asked of its rows, in sets, by statements of SQLAlchemy.

What a column's cells are compared by is an expression that is equal for two cells exactly where their texts
are, blanks among themselves too. So numbers that differ only in form differ, and so do texts that a collation
calls equal.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import count
from typing import Any, NamedTuple

from sqlalchemy import BigInteger, and_, case, cast, func, literal, or_, select, true, tuple_
from sqlalchemy.sql.visitors import replacement_traverse

from pravix.engines.place import MOST_ROWS, Place, Row
from pravix.sources.database import padded
from pravix.sources.told import cell_told
from pravix.theory.rule_index import RuleIndex

_SLICE = 300_000
_LEAST_SLICES = 4
_GROUPS = 200
_MANY = 3
_PAIRS = 1_000
_SMALL_GROUP = 500
_FETCHED_AT_ONCE = 2_000
_NUMBER = "row_number_"
SETTLING = 5_000
"""Where not more rows than these say all that there is to say, all of them are fetched."""


@dataclass(frozen=True)
class Summary:
    """What all rows say of a determinant: how many different values, how many rows share theirs with another.

    ``broken`` are the dependents that have two values for one of the determinant.
    """

    groups: int
    sharing: int
    broken: frozenset[str]


@dataclass(frozen=True)
class Group:
    """Rows that agree on a determinant: its values and how many rows they are.

    ``ends`` are, for each dependent that differs among them, what it is compared by with its least and its
    greatest value; ``where`` is what these rows meet besides; ``numbers`` are those of two of them, where
    nothing else was asked. Where they were not ``surely_all`` compared as they are, others may have been
    overlooked.
    """

    key: tuple[Any, ...]
    rows: int
    ends: Mapping[str, tuple[Any, Any, Any]]
    where: Sequence[Any] = ()
    numbers: tuple[int, ...] = ()
    surely_all: bool = True


class Combination(NamedTuple):
    """Cells that stand in a row together: as they are compared, as texts, and in how many rows."""

    compared: tuple[Any, ...]
    texts: list[str]
    rows: int


@dataclass(frozen=True, eq=False)
class Flat:
    """A table, view, query or file of ``row_count`` rows.

    ``cells`` are its columns by name, as they are fetched; ``told`` are the columns that are spoken of,
    each with what it is compared by, all of ``source``, which stands in FROM. ``numbered`` is the number of
    a row, from 0, where there is one, ``first_row`` how the first is called in its file, ``table`` says
    that it is a table and no view or query, ``scales`` the decimal places of columns that an engine keeps
    without them. ``sizes`` keeps what was counted, ``full`` are the columns that are known to have no blank,
    ``rules`` the dependencies that are known to hold in all rows, a blank being a value like any other.
    """

    place: Place
    source: Any
    cells: Mapping[str, Any]
    told: Mapping[str, tuple[Any, ...]]
    row_count: int
    numbered: Any = None
    first_row: int = 1
    table: bool = True
    scales: Mapping[str, int] = field(default_factory=dict)
    sizes: dict[tuple[frozenset[str], frozenset[str]], int] = field(default_factory=dict)
    full: set[str] = field(default_factory=set)
    rules: RuleIndex = field(default_factory=lambda: RuleIndex(()))

    @property
    def names(self) -> tuple[str, ...]:
        """The names of the columns."""
        return tuple(self.cells)

    def size(self, columns: Collection[str], filled: Collection[str] = ()) -> int:
        """Return how many different combinations some columns have, in rows where those ``filled`` are.

        One pass over the rows, once for each combination, without columns that others of it are known to
        determine; where some of the columns are known to identify every row, only the rows are counted.
        """
        asked = frozenset(columns), frozenset(filled) - self.full
        if asked not in self.sizes and not self.identified_by(columns):
            asked = self._deciding(columns), asked[1]
        if asked not in self.sizes:
            self.sizes[asked] = self.filled(asked[1]) if self.identified_by(columns) else self._size(*asked)
        return self.sizes[asked]

    def _deciding(self, columns: Collection[str]) -> frozenset[str]:
        """Return those of some columns that none of the others are known to determine."""
        left = frozenset(columns)
        for name in self._ordered(columns)[::-1]:
            if self.rules.determines(left - {name}, {name}):
                left -= {name}
        return left

    def identified_by(self, columns: Collection[str]) -> bool:
        """Whether some of the columns are known to have another combination in every row."""
        return any(
            size == self.row_count and not filled and some <= frozenset(columns)
            for (some, filled), size in self.sizes.items()
        )

    def _size(self, columns: frozenset[str], filled: frozenset[str]) -> int:
        if not columns:
            return min(self.filled(filled), 1)
        inner = select(*self._named(columns)).where(*map(self.is_filled, filled)).distinct().subquery()
        return int(self.place.row(select(func.count()).select_from(inner))[0])

    def product(self, shared: Collection[str], lists: Sequence[Collection[str]]) -> int:
        """Return how many rows it makes when, for each value of the ``shared`` columns, every value of one
        list of columns goes with every value of the next. A pass over the rows for each list.
        """
        counts = []
        for one in lists:
            names = self._ordered({*shared, *one})
            inner = select(*self._named(names)).distinct().subquery()
            places = [n for n, name in enumerate(self._spread(names)) if name in shared]
            key = [inner.c[f"x{place}"].label(f"k{n}") for n, place in enumerate(places)]
            counts.append(select(*key, func.count().label("n")).group_by(*key).subquery())
        first, *others = counts
        source: Any = first
        times: Any = cast(first.c.n, BigInteger)
        for other in others:
            same = [one == two for one, two in zip(first.c, other.c, strict=True)][:-1]
            source = source.join(other, and_(true(), *same))
            times = times * other.c.n
        return int(self.place.row(select(func.sum(times)).select_from(source))[0] or 0)

    def filled(self, columns: Collection[str]) -> int:
        """Return how many rows have a value in each of some columns."""
        open_ones = [name for name in columns if name not in self.full]
        if not open_ones:
            return self.row_count
        asked = select(func.count()).select_from(self.source).where(*map(self.is_filled, open_ones))
        return int(self.place.row(asked)[0])

    def exceptions(self, determinant: Collection[str], dependent: str) -> tuple[int, int]:
        """As said there: of the rows with one value of the determinant all but the most frequent dependent.

        One pass over the rows. (The g3 error, see ``pravix.discovery.exceptions``.)
        """
        key, further = self._named(determinant), self.told[dependent]
        ends = [one.label(f"d{place}") for place, one in enumerate(further)]
        pairs = (
            select(*key, *ends, func.count().label("n"))
            .select_from(self.source)
            .where(*map(self.is_filled, determinant))
            .group_by(*self._compared(self._ordered(determinant)), *further)
            .subquery()
        )
        columns = [pairs.c[one.name] for one in key]
        n = cast(pairs.c.n, BigInteger)
        groups = select(func.sum(n).label("s"), func.max(n).label("m")).group_by(*columns).subquery()
        rows, kept, values = self.place.row(
            select(func.sum(groups.c.s), func.sum(groups.c.m), func.count()).select_from(groups)
        )
        return int(rows or 0) - int(kept or 0), int(rows or 0) - int(values)

    def is_filled(self, column: str) -> Any:
        """Return the condition that a cell is no blank."""
        return or_(*(self.place.adaptor.as_text(one) != "" for one in self.told[column]))

    def _named(self, columns: Collection[str]) -> list[Any]:
        return [one.label(f"x{place}") for place, one in enumerate(self._compared(self._ordered(columns)))]

    def _compared(self, columns: Iterable[str]) -> list[Any]:
        return [one for name in columns for one in self.told[name]]

    def _ordered(self, columns: Collection[str]) -> list[str]:
        return [name for name in self.told if name in columns]

    def _spread(self, dependents: Sequence[str]) -> list[str]:
        """Return the dependents, each as often as there are expressions that it is compared by."""
        return [name for name in dependents for _ in self.told[name]]

    def _grouped(self, determinant: Sequence[str], compared: Sequence[Any], where: Sequence[Any] = ()) -> Any:
        """Return a row for each value of the determinant, with the ends of what the dependents are compared
        by.

        Without dependents the ends of the row numbers come in their place, where there are such.
        """
        key = self._named(determinant)
        ends = []
        for place, one in enumerate(compared):
            ends += [func.min(one).label(f"l{place}"), func.max(one).label(f"h{place}")]
        if not compared and self.numbered is not None:
            ends += [func.min(self.numbered).label("first"), func.max(self.numbered).label("last")]
        made = select(*key, func.count().label("n"), *ends).select_from(self.source).where(*where)
        return made.group_by(*self._compared(determinant)).subquery() if key else made.subquery()

    @property
    def slices(self) -> int:
        """In how many parts the groups are looked at, where one part may be enough to break a claim."""
        parts = self.row_count // _SLICE
        sliced = self.place.adaptor.sliced(next(iter(self.told.values())), max(1, parts))
        return parts if parts >= _LEAST_SLICES and sliced is not None else 1

    def _slice(self, determinant: Sequence[str], parts: int) -> list[Any]:
        """Return the condition for about one in so many groups: by the column with the most different
        cells.
        """
        if parts == 1 or not determinant:
            return []
        return [self.place.adaptor.sliced(self.told[self.finest(determinant)], parts)]

    def finest(self, columns: Collection[str]) -> str:
        """Return which of some columns has the most different cells, as far as these were counted."""
        return max(columns, key=lambda name: self.sizes.get((frozenset({name}), frozenset()), 0))

    def part(self, column: str) -> Flat | None:
        """Return the rows of about one in ``slices`` of a column's cells as a flat table of their own.

        None where the place keeps no rows. Rows that agree on the column are in it all or none.
        """
        if self.numbered is None:
            return None
        some = self.place.adaptor.sliced(self.told[column], self.slices)
        rows = select(self.numbered.label(_NUMBER), *self.source.c).select_from(self.source).where(some)
        kept = self.place.kept(rows)
        if kept is None:
            return None

        def of_part(element: Any, **_: Any) -> Any:
            return kept.c[element.name] if getattr(element, "table", None) is self.source else None

        def moved(cell: Any) -> Any:
            return replacement_traverse(cell, {}, of_part)

        cells = {name: moved(cell) for name, cell in self.cells.items()}
        told = {name: tuple(map(moved, compared)) for name, compared in self.told.items()}
        found = int(self.place.row(select(func.count()).select_from(kept))[0])
        number = kept.c[_NUMBER]
        return replace(self, source=kept, cells=cells, told=told, row_count=found, numbered=number, sizes={})

    def summary(self, determinant: Collection[str], dependents: Sequence[str]) -> Summary:
        """Return what all rows say of a determinant and many dependents at once. One pass over the rows."""
        groups = self._grouped(self._ordered(determinant), self._compared(dependents))
        n = cast(groups.c.n, BigInteger)
        broken = [
            func.max(case((groups.c[f"l{place}"] != groups.c[f"h{place}"], 1), else_=0))
            for place in range(len(self._compared(dependents)))
        ]
        values, sharing, *told = self.place.row(
            select(func.count(), func.sum(case((n > 1, n), else_=0)), *broken).select_from(groups)
        )
        self.sizes[frozenset(determinant), frozenset()] = int(values)
        wrong = {name for name, one in zip(self._spread(dependents), told, strict=True) if one}
        return Summary(int(values), int(sharing or 0), frozenset(wrong))

    def breaking(
        self,
        determinant: Collection[str],
        dependents: Sequence[str],
        parts: int = 1,
        shared: bool = False,
        within: Collection[str] = (),
    ) -> list[Group]:
        """Return some groups of rows that agree on the determinant and not on a dependent, small ones first.

        With ``shared`` all groups of several rows count. Only one in so many ``parts`` of the groups is
        looked at, and with ``within``, a part of the determinant, only the rows of those of its groups that
        do not agree either: no others can break a rule of more columns. Where an engine compares hashes
        quicker, it does, and what they leave open as it is.
        """
        key, compared = self._ordered(determinant), self._compared(dependents)
        inner = self._ordered(within) if within and not shared else []
        short = [self.place.adaptor.short(one) for one in compared]
        if short and all(one is not None for one in short):
            found = self._breaking(key, dependents, short, parts, shared, inner)
            if found and (parts > 1 or not self.all_told(found)):
                return [replace(one, surely_all=False) for one in found]
        return self._breaking(key, dependents, compared, parts, shared, inner)

    def _breaking(
        self,
        key: Sequence[str],
        dependents: Sequence[str],
        compared: Sequence[Any],
        parts: int,
        shared: bool,
        within: Sequence[str],
    ) -> list[Group]:
        def differing(groups: Any) -> list[Any]:
            return [groups.c[f"l{place}"] != groups.c[f"h{place}"] for place in range(len(compared))]

        where, narrow = self._slice(key, parts), []
        if within:
            inner = self._grouped(within, compared)
            some = select(*list(inner.c)[: len(self._compared(within))]).where(or_(*differing(inner)))
            narrow.append(tuple_(*self._compared(within)).in_(some))
        groups, width = self._grouped(key, compared, [*where, *narrow]), len(self._compared(key))
        wrong = differing(groups)
        if shared:
            wrong.append(groups.c.n > 1)
        most = _GROUPS if dependents else _PAIRS
        found = self.place.rows(select(groups).where(or_(*wrong)).order_by(groups.c.n).limit(most), most)
        names = self._spread(dependents)
        return [
            Group(
                tuple(row[:width]),
                int(row[width]),
                {
                    name: (one, row[place], row[place + 1])
                    for name, one, place in zip(names, compared, count(width + 1, 2), strict=False)
                    if row[place] != row[place + 1]
                },
                where,
                tuple(row[width + 1 + 2 * len(compared) :]),
            )
            for row in found
        ]

    @staticmethod
    def all_told(groups: Sequence[Group]) -> bool:
        """Whether some groups are all that there are, and all of their rows are fetched."""
        few = len(groups) < (_GROUPS if any(one.ends for one in groups) else _PAIRS)
        return few and all(one.surely_all for one in groups) and sum(one.rows for one in groups) <= SETTLING

    @staticmethod
    def many(groups: Sequence[Group], parts: int) -> bool:
        """Whether groups that are one in so many ``parts`` tell that all are surely not ``all_told``."""
        rows = sum(one.rows for one in groups)
        return parts * len(groups) > _MANY * _GROUPS or parts * rows > _MANY * SETTLING

    def rows_of(self, determinant: Collection[str], groups: Sequence[Group]) -> Iterator[list[Row]]:
        """Yield rows of some groups, statement by statement, so that they show all that the groups do."""
        key = self._ordered(determinant)
        if self.numbered is not None and not any(one.ends for one in groups):
            yield self._with_numbers([number for one in groups for number in one.numbers])
            return
        small = list(groups)
        if sum(one.rows for one in groups) > SETTLING:
            small, total = [], 0
            for one in groups[: self.place.adaptor.terms]:
                if one.rows <= _SMALL_GROUP and total + one.rows <= _FETCHED_AT_ONCE:
                    small.append(one)
                    total += one.rows
        adaptor, cells = self.place.adaptor, self._compared(key)
        for start in range(0, len(small), adaptor.terms):
            some = adaptor.one_of(cells, [one.key for one in small[start : start + adaptor.terms]])
            yield self._whole_rows([*groups[0].where, some])
        if not small and groups and not groups[0].ends:
            yield self.place.rows(self.fetched().where(self._same(key, groups[0])).limit(2), 2)
        shown = {name for one in small for name in one.ends}
        for one in groups:
            for name, (cell, *ends) in one.ends.items():
                if name not in shown:
                    shown.add(name)
                    for end in ends:
                        yield self.place.rows(
                            self.fetched().where(self._same(key, one), cell == end).limit(1), 1
                        )

    def _whole_rows(self, where: Sequence[Any]) -> list[Row]:
        """Return the rows that meet conditions on few columns: where they have numbers, by these."""
        if self.numbered is None:
            return self.place.rows(self.fetched().where(*where))
        numbers = self.place.rows(select(self.numbered).select_from(self.source).where(*where))
        return self._with_numbers([number for (number,) in numbers])

    def _with_numbers(self, numbers: Sequence[int]) -> list[Row]:
        if not numbers:
            return []
        return self.place.rows(self.fetched().where(self.place.adaptor.among(self.numbered, numbers)))

    def _same(self, columns: Sequence[str], group: Group) -> Any:
        """Return the condition that a row is one of a group."""
        return and_(
            true(), *(one == value for one, value in zip(self._compared(columns), group.key, strict=True))
        )

    def sharing_rows(self, determinant: Collection[str]) -> list[Row]:
        """Return all rows that agree with another on some columns; ``summary`` says how many they are."""
        key = self._ordered(determinant)
        groups = self._grouped(key, [])
        some = select(groups).where(groups.c.n > 1).subquery()
        same = [one == some.c[f"x{place}"] for place, one in enumerate(self._compared(key))]
        source = self.source.join(some, and_(*same) if same else true())
        if self.numbered is None:
            return self.place.rows(self.fetched(source))
        return self._with_numbers(
            [number for (number,) in self.place.rows(select(self.numbered).select_from(source))]
        )

    def fetched(self, source: Any = None) -> Any:
        """Return the statement for whole rows: the number first where there is one, then every cell."""
        number = [] if self.numbered is None else [self.numbered.label(_NUMBER)]
        cells = [cell.label(f"c{place}") for place, cell in enumerate(self.cells.values())]
        return select(*number, *cells).select_from(self.source if source is None else source)

    def counted_values(self, column: str, most: int) -> tuple[int, list[tuple[str, int]]]:
        """Return how many different cells a column has, a blank too, and the most frequent with their
        counts. One pass over the rows.
        """
        (told,) = self.told[column]
        groups = (
            select(told.label("v"), func.count().label("n"))
            .select_from(self.source)
            .group_by(told)
            .subquery()
        )
        counted = self.sizes.get((frozenset({column}), frozenset()))
        different = func.count().over() if counted is None else literal(counted, BigInteger)
        asked = select(groups, different).order_by(groups.c.n.desc(), groups.c.v).limit(most)
        found = self.place.rows(asked, most)
        size = int(found[0][2]) if found else 0
        self.sizes[frozenset({column}), frozenset()] = size
        values = self._texts(column, (value for value, *_ in found))
        return size, [(value, int(times)) for value, (_, times, _) in zip(values, found, strict=True)]

    def values(
        self, columns: Sequence[str], most: int | None = None, where: Any = None
    ) -> Iterator[Combination]:
        """Yield every different combination of cells, blanks too, or some where there are more than
        ``most``; ``where`` says of which rows. One pass over them.
        """
        compared = self._compared(columns)
        named = [one.label(f"x{place}") for place, one in enumerate(compared)]
        asked = select(*named, func.count().label("n")).select_from(self.source).group_by(*compared)
        asked = asked if where is None else asked.where(where)
        scales = [self.scales.get(name, 0) for name in columns]
        for batch in self.place.batches(asked if most is None else asked.limit(most)):
            for *cells, times in batch:
                texts = list(map(padded, map(cell_told, cells), scales))
                yield Combination(tuple(cells), texts, int(times))

    def rows_where(self, condition: Any, most: int) -> list[Row]:
        """Return some rows that meet a condition."""
        return self.place.rows(self.fetched().where(condition).limit(most), most)

    def texts(self, rows: Sequence[Row]) -> list[list[str]]:
        """Return the cells of fetched rows as texts, column by column, without the numbers of the rows."""
        first = 0 if self.numbered is None else 1
        return [
            self._texts(name, [row[place] for row in rows]) for place, name in enumerate(self.names, first)
        ]

    def _texts(self, name: str, cells: Iterable[Any]) -> list[str]:
        texts, scale = list(map(cell_told, cells)), self.scales.get(name, 0)
        return [padded(text, scale) for text in texts] if scale else texts

    def sample(self, rows: int) -> Iterator[Row]:
        """Yield about so many rows, or all where there are not more."""
        asked = self.fetched()
        if rows < self.row_count:
            chance = self.place.adaptor.sampled(rows / self.row_count, self.table)
            asked = asked.limit(rows) if chance is None else asked.where(chance).limit(MOST_ROWS)
        for batch in self.place.batches(asked):
            yield from batch
