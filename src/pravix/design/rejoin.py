"""The tables joined back, and compared with the rows they came from."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pravix.design.model import ForeignKey, Table
from pravix.relation.grouping import group_numbers
from pravix.relation.relation import BLANK, Codes, Column, Relation
from pravix.sources.coding import Numbering


@dataclass(frozen=True, eq=False)
class Comparison:
    """The joined rows against the file's, as multisets; see ``Proof`` for the fields."""

    joined: int
    missing_rows: tuple[int, ...]
    strange_rows: int


def found_rows(referring: Sequence[Codes], referred: Sequence[Codes]) -> NDArray[np.intp]:
    """Return, for each referring row, the position of the referred row with equal codes, or -1.

    Both sides are code arrays over the same dictionaries; the referred rows must differ. Columns that
    are blank refer to nothing. Linear in the rows of both for one column, n log n for more.
    """
    here, there = len(referring[0]) if referring else 0, len(referred[0]) if referred else 0
    if len(referring) == 1:
        (groups,), (others,) = referring, referred
    else:
        both = [np.concatenate((one, other)) for one, other in zip(referring, referred, strict=True)]
        numbers = group_numbers(both, here + there)
        groups, others = numbers[:here], numbers[here:]
    position = np.full(max(groups.max(initial=0), others.max(initial=0)) + 1, -1, dtype=np.intp)
    position[others] = np.arange(there)
    found = position[groups]
    for codes in referring:
        found[codes <= BLANK] = -1
    return found


def referred_places(table: Table, link: ForeignKey, other: Table) -> NDArray[np.intp]:
    """Return, for each row of a table, the position of the row of another that a link leads to, or -1.

    The two need not share dictionaries. n log n in the rows of both.
    """
    here = [table.rows.column(name) for name in link.columns]
    there = [other.rows.column(name) for name in link.references]
    translated = [_translated(one, into) for one, into in zip(there, here, strict=True)]
    return found_rows([column.codes for column in here], translated)


def _translated(column: Column, into: Column) -> Codes:
    """Return the codes of a column in the dictionary of another; what it lacks gets codes after its own."""
    if column.values is into.values:
        return column.codes
    codes = np.arange(len(into.values), len(into.values) + len(column.values), dtype=np.int32)
    here, there = Numbering((column, into)).common(column, into)
    codes[column.present_codes[here]] = into.present_codes[there]
    codes[BLANK] = BLANK
    return codes[column.codes]


def joined_back(tables: Sequence[Table], main: Table) -> dict[str, Codes]:
    """Return the codes of every column after joining all tables to the main one, by column name.

    Each table is looked up by the first of its keys that is known. A table without a key column holds
    one row, which goes to all. Where a table restates a column that is known already and
    differs, the row's cell becomes -1, a code that no file has.
    """
    known = {column.name: column.codes for column in main.rows.columns}
    waiting = [table for table in tables if table is not main]
    while waiting:
        ready = [(table, key) for table in waiting for key in [_known_key(table, known)] if key is not None]
        if not ready:
            break
        for table, key in ready:
            _look_up(table, key, known, main.rows.row_count)
            waiting.remove(table)
    return known


def _known_key(table: Table, known: Container[str]) -> tuple[str, ...] | None:
    return next((key for key in table.keys if all(name in known for name in key)), None)


def _look_up(table: Table, key: tuple[str, ...], known: dict[str, Codes], row_count: int) -> None:
    if key:
        found = found_rows([known[name] for name in key], [table.rows.column(name).codes for name in key])
    else:
        found = np.zeros(row_count, dtype=np.intp)
    for name in table.column_names:
        if name not in key:
            codes = np.append(table.rows.column(name).codes, np.int32(BLANK))[found]
            known[name] = np.where(known[name] == codes, codes, -1) if name in known else codes


def compared(relation: Relation, joined: dict[str, Codes]) -> Comparison:
    """Compare joined columns with a relation's rows as multisets.

    Rows that are equal one by one, in their order, are so as multisets: then nothing is sorted. Else a row of
    the file is missing as often as it occurs there more often than in the join; its last
    occurrences are named.
    """
    count = len(next(iter(joined.values()))) if joined else 0
    if set(relation.names) - set(joined):
        return Comparison(count, tuple(relation.row_numbers.tolist()), count)
    if count == relation.row_count and all(
        np.array_equal(column.codes, joined[column.name]) for column in relation.columns
    ):
        return Comparison(count, (), 0)
    both = [np.concatenate((column.codes, joined[column.name])) for column in relation.columns]
    groups = group_numbers([codes + 1 for codes in both], relation.row_count + count)
    here, there = groups[: relation.row_count], groups[relation.row_count :]
    size = int(groups.max()) + 1
    surplus = np.bincount(there, minlength=size) - np.bincount(here, minlength=size)
    order = np.argsort(here, kind="stable")
    starts = np.searchsorted(here[order], np.arange(size))
    occurrence = np.empty(relation.row_count, dtype=np.intp)
    occurrence[order] = np.arange(relation.row_count) - starts[here[order]]
    kept = np.bincount(here, minlength=size) + np.minimum(surplus, 0)
    missing = relation.row_numbers[occurrence >= kept[here]]
    return Comparison(count, tuple(missing.tolist()), int(surplus[surplus > 0].sum()))
