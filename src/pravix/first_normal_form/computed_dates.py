"""Columns that dates compute: years and days between them, a date some days later, ages on one day."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from itertools import permutations

import numpy as np

from pravix.first_normal_form.agreement import FEWEST_ROWS, Computed, compared, holds_on_sample
from pravix.first_normal_form.formula import Formula, Operation
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import Kind, column_type

_FEWEST_VALUES = 5
_MOST_DATES = 12
_MOST_DAYS = 40_000


def computed_dates(relation: Relation) -> list[Computed]:
    """Return the columns that dates compute. Quadratic in the dates and years, for each column."""
    types = {column.name: column_type(column) for column in relation.columns}
    dates = [name for name, found in types.items() if found.iso][:_MOST_DATES]
    if not dates or relation.row_count < FEWEST_ROWS:
        return []
    years = [
        name
        for name, found in types.items()
        if found.kind is Kind.INTEGER and _all_years(relation.column(name))
    ]
    found: list[Formula] = []
    for target in relation.columns:
        if target.distinct < _FEWEST_VALUES:
            continue
        if types[target.name].kind is Kind.INTEGER:
            found += _numbers(target.name, dates, [name for name in years if name != target.name])
            found += _on_one_day(relation, target, dates)
        elif types[target.name].iso:
            whole = [name for name, one in types.items() if one.kind is Kind.INTEGER and one.digits <= 4]
            found += [_formula(target.name, "after", one, other) for one in dates for other in whole]
            found += _fixed_days(relation, target, dates)
    checked = []
    for formula in found:
        target = relation.column(formula.column)
        if target.name not in formula.columns and holds_on_sample(relation, formula, target):
            one = compared(relation, formula, target)
            checked += [one] if one else []
    return checked


def _formula(column: str, operation: Operation, one: str, other: str) -> Formula:
    return Formula(column=column, operation=operation, columns=(one, other))


def _numbers(target: str, dates: list[str], years: list[str]) -> Iterator[Formula]:
    for one, other in permutations(dates, 2):
        yield _formula(target, "years", one, other)
        yield _formula(target, "days", one, other)
    for one, other in permutations([*dates, *years], 2):
        yield _formula(target, "year", one, other)


def _fixed_days(relation: Relation, target: Column, dates: list[str]) -> Iterator[Formula]:
    """Yield the formulas by which a date comes as many days after another as in the first row with both."""
    for name in dates:
        other = relation.column(name)
        both = np.flatnonzero((target.codes != BLANK) & (other.codes != BLANK))
        if len(both) == 0:
            continue
        days = (date.fromisoformat(target.text(both[0])) - date.fromisoformat(other.text(both[0]))).days
        if 0 < days <= _MOST_DAYS:
            yield Formula(column=target.name, operation="after", columns=(name,), constant=str(days))


def _all_years(column: Column) -> bool:
    values = column.present_values
    return bool(values) and all(len(value) == 4 and value[:2] in ("17", "18", "19", "20") for value in values)


def _on_one_day(relation: Relation, target: Column, dates: list[str]) -> Iterator[Formula]:
    """Yield the formula by which a column is an age on one day that is the same for all rows."""
    for name in dates:
        born = relation.column(name)
        first, last = date.min, date.max
        for place in range(relation.row_count):
            cell, age = born.text(place), target.text(place)
            if cell and age:
                ends = _birthdays(cell, int(age))
                if ends is None:
                    break
                first, last = max(first, ends[0]), min(last, ends[1])
                if first > last:
                    break
        else:
            if date.min < first <= last:
                yield Formula(
                    column=target.name, operation="years", columns=(name,), constant=last.isoformat()
                )


def _birthdays(born: str, age: int) -> tuple[date, date] | None:
    """Return the first and the last day on which somebody has an age; None where that cannot be."""
    try:
        day = date.fromisoformat(born)
        if not 0 <= age <= 150:
            return None
        first, last = day.year + age, day.year + age + 1
        return _on(day, first), date.fromordinal(_on(day, last).toordinal() - 1)
    except (ValueError, OverflowError):
        return None


def _on(day: date, year: int) -> date:
    try:
        return day.replace(year=year)
    except ValueError:
        return date(year, 3, 1)
