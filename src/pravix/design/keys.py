"""Further keys of tables, how much speaks for them, and which leads where the analyst chooses."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from pravix.design.model import Remark, Table
from pravix.errors import InputError
from pravix.judgement.standards import checked
from pravix.ledger.wishes import Arrangement
from pravix.relation.grouping import blank_in, is_unique
from pravix.relation.lexicon import REGISTERED_WORDS
from pravix.relation.relation import Column
from pravix.relation.words import words
from pravix.wording import counted, joined

_FEWEST = 5
_FEW = 20


def with_world_keys(tables: Sequence[Table]) -> tuple[Table, ...]:
    """Return the tables with one more key for each column that an authority gives out once for each thing.

    Such numbers are told by their check digits or by what their column is called; they must be filled and
    differ in every row. Linear in the cells.
    """
    return tuple(_with_world_keys(table) for table in tables)


def _with_world_keys(table: Table) -> Table:
    known = {name for key in table.keys if len(key) == 1 for name in key}
    found = [
        (column.name,)
        for column in table.rows.columns
        if column.name not in known and table.rows.row_count >= _FEWEST and _of_the_world(column)
        if is_unique(table.rows, [column.name])
    ]
    return replace(table, keys=(*table.keys, *found)) if found and table.primary_key else table


def _of_the_world(column: Column) -> bool:
    return checked(column.present_values) or bool(set(words(column.name)) & REGISTERED_WORDS)


def few_told(tables: Sequence[Table]) -> list[Remark]:
    """Say which further keys rest on a few rows, in one remark."""
    few = [
        (table, key)
        for table in tables
        if table.rows.row_count < _FEW and not table.made_from
        for key in table.keys[1:]
    ]
    if not few:
        return []
    told = [f"{joined(key)} of {table.name} ({counted(table.rows.row_count, 'row')})" for table, key in few]
    first, unique = few[0]
    flat = {own: name for name, own in reversed(first.flat_names.items())}
    rule = f"{', '.join(flat.get(name, name) for name in unique)} -> {flat[first.primary_key[0]]}"
    text = (
        f"few rows speak for it that these differ in every row: {joined(told)}. Each is proposed as UNIQUE; "
        f'where it need not be so, say it: pravix decide SOURCE --reject "{rule}".'
    )
    return [Remark("few rows", first.identities[0], text)]


def with_wished_keys(tables: Sequence[Table], wishes: Sequence[Arrangement]) -> tuple[Table, ...]:
    """Return the tables with the primary keys that are wished for; references to other keys stay.

    Raises InputError, with its place, where columns are no key of a table, or are blank in some row.
    """
    found = list(tables)
    for wish in wishes:
        wanted, told = set(wish.columns), joined(wish.columns)
        place = next((n for n, one in enumerate(found) if any(set(key) == wanted for key in one.keys)), None)
        if place is None:
            raise InputError(
                f"{wish.place or 'key'}: {told} is a key of no table",
                f'Where it is one, say so: pravix decide SOURCE --accept "{", ".join(wish.columns)} -> ..."',
            )
        table = found[place]
        key = next(key for key in table.keys if set(key) == wanted)
        if blank_in(table.rows, key).any():
            raise InputError(f"{wish.place or 'key'}: {told} is blank in some rows of {table.name}")
        found[place] = replace(table, keys=(key, *(other for other in table.keys if other != key)))
    return tuple(found)
