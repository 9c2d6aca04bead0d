"""Columns of the file that no table holds, put together again from the cells of others."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from decimal import ROUND_HALF_EVEN
from fractions import Fraction
from functools import reduce

from pravix.first_normal_form.compounds import RebuiltCompound
from pravix.first_normal_form.flags import RebuiltFlag
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.lists import RebuiltList
from pravix.first_normal_form.moments import RebuiltMomentPart

WithinRow = RebuiltFlag | RebuiltCompound | RebuiltMomentPart | Formula
"""What is put together from other cells of the same row."""

Cells = Sequence[str]
"""The cells of a column in some rows; the empty text is a blank."""


def rebuilt(entry: WithinRow, needed: Sequence[Cells]) -> Cells:
    """Return the cells of a column from those of the columns that it needs."""
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


def listed(entry: RebuiltList, facts: Sequence[str]) -> str:
    """Return the items of a cell as it was written."""
    text = ""
    for place, fact in enumerate(facts):
        before = entry.last if entry.last and place == len(facts) - 1 else entry.separator
        text += (before if place else "") + fact
    return text


def _computed(entry: Formula, columns: Sequence[Cells]) -> Cells:
    known: dict[tuple[str, ...], str] = {}
    cells = []
    for key in zip(*columns, strict=True):
        if key not in known:
            known[key] = _result(entry, _operands(entry, key))
        cells.append(known[key])
    return cells


def _operands(entry: Formula, cells: Sequence[str]) -> list[str]:
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
