"""The types that the columns of tables get: with room for more than the sample shows, or as the analyst says.

A text gets half as much room again, up to the next of 10, 20, 50, 100, 200, 500 and so on; a number two more
digits before the point, a whole number one more. A code that has one form everywhere keeps its length.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import replace
from itertools import count

from pravix.design.model import Table, TableColumn
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.relation.types import SMALL_DIGITS, ColumnType, Kind, misfit
from pravix.wording import shortened

MOST_IN_A_KEY = 500
"""So many characters of texts together can be a key in every database."""

_LONGEST = 4000
_FOR_BLANKS = 50
_HALF_AGAIN = 1.5
_MORE_DIGITS = 2
_HELD_EXACTLY = (15, 38)
"""So many digits databases hold exactly: room never goes beyond one of them."""

_SAID = re.compile(r"(?P<kind>[a-z]+)(?:\((?P<first>\d{1,4})(?:,\s?(?P<second>\d{1,2}))?\))?")
_PLAIN = {
    "integer": ColumnType(Kind.INTEGER, digits=SMALL_DIGITS),
    "bigint": ColumnType(Kind.INTEGER, digits=18),
    **{
        word: ColumnType(kind, length=len(kind.stored_form), pattern=kind.stored_form)
        for word, kind in (("date", Kind.DATE), ("timestamp", Kind.MOMENT), ("time", Kind.TIME))
    },
}
_KINDS = "integer, bigint, decimal(8,2), date, timestamp, time, text(40)"


def with_room(tables: Sequence[Table], wishes: Wishes) -> tuple[Table, ...]:
    """Return the tables with types that have room for more than the rows here; what is said stays so."""

    def made(table: Table, one: TableColumn) -> TableColumn:
        said = _wish(table, one, wishes) is not None
        return one if said else replace(one, type=roomy(one.type, _keyed_with(table, one)))

    return tuple(_with_columns(table, made) for table in tables)


def roomy(found: ColumnType, keyed: int = 0) -> ColumnType:
    """Return a type with room for more than it was found from.

    A text that is ``keyed``, in keys of up to so many columns, gets no more than its share of these.
    """
    if found.kind is Kind.INTEGER:
        return replace(found, digits=found.digits + 1)
    if found.kind is Kind.DECIMAL:
        most = next((digits for digits in _HELD_EXACTLY if found.digits <= digits), found.digits)
        return replace(found, digits=min(found.digits + _MORE_DIGITS, most))
    if found.kind is Kind.EMPTY:
        return replace(found, length=_FOR_BLANKS)
    if found.kind is Kind.YES_NO or (found.kind is Kind.CODE and found.pattern) or found.stored:
        return found
    free = found.kind in (Kind.TEXT, Kind.CODE)
    length = _next_length(int(found.length * _HALF_AGAIN + 0.5) if free else found.length)
    most = MOST_IN_A_KEY // keyed if keyed else _LONGEST
    return replace(found, length=max(found.length, min(length, most)))


def _next_length(least: int) -> int:
    """Return the next of 10, 20, 50, 100, 200, 500 and so on."""
    steps: Iterator[int] = (step * int(10**power) for power in count(1) for step in (1, 2, 5))
    return next(step for step in steps if step >= least)


def said_type(told: str) -> ColumnType:
    """Return the type that a text says, such as decimal(8,2). Raises InputError, with the possible ones."""
    found = _SAID.fullmatch(told.strip().lower())
    if found is not None:
        kind, first, second = found["kind"], found["first"], found["second"]
        if kind in _PLAIN and first is None:
            return _PLAIN[kind]
        if kind == "text" and first is not None and second is None and int(first) > 0:
            return ColumnType(Kind.TEXT, length=int(first))
        if kind == "decimal" and second is not None and int(second) <= int(first) <= max(_HELD_EXACTLY):
            return ColumnType(Kind.DECIMAL, digits=int(first), scale=int(second))
    raise InputError(f"{shortened(told)} is no type", f"Say one of {_KINDS}.")


def with_said_types(
    tables: Sequence[Table], wishes: Wishes, computed_from: Collection[str]
) -> tuple[Table, ...]:
    """Return the tables with the types that the analyst says.

    Raises InputError, with its place, where a cell of the column does not fit, or where others are
    ``computed_from`` the column and it would be no number, or no date, any more.
    """

    def made(table: Table, one: TableColumn) -> TableColumn:
        wish = _wish(table, one, wishes)
        if wish is None:
            return one
        try:
            wanted = said_type(wish.type)
        except InputError as error:
            raise InputError(f"{wish.place or 'type'}: {error}", error.hint) from None
        other = wanted.kind.numeric != one.type.kind.numeric or wanted.stored != one.type.stored
        if other and set(wish.columns) & set(computed_from):
            told = f"{wish.columns[0]} must stay {one.type}, as others are computed from it"
            raise InputError(f"{wish.place or 'type'}: {told}", "Say a type of the same kind.")
        _check_fits(table.rows, one.name, wish, wanted)
        return replace(one, type=wanted)

    return tuple(_with_columns(table, made) for table in tables)


def _with_columns(table: Table, made: Callable[[Table, TableColumn], TableColumn]) -> Table:
    return replace(table, columns=tuple(made(table, one) for one in table.columns))


def _wish(table: Table, column: TableColumn, wishes: Wishes) -> Arrangement | None:
    """Return the wish about the type of a column, by any of the flat columns that it stands for."""
    flat = {name for name, own in table.flat_names.items() if own == column.name}
    return next((wish for wish in reversed(wishes.of("type")) if flat & set(wish.columns)), None)


def _keyed_with(table: Table, column: TableColumn) -> int:
    """Return how many columns the longest key or reference with a column has; 0 where it is in none."""
    linked = (link.columns for link in table.foreign_keys)
    return max((len(names) for names in (*table.keys, *linked) if column.name in names), default=0)


def _check_fits(rows: Relation, name: str, wish: Arrangement, wanted: ColumnType) -> None:
    column = rows.column(name)
    for code, value in enumerate(column.values):
        wrong = misfit(wanted, value) if value and column.counts[code] else None
        if wrong is not None:
            row = int(rows.row_numbers[int((column.codes == code).argmax())])
            told = f"{wish.columns[0]} is {shortened(value)} in row {row}"
            raise InputError(
                f"{wish.place or 'type'}: {told}, which does not fit {wish.type}: {wrong.value}",
                "Say another type, or correct the row.",
            )
