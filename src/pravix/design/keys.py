"""Which of several keys of a table leads, where the analyst chooses."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from pravix.design.model import Table
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement
from pravix.relation.grouping import blank_in
from pravix.wording import joined


def with_wished_keys(tables: Sequence[Table], wishes: Sequence[Arrangement]) -> tuple[Table, ...]:
    """Return the tables with the primary keys that are wished for; what refers to another key goes on doing so.

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
