"""The flat rows from the tables of a folder alone: joined by dictionaries, put together again, cell by cell.

Nothing here is used where tables are made or loaded, so that a fault there cannot hide itself in the proof.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from decimal import ROUND_HALF_EVEN
from fractions import Fraction
from functools import reduce

from pravix.document.joining import FlatJoin, Joined, PartJoin, flat_join, part_join
from pravix.document.model import PartDocument, TableDocument
from pravix.first_normal_form.compounds import RebuiltCompound
from pravix.first_normal_form.families import RebuiltMember
from pravix.first_normal_form.findings import AnyRebuilt
from pravix.first_normal_form.flags import RebuiltFlag
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.lists import RebuiltList
from pravix.first_normal_form.moments import RebuiltMomentPart
from pravix.first_normal_form.rebuilt import FromChild
from pravix.relation.types import Kind, comparable

Cells = list[str]
"""The cells of a column, from the first row to the last; the empty text is a blank."""

Tables = Mapping[str, Mapping[str, Cells]]
"""The columns of each table by their names."""

Key = tuple[str, ...]


def keys_of(table: TableDocument, cells: Mapping[str, Cells], columns: Sequence[str]) -> list[Key]:
    """Return the cells of some columns in each row, numbers by their exact value."""
    told = [_comparable(cells[name], table.column(name).kind) for name in columns]
    count = len(next(iter(cells.values())))
    return list(zip(*told, strict=True)) if told else [()] * count


def _comparable(cells: Cells, kind: Kind) -> Cells:
    return [comparable(cell, kind.numeric) for cell in cells]


class Rejoined:
    """The rows of the main table with the cells of all tables that its references lead to."""

    def __init__(self, document: PartDocument, tables: Tables, join: FlatJoin | None = None) -> None:
        self._document = document
        self._tables = tables
        self._join: FlatJoin = flat_join(document) if join is None else join
        self._rows: dict[str, list[int]] = {}
        for joined in self._join.tables:
            if joined.table.independent_of:
                self._multiply(joined)
            else:
                self._rows[joined.alias] = self._found(joined)
        self.columns: dict[str, Cells] = {
            flat: self.cells(place.alias, place.column) for flat, place in self._join.places.items()
        }
        self.kinds = {flat: place.kind for flat, place in self._join.places.items()}

    @property
    def count(self) -> int:
        """How many rows there are."""
        return len(self._rows[self._join.tables[0].alias])

    def rebuilt(self) -> dict[str, Cells]:
        """Return every column of the file, those that no table holds put together again."""
        columns = dict(self.columns)
        for entry in self._document.rebuild:
            columns[entry.column] = self._built(entry, columns)
        return columns

    def _built(self, entry: AnyRebuilt, columns: Mapping[str, Cells]) -> Cells:
        if isinstance(entry, RebuiltList):
            return [_listed(entry, [fact for _, fact in parts]) for parts in self._children(entry)]
        if isinstance(entry, RebuiltMember):
            return [dict(parts).get(entry.at, "") for parts in self._children(entry)]
        needed = [columns[name] for name in entry.columns]
        if isinstance(entry, RebuiltFlag):
            return [entry.yes if cell == entry.value else entry.no for cell in needed[0]]
        if isinstance(entry, RebuiltCompound):
            return [
                f"{one}{entry.between}{other}" if one and other else one or other
                for one, other in zip(*needed, strict=True)
            ]
        if isinstance(entry, RebuiltMomentPart):
            moments = [cell.partition(" ") for cell in needed[0]]
            return [day if entry.start == 0 else time for day, _, time in moments]
        return _computed(entry, needed)

    def cells(self, alias: str, column: str) -> Cells:
        """Return the cells of a column of a joined table, for each row."""
        table = next(one.table for one in self._join.tables if one.alias == alias)
        own = self._tables[table.name][column]
        return [own[row] if row >= 0 else "" for row in self._rows[alias]]

    def _multiply(self, joined: Joined) -> None:
        """Put every row beside every row of a table with an independent list of the same thing."""
        places: dict[Key, list[int]] = {}
        own = [column for _, column in joined.on]
        for row, key in enumerate(keys_of(joined.table, self._tables[joined.table.name], own)):
            places.setdefault(key, []).append(row)
        wanted = [_comparable(self.cells(place.alias, place.column), place.kind) for place, _ in joined.on]
        keys = zip(*wanted, strict=True)
        pairs = [(row, other) for row, key in enumerate(keys) for other in places.get(key, [])]
        self._rows = {alias: [rows[row] for row, _ in pairs] for alias, rows in self._rows.items()}
        self._rows[joined.alias] = [other for _, other in pairs]

    def _found(self, joined: Joined) -> list[int]:
        """Return for each row of the main table the row of a joined one, or -1."""
        table, cells = joined.table, self._tables[joined.table.name]
        if joined is self._join.tables[0]:
            return list(range(len(next(iter(cells.values())))))
        own = [column for _, column in joined.on]
        known: dict[Key, int] = {}
        for row, key in enumerate(keys_of(table, cells, own)):
            known.setdefault(key, row)
        wanted = [_comparable(self.cells(place.alias, place.column), place.kind) for place, _ in joined.on]
        if not wanted:
            return [0 if known else -1] * self.count
        return [known.get(key, -1) if all(key) else -1 for key in zip(*wanted, strict=True)]

    def _children(self, entry: FromChild) -> list[list[tuple[int, str]]]:
        """Return for each row the positions and facts of its parts, joined to their child table."""
        part = part_join(self._document, self._document.by_name[entry.table])
        cells = self._tables[part.child.name]
        there = Rejoined(self._document, self._tables, part.join)
        place = part.place(entry.fact)
        facts = there.cells(place.alias, place.column)
        parts: dict[Key, list[tuple[int, str]]] = {}
        columns = part.home.columns if part.home else ()
        for key, position, fact in zip(
            keys_of(part.child, cells, columns), cells[entry.position], facts, strict=True
        ):
            if fact:
                parts.setdefault(key, []).append((int(position), fact))
        return [sorted(parts.get(key, [])) for key in self._parents(part)]

    def _parents(self, part: PartJoin) -> list[Key]:
        """Return for each row the key of what its parts belong to."""
        if part.home is None:
            return [()] * self.count
        parent = next(one for one in self._join.tables if part.leads_to(one))
        told = [
            _comparable(self.cells(parent.alias, name), parent.table.column(name).kind)
            for name in part.home.references.columns
        ]
        return list(zip(*told, strict=True))


def _listed(entry: RebuiltList, facts: Sequence[str]) -> str:
    """Return the items of a cell as it was written."""
    text = ""
    for place, fact in enumerate(facts):
        before = entry.last if entry.last and place == len(facts) - 1 else entry.separator
        text += (before if place else "") + fact
    return text


def _computed(entry: Formula, columns: Sequence[Cells]) -> Cells:
    known: dict[Key, str] = {}
    cells = []
    for key in zip(*columns, strict=True):
        if key not in known:
            known[key] = _result(entry, _operands(entry, key))
        cells.append(known[key])
    return cells


def _operands(entry: Formula, cells: Key) -> list[str]:
    """Return what a formula works on in a row: nothing where a cell that it needs is blank."""
    filled = [cell for cell in cells if cell] if entry.blanks_count_nothing else list(cells)
    if not all(filled):
        return []
    if entry.constant and filled:
        filled.insert(0 if entry.constant_first else len(filled), entry.constant)
    return filled


def _result(entry: Formula, cells: Sequence[str]) -> str:
    """Return a computed cell from its operands; a blank where there are none, or no result."""
    operation = entry.operation
    if not cells:
        return ""
    if operation == "part":
        return cells[0][entry.start : entry.end]
    if operation == "join":
        return f"{cells[0]}{entry.between}{cells[1]}"
    try:
        if operation == "years":
            return _years(*cells)
        if operation == "year":
            return str(int(cells[0].split("-")[0]) - int(cells[1].split("-")[0]))
        if operation == "days":
            return str(_day(cells[1]) - _day(cells[0]))
        if operation == "after":
            return str(date.fromordinal(_day(cells[0]) + int(cells[1])))
        return _written(_number(operation, [Fraction(cell) for cell in cells]), entry)
    except (ValueError, ZeroDivisionError, OverflowError):
        return ""


def _day(cell: str) -> int:
    """Return the number of a day; dates are of the form year-month-day."""
    year, month, day = map(int, cell.split("-"))
    return date(year, month, day).toordinal()


def _years(earlier: str, later: str) -> str:
    """Return how many birthdays lie between two dates of the form year-month-day."""
    (year, *day), (last_year, *last_day) = (list(map(int, date.split("-"))) for date in (earlier, later))
    years = last_year - year - (last_day < day)
    return str(years) if years >= 0 else ""


def _number(operation: str, numbers: Sequence[Fraction]) -> Fraction:
    if operation in ("+", "sum"):
        return sum(numbers, Fraction(0))
    if operation == "mean":
        return sum(numbers, Fraction(0)) / len(numbers)
    if operation == "-":
        return reduce(lambda one, other: one - other, numbers)
    if operation == "*":
        return reduce(lambda one, other: one * other, numbers)
    return numbers[0] / numbers[1] * (100 if operation == "%" else 1)


def _written(number: Fraction, entry: Formula) -> str:
    """Return a number with the decimal places and the rounding of a formula."""
    scale = entry.scale
    size = abs(number) * 10**scale
    whole, rest = divmod(size.numerator, size.denominator)
    half = 2 * rest - size.denominator
    up = half > 0 or (half == 0 and (entry.rounding != ROUND_HALF_EVEN or whole % 2 == 1))
    digits = str(whole + up).rjust(scale + 1, "0")
    text = f"{digits[:-scale]}.{digits[-scale:]}" if scale else digits
    if entry.trimmed and scale:
        text = text.rstrip("0").rstrip(".")
    return f"-{text}" if number < 0 and whole + up else text
