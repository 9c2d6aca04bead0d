"""Columns that others compute: sums, differences, products, quotients, parts of a text or a date."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation, localcontext
from itertools import combinations, permutations
from typing import Annotated, ClassVar, Literal

import numpy as np
from msgspec import Meta
from numpy.typing import NDArray

from pravix.databases.number import Number
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import Expressions, Names, Rebuilt
from pravix.first_normal_form.repair import InPlace
from pravix.relation.relation import Column, Relation
from pravix.relation.types import ColumnType, Kind, column_type
from pravix.wording import counted, shortened

Operation = Literal["+", "-", "*", "/", "%", "sum", "years", "part", "join"]
Rounding = Literal["ROUND_HALF_UP", "ROUND_HALF_EVEN"]

COMPUTED = Topic("computed", "Columns that others compute", "computed columns")

_NUMBERS = (Kind.INTEGER, Kind.DECIMAL)
_MOST_NUMBERS = 24
_SAMPLE = 400
_FEWEST_ROWS = 10
_FEWEST_VALUES = 5
_AGREEING = 0.97
_ROUNDINGS: tuple[Rounding, ...] = ("ROUND_HALF_UP", "ROUND_HALF_EVEN")
_COMMUTING: tuple[Operation, ...] = ("+", "*")
_ORDERED: tuple[Operation, ...] = ("-", "/", "%")


class Formula(Rebuilt, frozen=True, kw_only=True, tag="computed"):
    """How a column is computed from others: an operation on columns, and how the result is written.

    ``operation`` is one of ``+ - * /`` (on two columns), ``%`` (a hundred times the quotient), ``sum`` (of
    three columns and more), ``years`` (the whole years from one date to another), ``part`` (the characters
    from ``start`` to ``end`` of one column) and ``join`` (two columns with ``between``).
    Numbers are written with ``scale`` decimal places, rounded by ``rounding``; with ``trimmed`` without
    needless zeros.
    """

    layered: ClassVar[bool] = True

    columns: Annotated[Names, Meta(min_length=1)]
    operation: Operation
    scale: Annotated[int, Meta(ge=0, le=30)] = 0
    rounding: Rounding = "ROUND_HALF_UP"
    trimmed: bool = False
    start: Annotated[int, Meta(ge=0, le=10**6)] = 0
    end: Annotated[int, Meta(ge=0, le=10**6)] = 0
    between: str = ""

    @property
    def needs(self) -> Names:
        """As said there."""
        return self.columns

    @property
    def scale_of_numbers(self) -> int:
        """As said there."""
        return self.scale

    @property
    def is_arithmetic(self) -> bool:
        """As said there."""
        return self.operation not in ("part", "join")

    @property
    def is_sound(self) -> bool:
        """As said there."""
        wanted = {"sum": max(len(self.columns), 2), "part": 1}.get(self.operation, 2)
        return len(self.columns) == wanted

    def __str__(self) -> str:
        if self.operation == "part":
            return f"characters {self.start + 1} to {self.end} of {self.columns[0]}"
        if self.operation == "join":
            return f"{self.columns[0]} and {self.columns[1]} with {self.between!r} between"
        if self.operation == "sum":
            return " + ".join(self.columns)
        if self.operation == "years":
            return f"whole years from {self.columns[0]} to {self.columns[1]}"
        if self.operation == "%":
            return f"100 * {self.columns[0]} / {self.columns[1]}"
        return f"{self.columns[0]} {self.operation} {self.columns[1]}"

    def cell(self, cells: Sequence[str]) -> str:
        """As said there; a blank where one of the cells is blank."""
        if not all(cells):
            return ""
        if self.operation == "part":
            return cells[0][self.start : self.end]
        if self.operation == "join":
            return f"{cells[0]}{self.between}{cells[1]}"
        if self.operation == "years":
            return _years(cells[0], cells[1])
        return self._number(cells)

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """As said there."""
        if self.operation == "part":
            return database.part_of(cells[0].sql, self.start, self.end)
        if self.operation == "join":
            first, second = (database.as_text(one.sql) for one in cells)
            return database.put_together([first, database.text(self.between), second])
        if self.operation == "years":
            return database.years(cells[0].sql, cells[1].sql)
        return database.computed(self.operation, cells, self.scale, self.rounding)

    def _number(self, cells: Sequence[str]) -> str:
        try:
            with localcontext(prec=50):
                exact = _exact_number(self.operation, [Decimal(cell) for cell in cells])
                rounded = exact.quantize(Decimal(1).scaleb(-self.scale), self.rounding)
        except (InvalidOperation, ZeroDivisionError):
            return ""
        text = f"{rounded:f}"
        text = text.rstrip("0").rstrip(".") if self.trimmed and "." in text else text
        return text.removeprefix("-") if not rounded else text

    def texts(self, relation: Relation) -> list[str]:
        """Return the computed cells for every row of a relation."""
        known: dict[tuple[str, ...], str] = {}
        rows = zip(*(relation.column(name).texts() for name in self.columns), strict=True)
        return [known[row] if row in known else known.setdefault(row, self.cell(row)) for row in rows]


@dataclass(frozen=True)
class LeftOut(InPlace):
    """A computed column that leaves the relation."""

    answer: ClassVar[str] = "leave out"

    formula: Formula

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.formula.column,)

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there: nothing comes."""
        return ()

    @property
    def told(self) -> str:
        """As said there."""
        formula = self.formula
        return f"{formula.column} is {formula} in every row: it is computed and no longer stored."

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        return []

    def rebuilt(self) -> Sequence[Formula]:
        """As said there."""
        return [self.formula]


