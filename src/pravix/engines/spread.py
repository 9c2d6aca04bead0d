"""What all rows say of each column, and rows that show what the drawn ones do not: blanks, values, types.

Every value of a column with few of them stands in some row of the sample then, and of the others those that
another type would be found for: so the type that the sample shows is that of all rows, as far as a pattern
tells.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from sqlalchemy import Numeric, and_, cast, func, not_, or_, select

from pravix.engines.adaptor import Adaptor
from pravix.engines.flat import Flat
from pravix.engines.sample import Sample
from pravix.relation.relation import Column, Spread
from pravix.relation.types import ColumnType, Kind, column_type

_VALUES = 1_000
_MISFITS = 20
_ROUNDS = 4
_AGAIN = 50
_WIDE = 38
_FEW = 0.25
"""Where at most this share of the rows drawn have a value of their own, one pass counts the values and finds
the most frequent: for that the engine holds all of them at once."""

_PATTERNS = {
    Kind.INTEGER: "^-?(0|[1-9][0-9]{0,17})$",
    Kind.TIME: "^[0-9]{1,3}:[0-5][0-9](:[0-5][0-9])?$",
    Kind.MOMENT: "^[0-9]{4}-[01][0-9]-[0-3][0-9][ T][0-2][0-9]:[0-5][0-9](:[0-5][0-9]([.][0-9]+)?)?$",
}
_ISO_DATE = "^[0-9]{4}-[01][0-9]-[0-3][0-9]$"
_OTHER_DATE = "^[0-9]{1,2}[./-][0-9]{1,2}[./-][0-9]{4}$"
_CODE = "^[A-Z0-9]+([-/. ]?[A-Z0-9]+)*$"
_MARKS = {"A": "[A-Z]", "a": "[a-z]", "9": "[0-9]"}


def spreads(sample: Sample) -> dict[str, Spread]:
    """Return how the cells of every column are spread over all rows, and tell the flat table.

    One pass over all rows for a column whose values come again, as far as the sample tells, and two for
    others.
    """
    flat = sample.flat
    few = max(_VALUES, _FEW * len(sample))
    found = {name: _spread(flat, name, sample.different(name) <= few) for name in flat.names}
    flat.full.update(name for name, one in found.items() if not one.blanks)
    return found


def _spread(flat: Flat, name: str, few: bool) -> Spread:
    if not few and flat.size([name]) == flat.row_count:
        filled = flat.filled([name])
        return Spread(filled, filled, flat.row_count - filled)
    distinct, frequent = flat.counted_values(name, _VALUES)
    complete = distinct <= len(frequent)
    blanks = dict(frequent).get("", 0) if complete else flat.row_count - flat.filled([name])
    told = tuple((value, times) for value, times in frequent if value)
    return Spread(distinct - (blanks > 0), flat.row_count - blanks, blanks, told)


def complete_types(sample: Sample, spread: dict[str, Spread]) -> None:
    """Add rows to a sample that show a blank, a value or a type which it does not show."""
    flat = sample.flat
    for name, one in spread.items():
        column = sample.column(name)
        if one.blanks and not column.blanks:
            sample.add(flat.rows_where(not_(flat.is_filled(name)), 1))
        if len(one.frequent) == one.distinct:
            _add_values(sample, name, column, [value for value, _ in one.frequent])
        else:
            _add_misfits(sample, name, one)


def _add_values(sample: Sample, name: str, column: Column, values: list[str]) -> None:
    known = set(column.present_values)
    missing = [value for value in values if value not in known]
    cell = sample.flat.place.adaptor.as_text(sample.flat.cells[name])
    while missing:
        found = sample.flat.rows_where(cell.in_(missing), len(missing))
        before = len(sample)
        sample.add(found)
        known |= set(sample.relation(before).column(name).present_values)
        left = [value for value in missing if value not in known]
        if len(left) == len(missing):
            break
        missing = left


def _add_misfits(sample: Sample, name: str, spread: Spread) -> None:
    """Add rows whose cells are of another type, and the least and the greatest number.

    Where a cell mostly comes again, each is looked at once: with a limit that is never met, so that no engine
    looks at them before.
    """
    flat = sample.flat
    as_text = flat.place.adaptor.as_text
    again = spread.distinct * _AGAIN <= flat.row_count
    cell, source = flat.cells[name], flat.source
    if again:
        different = select(cell.label("v")).select_from(source).distinct()
        source = different.limit(flat.row_count).subquery()
        cell = source.c.v
    looked_at = as_text(cell)
    for _ in range(_ROUNDS):
        column = sample.column(name)
        conditions = list(_fits(flat.place.adaptor, looked_at, column_type(column)))
        if not conditions:
            return
        misfit = and_(looked_at != "", or_(*map(not_, conditions)))
        before = len(sample)
        if again:
            found = flat.place.rows(select(looked_at).where(misfit).limit(_MISFITS), _MISFITS)
            _add_values(sample, name, column, [str(value) for (value,) in found])
        else:
            sample.add(flat.rows_where(misfit, _MISFITS))
        if len(sample) == before:
            break
    _add_ends(sample, name, looked_at, source)


def _fits(adaptor: Adaptor, cell: Any, found: ColumnType) -> Iterator[Any]:
    """Yield the conditions that the text of a cell fits a type, as far as a pattern tells."""
    pattern = _PATTERNS.get(found.kind)
    if found.kind is Kind.DECIMAL:
        whole = max(found.digits - found.scale, 1)
        pattern = f"^-?(0|[1-9][0-9]{{0,{whole - 1}}})([.][0-9]{{1,{max(found.scale, 1)}}})?$"
    elif found.kind is Kind.DATE:
        pattern = _ISO_DATE if found.iso else _OTHER_DATE
    elif found.stored:
        pattern = "^" + found.kind.stored_form.replace("9", "[0-9]") + "$"
    elif found.kind is Kind.CODE:
        pattern = "^" + "".join(_MARKS.get(mark, re.escape(mark)) for mark in found.pattern) + "$"
        pattern = pattern if found.pattern else _CODE
    fit = adaptor.matches(cell, pattern) if pattern else None
    if fit is not None:
        yield fit
    if found.kind is not Kind.DECIMAL:
        yield adaptor.length(cell) <= found.length


def _add_ends(sample: Sample, name: str, looked_at: Any, source: Any) -> None:
    """Add a row with the least and one with the greatest number, of the texts that are looked at."""
    flat = sample.flat
    column = sample.column(name)
    kind = column_type(column)
    if kind.kind not in (Kind.INTEGER, Kind.DECIMAL):
        return

    def number(text: Any) -> Any:
        return cast(func.nullif(text, ""), Numeric(_WIDE, kind.scale))

    of_rows = number(flat.place.adaptor.as_text(flat.cells[name]))
    ends = select(func.min(number(looked_at)), func.max(number(looked_at))).select_from(source)
    for end in flat.place.row(ends):
        sample.add(flat.rows_where(of_rows == end, 1))
