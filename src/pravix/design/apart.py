"""Columns set apart: a one-to-one table beside the one that they describe, for rows that have them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from pravix.design.model import ForeignKey, Table
from pravix.design.naming import free_name
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement
from pravix.relation.relation import BLANK, Relation
from pravix.theory.dependency import in_order
from pravix.theory.rule_set import RuleSet
from pravix.wording import joined

_BLANK_SHARE = 0.25
_LEAST_FILLED = 2


def with_apart(tables: Sequence[Table], wishes: Sequence[Arrangement], rules: RuleSet) -> tuple[Table, ...]:
    """Return the tables with each wish's columns in a table of their own, right after the one they leave.

    The new table has a row for each row in which any of the columns is filled. Raises InputError where
    the columns live in several tables or belong to a key that others need.
    """
    found = list(tables)
    for wish in wishes:
        place = _place(found, wish)
        name = free_name(wish.name or _name(found[place], wish.columns), [table.name for table in found])
        found[place : place + 1] = _parted(found[place], wish.columns, name, rules)
    return tuple(found)


def _place(tables: Sequence[Table], wish: Arrangement) -> int:
    """Return the place of the one table that the columns describe."""
    moved, told = set(wish.columns), joined(wish.columns)
    where = wish.place or "apart"
    homes = [place for place, table in enumerate(tables) if moved <= set(table.described)]
    if not homes:
        raise InputError(
            f"{where}: no table has {told} outside its primary key",
            "Set apart columns of one table, and none of its key.",
        )
    table = tables[homes[0]]
    if any(moved & set(key) and not set(key) <= moved for key in table.keys[1:]):
        raise InputError(f"{where}: {told} is a part of a key of {table.name}", "Set the whole key apart.")
    for link in table.foreign_keys:
        if moved & set(link.columns) and not set(link.columns) <= moved | set(table.primary_key):
            by = joined(link.columns)
            raise InputError(
                f"{where}: {table.name} refers to {link.table} by {by}", "Set all of them apart."
            )
    for link in (link for other in tables for link in other.foreign_keys if link.table == table.name):
        if moved & set(link.references):
            raise InputError(f"{where}: other tables refer to {table.name} by {joined(link.references)}")
    return homes[0]


def _name(table: Table, columns: Sequence[str]) -> str:
    return "_".join([table.name, *columns[:1]])


def _parted(table: Table, columns: Sequence[str], name: str, rules: RuleSet) -> list[Table]:
    moved = in_order(columns, table.column_names)
    filled = np.zeros(table.rows.row_count, dtype=np.bool_)
    for column in moved:
        filled |= table.rows.column(column).codes != BLANK
    rows = table.rows.project([*table.primary_key, *moved]).take(np.flatnonzero(filled))
    back = ForeignKey(table.primary_key, table.name, table.primary_key, False, True, "", "cascade", "cascade")
    kept = [column for column in table.columns if column.name not in moved]
    going = [column for column in table.columns if column.name in rows.names]
    return [
        replace(
            table,
            columns=tuple(kept),
            keys=tuple(key for key in table.keys if not set(key) & set(moved)),
            foreign_keys=tuple(link for link in table.foreign_keys if not set(link.columns) & set(moved)),
            form=rules.form([column.name for column in kept]).form,
            rows=table.rows.project([column.name for column in kept]),
        ),
        replace(
            table,
            name=name,
            identities=(name,),
            columns=tuple(
                replace(column, nullable=rows.column(column.name).blanks > 0)
                for column in sorted(going, key=lambda column: rows.names.index(column.name))
            ),
            keys=(table.primary_key, *(key for key in table.keys if set(key) <= set(moved))),
            foreign_keys=(
                back,
                *(link for link in table.foreign_keys if _goes(link, moved, rows.names)),
            ),
            form=rules.form(rows.names).form,
            rows=rows,
            apart_from=table.name,
        ),
    ]


def _goes(link: ForeignKey, moved: Sequence[str], inside: Sequence[str]) -> bool:
    """Return whether a reference goes along with the columns that are set apart."""
    return bool(set(link.columns) & set(moved)) and set(link.columns) <= set(inside)


@dataclass(frozen=True)
class OptionalGroup:
    """Columns of a table that are always filled together or blank together; ``filled`` rows of ``rows``."""

    table: str
    columns: tuple[str, ...]
    filled: int
    rows: int


def optional_groups(tables: Sequence[Table]) -> list[OptionalGroup]:
    """Return the groups of at least two columns that are blank in the same rows, many of them.

    A quarter of the rows must be blank, and two filled. Linear in the cells.
    """
    found = []
    for table in tables:
        if table.made_from is not None:
            continue
        groups: dict[bytes, list[str]] = {}
        for name in table.described:
            blank = table.rows.column(name).codes == BLANK
            if blank.sum() >= _BLANK_SHARE * table.rows.row_count and (~blank).sum() >= _LEAST_FILLED:
                groups.setdefault(np.packbits(blank).tobytes(), []).append(name)
        found += [_group(table.rows, table.name, names) for names in groups.values() if len(names) > 1]
    return found


def _group(rows: Relation, table: str, names: Sequence[str]) -> OptionalGroup:
    filled = rows.row_count - rows.column(names[0]).blanks
    return OptionalGroup(table, tuple(names), filled, rows.row_count)