def _exact_number(operation: str, numbers: Sequence[Decimal]) -> Decimal:
    if operation in ("+", "sum"):
        return sum(numbers, Decimal(0))
    one, other = numbers
    if operation == "-":
        return one - other
    if operation == "*":
        return one * other
    return one / other if operation == "/" else 100 * one / other


def _years(earlier: str, later: str) -> str:
    """Return the whole years between two ISO dates; a blank where the first is the later one."""
    try:
        one, other = date.fromisoformat(earlier), date.fromisoformat(later)
    except ValueError:
        return ""
    years = other.year - one.year - ((other.month, other.day) < (one.month, one.day))
    return str(years) if years >= 0 else ""


_FAST: dict[str, Callable[[NDArray[np.float64], NDArray[np.float64]], NDArray[np.float64]]] = {
    "+": np.add,
    "-": np.subtract,
    "*": np.multiply,
    "/": np.divide,
    "%": lambda a, b: 100 * a / b,
}


@dataclass(frozen=True)
class Computed:
    """A formula, and the positions of the rows that disagree with it (blank cells left out)."""

    formula: Formula
    disagreeing: tuple[int, ...]
    sure: float


def computed_columns(relation: Relation) -> list[Computed]:
    """Return at most one formula for each column, none of them going round in a circle.

    A formula must agree with nearly every row, on many different values. Of several the one with fewest
    disagreeing rows is taken. Cost: cubic in the number columns on a sample of rows, then linear for each
    formula that the sample does not refute.
    """
    found = [*_computed_numbers(relation), *_ages_between_dates(relation), *_computed_texts(relation)]
    found.sort(key=lambda computed: (len(computed.disagreeing), _preference(computed.formula, relation)))
    chosen: dict[str, Computed] = {}
    for computed in found:
        if computed.formula.column not in chosen and not _circular(computed.formula, chosen):
            chosen[computed.formula.column] = computed
    return [chosen[name] for name in relation.names if name in chosen]


def _preference(formula: Formula, relation: Relation) -> tuple[int, int]:
    """Prefer to compute later columns from earlier ones, and products and differences to quotients."""
    place = {name: number for number, name in enumerate(relation.names)}
    later = sum(place[name] > place[formula.column] for name in formula.columns)
    return later, "*-+%/".find(formula.operation)


def _circular(formula: Formula, chosen: dict[str, Computed]) -> bool:
    reached, waiting = set(), list(formula.columns)
    while waiting:
        name = waiting.pop()
        if name == formula.column:
            return True
        if name in chosen and name not in reached:
            reached.add(name)
            waiting += chosen[name].formula.columns
    return False


