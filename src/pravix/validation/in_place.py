"""A new file or table that stays where it is, held against a design and what is stored of it, by queries.

What is told has counts in the place of the numbers of rows, and of each kind the most frequent alone.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from sqlalchemy import ColumnElement, case

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.document.model import DesignDocument
from pravix.engines.flat import Flat
from pravix.engines.place import Row
from pravix.errors import InputError
from pravix.first_normal_form.formula import Formula
from pravix.relation.types import Kind, comparable, sure_number
from pravix.sources.told import cell_told
from pravix.sql.filling import FlatRows, against_formula, comparable_sql
from pravix.sql.flat_rows import flat_rows
from pravix.validation.cells import CellRules, cell_rules
from pravix.validation.checking import CheckedInPlace
from pravix.validation.finding import About, Violation
from pravix.validation.new_rows import check_columns
from pravix.validation.violations import always_filled, row_key
from pravix.wording import counted, joined, shortened

_NUMBER = "^-?[0-9]+([.][0-9]+)?$"
_TOLD = 20
"""So many findings of one rule are told; the others are counted."""


def checked_in_place(document: DesignDocument, flat: Flat, name: str, stored: str) -> CheckedInPlace:
    """Hold rows that stay elsewhere against a design and against ``stored``, a view of the rows before.

    The view is quoted, and as the design makes it. Raises InputError where the rows have other columns. Cost:
    a pass over all rows for each column and each rule; the different cells of each column come to the client.
    """
    check_columns(document, flat.names, name)
    return _Checking(document, flat, stored).done()


class _Checking:
    def __init__(self, document: DesignDocument, flat: Flat, stored: str) -> None:
        self._document = document
        self._flat = flat
        self._kind: Database = database(flat.place.adaptor.name)
        self._stored = stored
        self._rows: FlatRows = flat_rows(flat, {}, self._kind)
        self._sources = document.source.columns
        self._kinds = dict(zip(document.source.columns, document.flat.kinds, strict=True))
        computed = {entry.column for entry in document.rebuild if isinstance(entry, Formula)}
        self._no_numbers = {name for name in computed if self._kinds[name].numeric}

    def done(self) -> CheckedInPlace:
        """Return what was found. Cells come first: what is no number is told, and compared as a blank."""
        cells = list(self._cells())
        self._rows = flat_rows(self._flat, self._numbers_only(), self._kind)
        key = row_key(self._document)
        known = set(key) <= set(self._sources)
        unseen: list[str] = []
        found = [*(self._keys(key) if known else ()), *self._broken(key), *cells, *self._computed(unseen)]
        if not known:
            unseen.append("nothing identifies a row: whether one is there already was not looked at")
        unseen += [
            f"whether rows say the same of {table.name} in each of its roles was not looked at"
            for table in self._document.tables
            if len(table.role_names) > 1
        ]
        repaired = {entry.column for entry in self._document.rebuild if not isinstance(entry, Formula)}
        if repaired:
            unseen.append(
                f"of {joined(sorted(map(shortened, repaired)))} the cells were compared as they are"
            )
        return CheckedInPlace(self._flat.row_count, found, unseen)

    def _numbers_only(self) -> dict[str, tuple[ColumnElement[str], ...]]:
        """Return the columns of numbers in which other cells stand, those cells blank."""
        adaptor = self._flat.place.adaptor
        told = {name: adaptor.as_text(self._flat.told[name][0]) for name in self._no_numbers}
        return {
            name: (case((adaptor.matches(cell, _NUMBER), cell), else_=""),) for name, cell in told.items()
        }

    def _cells(self) -> Iterator[Violation]:
        """Yield the cells that the tables cannot hold, each with how many rows have it."""
        for rules in cell_rules(self._document):
            kind = self._kinds.get(rules.flat)
            if kind is None:
                continue
            wrong: dict[tuple[About, str], int] = {}
            more = 0
            for _, (cell,), times in self._flat.values([rules.flat], where=self._doubtful(rules)):
                about = rules.against(comparable(cell, kind.numeric))
                if about is None:
                    continue
                if kind.numeric and about[0] is About.TYPE:
                    self._no_numbers.add(rules.flat)
                if about in wrong or len(wrong) < _TOLD:
                    wrong[about] = wrong.get(about, 0) + times
                else:
                    more += times
            for (kind_of, text), rows in wrong.items():
                yield Violation(kind_of, f"{text} ({counted(rows, 'row')})", ())
            if more:
                yield Violation(About.TYPE, f"{rules.flat}: such cells in {counted(more, 'further row')}", ())

    def _computed(self, unseen: list[str]) -> Iterator[Violation]:
        """Yield computed columns, each with how many rows have another value; or say what is ``unseen``.

        They come last: a cell that is no number, or no date, may end the transaction.
        """
        for entry in self._document.rebuild:
            if not isinstance(entry, Formula):
                continue
            query = against_formula(self._document, entry, self._kind, self._rows)
            try:
                wrong = None if query is None else int(self._flat.place.run(query)[0][0] or 0)
            except InputError:
                wrong = None
            if wrong is None:
                unseen.append(f"whether {shortened(entry.column)} is {entry} was not looked at")
            elif wrong:
                told = f"{entry.column} is not {entry} in {counted(wrong, 'row')}"
                yield Violation(About.COMPUTED, told, ())

    def _doubtful(self, rules: CellRules) -> ColumnElement[bool] | None:
        """Return the condition that a cell may be none that its column allows; None where none is known."""
        found, adaptor = rules.type, self._flat.place.adaptor
        if rules.checks:
            return None
        cell, pattern, sure = adaptor.as_text(self._flat.told[rules.flat][0]), sure_number(found), None
        if pattern:
            sure = adaptor.matches(cell, f"^{pattern}$")
        elif found.kind in (Kind.TEXT, Kind.CODE):
            sure = adaptor.length(cell).between(1, found.length)
        return None if sure is None else case((sure, 0), else_=1) == 1

    def _new(self, name: str) -> str:
        return comparable_sql(self._rows.cells[name], self._kinds[name], self._kind)

    def _old(self, name: str) -> str:
        called = self._kind.quoted(self._document.view_columns.get(name, name))
        return comparable_sql(f"v.{called}", self._kinds[name], self._kind)

    def _keys(self, key: Sequence[str]) -> Iterator[Violation]:
        """Yield keys that come several times, and rows whose key is stored already."""
        own, there = ([told(name) for name in key] for told in (self._new, self._old))
        names = [f"k{n}" for n in range(len(key))]
        listed = ", ".join(f"{sql} AS {name}" for sql, name in zip(own, names, strict=True))
        filled = " AND ".join(f"{name} IS NOT NULL" for name in names)
        twice = (
            f"SELECT {', '.join(names)}, COUNT(*) AS n FROM (SELECT {listed} FROM {self._rows.sql}) s "
            f"WHERE {filled} GROUP BY {', '.join(names)} HAVING COUNT(*) > 1"
        )
        yield from self._most(
            About.CONTRADICTION,
            twice,
            names,
            lambda row: f"{_told(key, row)} comes {row[-1]} times, but identifies a row",
        )
        others = [name for name in self._sources if name not in key]
        facts = "".join(f", {self._new(name)} AS f{n}" for n, name in enumerate(others))
        stored = ", ".join(f"{sql} AS {name}" for sql, name in zip(there, names, strict=True))
        stored += "".join(f", {self._old(name)} AS g{n}" for n, name in enumerate(others))
        same = " AND ".join(f"(f{n} = g{n} OR (f{n} IS NULL AND g{n} IS NULL))" for n in range(len(others)))
        on = " AND ".join(f"s.{name} = o.{name}" for name in names)
        pairs = (
            f"(SELECT {listed}{facts} FROM {self._rows.sql}) s\n"
            f"JOIN (SELECT {stored} FROM {self._stored} v) o ON {on}"
        )
        alike = f"CASE WHEN {same or '1 = 1'} THEN 1 ELSE 0 END"
        ((rows, known),) = self._flat.place.run(f"SELECT COUNT(*), SUM({alike}) FROM {pairs}")
        if known:
            yield Violation(About.KNOWN, f"{counted(int(known), 'row')} there already", ())
        if rows > (known or 0):
            keys = ", ".join(f"s.{name}" for name in names)
            other = f"SELECT {keys}, 1 AS n FROM {pairs} WHERE {alike} = 0"
            yield from self._most(
                About.CONFLICT, other, names, lambda row: f"{_told(key, row)} is there with other values"
            )

    def _broken(self, key: Sequence[str]) -> Iterator[Violation]:
        """Yield what breaks rules: against what is stored, or among the new rows."""
        filled, known = always_filled(self._document), set(self._sources)
        for rule in self._document.dependencies:
            if set(rule.determinant) != set(key) and {*rule.determinant, rule.dependent} <= known:
                yield from self._breaking(rule.determinant, rule.dependent, rule.dependent in filled)

    def _breaking(self, determinant: Sequence[str], dependent: str, filled: bool) -> Iterator[Violation]:
        names = [f"d{n}" for n in range(len(determinant))]
        keys = ", ".join(names)

        def facts(told: Sequence[str], value: str, source: str, where: str) -> str:
            listed = ", ".join(f"{sql} AS {name}" for sql, name in zip(told, names, strict=True))
            given = " AND ".join(f"{name} IS NOT NULL" for name in names)
            inner = f"SELECT {listed}, {value} AS x FROM {source}"
            return f"SELECT {keys}, x, COUNT(*) AS n FROM ({inner}) i WHERE {given}{where} GROUP BY {keys}, x"

        new = facts(
            list(map(self._new, determinant)),
            self._new(dependent),
            self._rows.sql,
            " AND x IS NOT NULL" if filled else "",
        )
        old = facts(list(map(self._old, determinant)), self._old(dependent), f"{self._stored} v", "")
        on = " AND ".join(f"s.{name} = o.{name}" for name in names)
        own = ", ".join(f"s.{name}" for name in names)
        changed = (
            f"SELECT {own}, s.x, o.x AS y, o.n AS m, s.n FROM ({new}) s JOIN ({old}) o ON {on}\n"
            "WHERE s.x <> o.x OR (s.x IS NULL AND o.x IS NOT NULL) OR (s.x IS NOT NULL AND o.x IS NULL)"
        )
        yield from self._most(
            About.CHANGED,
            changed,
            [*names, "x", "y"],
            lambda row: (
                f"{_told(determinant, row)} now has {dependent} {_shown(row[-4])} in "
                f"{counted(int(row[-1]), 'row')}, but {_shown(row[-3])} in "
                f"{counted(int(row[-2]), 'stored row')}: a correction, or a second one?"
            ),
        )
        several = f"SELECT {keys}, MIN(x) AS x, MAX(x) AS y, SUM(n) AS n FROM ({new}) t GROUP BY {keys} "
        several += "HAVING COUNT(*) > 1"
        unknown = (
            f"SELECT {own}, s.x, s.y, s.n FROM ({several}) s LEFT JOIN "
            f"(SELECT DISTINCT {keys} FROM ({old}) p) o ON {on} WHERE o.{names[0]} IS NULL"
        )
        yield from self._most(
            About.CONTRADICTION,
            unknown,
            names,
            lambda row: (
                f"{_told(determinant, row)} has {dependent} {_shown(row[-3])} and {_shown(row[-2])} in "
                f"{counted(int(row[-1]), 'row')}: the new rows contradict each other"
            ),
        )

    def _most(
        self, about: About, query: str, by: Sequence[str], told: Callable[[Row], str]
    ) -> Iterator[Violation]:
        """Yield what is ``told`` of the rows of a query, those with the greatest counts (``n``) first, those
        of one count ``by`` what they have in some columns.
        """
        place, order = self._flat.place, ", ".join(["n DESC", *by])
        found = place.run(f"SELECT * FROM ({query}) q ORDER BY {order} LIMIT {_TOLD + 1}")
        yield from (Violation(about, told(row), ()) for row in found[:_TOLD])
        if len(found) > _TOLD:
            ((every,),) = place.run(f"SELECT COUNT(*) FROM ({query}) q")
            yield Violation(about, f"{int(every) - _TOLD:,} more like these", ())


def _shown(cell: object) -> str:
    told = cell_told(cell)
    return shortened(comparable(told, numeric="." in told)) if told else "blank"


def _told(names: Sequence[str], row: Row) -> str:
    """Return the names with the first cells of a row."""
    return joined([f"{name} {_shown(cell)}" for name, cell in zip(names, row, strict=False)])
