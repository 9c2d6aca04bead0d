"""Checks that the rows suggest for columns: allowed values, range, pattern, unique, default."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from pravix.design.model import Check, Table, TableColumn
from pravix.ledger.wishes import Wishes
from pravix.relation.relation import Column
from pravix.relation.types import Kind
from pravix.wording import counted, joined, shortened

MOST_VALUES = 6
"""A value list has at most so many values, each of one word ..."""

ROWS_EACH = 10
"""... and on average at least so many rows for each of them."""

_LONGEST_VALUE = 40
_LISTED = (Kind.TEXT, Kind.CODE, Kind.YES_NO)
_DEFAULT_SHARE = 0.9
_DEFAULT_ROWS = 20


def with_checks(tables: Sequence[Table], wishes: Wishes) -> tuple[Table, ...]:
    """Return the tables with the checks that their rows suggest.

    A column with a handful of values is checked against them, unless the ledger wishes otherwise; the other
    checks are made where the ledger wishes for them. Linear in the cells.
    """
    return tuple(replace(table, checks=_checks(table, wishes)) for table in tables)


def _checks(table: Table, wishes: Wishes) -> tuple[Check, ...]:
    referring = {name for link in table.foreign_keys for name in link.columns}
    keyed = {name for key in table.keys if len(key) == 1 for name in key}
    found: list[Check] = []
    for column in table.columns:
        if column.name in referring or column.name == table.surrogate:
            continue
        wished = {wish.check for wish in wishes.of("check") if wish.columns[0] in _flat(table, column)}
        listed = any(wish.columns[0] in _flat(table, column) for wish in wishes.of("list"))
        suggested = _suggested(column, table.rows.column(column.name), column.name in keyed, listed)
        found += [replace(check, made=check.kind == "values" or check.kind in wished) for check in suggested]
    return tuple(found)


def _flat(table: Table, column: TableColumn) -> list[str]:
    """Return the flat columns that a column stands for, in every role."""
    return [flat for flat, name in table.flat_names.items() if name == column.name]


def _suggested(column: TableColumn, cells: Column, keyed: bool, listed: bool) -> list[Check]:
    rows = len(cells.codes) - cells.blanks
    kind, values = column.type.kind, cells.present_values
    found = []
    few = 1 < len(values) <= MOST_VALUES and rows >= ROWS_EACH * len(values)
    few = few and all(len(value.split()) == 1 for value in values)
    if values and kind in _LISTED and not keyed and (few or listed) and column.type.length <= _LONGEST_VALUE:
        found.append(Check(column.name, "values", tuple(sorted(values)), rows))
    if not keyed and values and (kind in (Kind.INTEGER, Kind.DECIMAL) or column.type.stored):
        least, greatest = _ends(kind, values)
        found.append(Check(column.name, "range", (least, greatest), rows))
    if kind is Kind.CODE and column.type.pattern:
        found.append(Check(column.name, "pattern", (column.type.pattern,), rows))
    if not keyed and not column.nullable and rows > 1 and len(values) == rows:
        found.append(Check(column.name, "unique", (), rows))
    if len(values) > 1 and rows >= _DEFAULT_ROWS:
        code = int(cells.counts[1:].argmax()) + 1
        most = int(cells.counts[code])
        if most >= _DEFAULT_SHARE * len(cells.codes):
            found.append(Check(column.name, "default", (cells.values[code],), rows, rows - most))
    return found


def _ends(kind: Kind, values: Sequence[str]) -> tuple[str, str]:
    if kind in (Kind.INTEGER, Kind.DECIMAL):
        return min(values, key=float), max(values, key=float)
    return min(values), max(values)


def check_told(check: Check) -> str:
    """Return what a check demands and what it rests on, in one line."""
    on = f"({counted(check.rows, 'row')})"
    values = [shortened(value) for value in check.values]
    if check.kind == "values":
        return f"{check.column} is {joined(values, 'or')} {on}"
    if check.kind == "range":
        return f"{check.column} lies between {values[0]} and {values[1]} {on}"
    if check.kind == "pattern":
        return f"{check.column} is written {values[0]} {on}"
    if check.kind == "unique":
        return f"{check.column} differs in every row {on}"
    on = f"(all but {check.exceptions} of {counted(check.rows, 'row')})"
    return f"{check.column} is {values[0]} unless said otherwise {on}"