def _computed_numbers(relation: Relation) -> list[Computed]:
    types = {column.name: column_type(column) for column in relation.columns}
    numbers = [column for column in relation.columns if types[column.name].kind in _NUMBERS][:_MOST_NUMBERS]
    if len(numbers) < 3 or relation.row_count < _FEWEST_ROWS:
        return []
    step = max(1, relation.row_count // _SAMPLE)
    sample = {column.name: _floats(column, step) for column in numbers}
    found = []
    for target in numbers:
        if target.distinct < _FEWEST_VALUES:
            continue
        others = [column.name for column in numbers if column is not target and column.distinct > 1]
        tolerance = 0.5 * 10.0 ** -types[target.name].scale * 1.001 + 1e-9
        for operation, names in _pairs(others):
            with np.errstate(all="ignore"):
                expected = _FAST[operation](sample[names[0]], sample[names[1]])
                known = ~np.isnan(expected) & ~np.isnan(sample[target.name])
                agreeing = np.abs(expected - sample[target.name])[known] <= tolerance
            if len(agreeing) >= _FEWEST_ROWS and agreeing.mean() >= _AGREEING:
                found += _exactly(relation, target, types[target.name], operation, names)
        for run in _runs_beside(numbers, target):
            expected = np.sum([sample[name] for name in run], axis=0)
            known = ~np.isnan(expected) & ~np.isnan(sample[target.name])
            agreeing = np.abs(expected - sample[target.name])[known] <= tolerance
            if len(agreeing) >= _FEWEST_ROWS and agreeing.mean() >= _AGREEING:
                found += _exactly(relation, target, types[target.name], "sum", run)
    return found


def _runs_beside(numbers: Sequence[Column], target: Column) -> list[tuple[str, ...]]:
    """Return the runs of three and more number columns that end just before the target or begin after it."""
    names = [column.name for column in numbers]
    place = names.index(target.name)
    before = [tuple(names[start:place]) for start in range(place - 2)]
    after = [tuple(names[place + 1 : end]) for end in range(place + 4, len(names) + 1)]
    return before + after


def _ages_between_dates(relation: Relation) -> list[Computed]:
    """Return columns of whole numbers that are the years between two columns of dates."""
    dates = [column.name for column in relation.columns if column_type(column).iso]
    found = []
    for target in relation.columns:
        if column_type(target).kind is not Kind.INTEGER or target.distinct < _FEWEST_VALUES:
            continue
        for names in permutations(dates, 2):
            formula = Formula(column=target.name, operation="years", columns=names)
            if _holds_on_sample(relation, formula, target):
                aged = _compared(relation, formula, target.texts())
                found += [aged] if aged else []
    return found


def _pairs(names: Sequence[str]) -> list[tuple[Operation, tuple[str, str]]]:
    commuting = [(operation, pair) for pair in combinations(names, 2) for operation in _COMMUTING]
    return commuting + [(operation, pair) for pair in permutations(names, 2) for operation in _ORDERED]


def _floats(column: Column, step: int) -> NDArray[np.float64]:
    values = np.array([float(value) if value else np.nan for value in column.values])
    return values[column.codes[::step]]


def _exactly(
    relation: Relation, target: Column, found: ColumnType, operation: Operation, names: tuple[str, ...]
) -> list[Computed]:
    """Return the best way to write a formula's results, judged on every row exactly."""
    texts = target.texts()
    trimmed = (
        found.kind is Kind.DECIMAL
        and len({len(value.partition(".")[2]) for value in target.present_values}) > 1
    )
    best: Computed | None = None
    for rounding in _ROUNDINGS:
        formula = Formula(
            column=target.name,
            operation=operation,
            columns=names,
            scale=found.scale,
            rounding=rounding,
            trimmed=trimmed,
        )
        computed = _compared(relation, formula, texts)
        if computed and (best is None or len(computed.disagreeing) < len(best.disagreeing)):
            best = computed
    return [best] if best else []


def _compared(relation: Relation, formula: Formula, texts: Sequence[str]) -> Computed | None:
    cells = formula.texts(relation)
    given = sum(1 for cell, text in zip(cells, texts, strict=True) if cell and text)
    disagreeing = [place for place, (cell, text) in enumerate(zip(cells, texts, strict=True)) if cell != text]
    if given < _FEWEST_ROWS or len(disagreeing) > (1 - _AGREEING) * given:
        return None
    return Computed(formula, tuple(disagreeing), 1 - len(disagreeing) / given)


def _computed_texts(relation: Relation) -> list[Computed]:
    """Return columns that are a part of another column, or two columns put together."""
    varied = [column for column in relation.columns if column.distinct > 1]
    texts_in: dict[int, dict[str, str]] = {}
    found = []
    for target in relation.columns:
        values = target.present_values
        if len(values) < 3 or relation.row_count - target.blanks < _FEWEST_ROWS:
            continue
        row = int(np.argmax(target.codes > 0))
        if row not in texts_in:
            texts_in[row] = {column.name: column.text(row) for column in varied}
        texts, cell = texts_in[row], target.text(row)
        for name, text in texts.items():
            if len(text) <= len(cell) or cell not in text or name == target.name:
                continue
            if relation.column(name).distinct < len(values):
                continue
            start = text.find(cell)
            formula = Formula(
                column=target.name,
                operation="part",
                columns=(name,),
                start=start,
                end=start + len(cell),
            )
            if _holds_on_sample(relation, formula, target) and (
                part := _compared(relation, formula, target.texts())
            ):
                found.append(part)
        found += _joins(relation, target, cell, texts)
    return found


def _joins(relation: Relation, target: Column, cell: str, texts: Mapping[str, str]) -> list[Computed]:
    ends = {name: text for name, text in texts.items() if 0 < len(text) < len(cell) and name != target.name}
    sample = [place for place in _sampled(relation) if target.text(place)]
    cells = [target.text(place) for place in sample]

    def agreeing(names: Iterable[str], fits: Callable[[str, str], bool]) -> list[str]:
        """Return the columns whose cells fit those of the target in each row of the sample."""
        return [
            name
            for name in names
            if all(
                fits(whole, relation.column(name).text(place))
                for whole, place in zip(cells, sample, strict=True)
            )
        ]

    first = agreeing((name for name, text in ends.items() if cell.startswith(text)), str.startswith)
    last = agreeing((name for name, text in ends.items() if cell.endswith(text)), str.endswith)
    found = []
    for one in first:
        for other in last:
            between = cell[len(ends[one]) : len(cell) - len(ends[other])]
            if one == other or len(ends[one]) + len(ends[other]) > len(cell) or len(between) > 3:
                continue
            formula = Formula(column=target.name, operation="join", columns=(one, other), between=between)
            if _holds_on_sample(relation, formula, target) and (
                whole := _compared(relation, formula, target.texts())
            ):
                found.append(whole)
    return found


def _sampled(relation: Relation) -> range:
    """Return the positions of some rows, spread over all."""
    return range(0, relation.row_count, max(1, relation.row_count // 50))


def _holds_on_sample(relation: Relation, formula: Formula, target: Column) -> bool:
    for place in _sampled(relation):
        cells = [relation.column(name).text(place) for name in formula.columns]
        if target.text(place) and all(cells) and formula.cell(cells) != target.text(place):
            return False
    return True


def find_computed(relation: Relation) -> list[Finding]:
    """Return a finding for each column that others compute."""
    return [_finding(computed, relation) for computed in computed_columns(relation)]


def _finding(computed: Computed, relation: Relation) -> Finding:
    formula = computed.formula
    rows = relation.row_numbers[list(computed.disagreeing)].tolist()
    agreeing = relation.row_count - len(rows)
    told = f"{formula.column} is {formula} in {counted(agreeing, 'row')}"
    if rows:
        place = computed.disagreeing[0]
        cells = [relation.column(name).text(place) for name in formula.columns]
        told += (
            f"; not in {counted(len(rows), 'row')}: row {rows[0]} has "
            f"{shortened(relation.column(formula.column).text(place)) or 'a blank'} "
            f"where {formula.cell(cells) or 'a blank'} is expected"
        )
    return Finding(
        topic=COMPUTED,
        columns=(formula.column,),
        told=told,
        sure=computed.sure,
        rows=tuple(rows[:5]),
        question=f"Leave {formula.column} out of the tables and compute it when it is needed?",
        answers=("leave out", "keep") if not rows else ("keep",),
        repair=None if rows else LeftOut(formula),
    )
