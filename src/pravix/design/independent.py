"""Independent lists in one table, and each in a table of its own: fourth normal form.

Source: R. Fagin, "Multivalued dependencies and a new normal form for relational databases", ACM TODS 2(3),
1977.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from pravix.design.model import ForeignKey, Remark, Table
from pravix.design.naming import free_name, table_names
from pravix.kernels.arrays import Groups
from pravix.relation.grouping import distinct_rows, group_numbers, groups_by
from pravix.relation.relation import Relation
from pravix.wording import counted, joined

_LEAST_LISTS = 3


@dataclass(frozen=True)
class Lists:
    """Two lists of a table that have nothing to do with each other, for each value of the ``shared`` column.

    ``telling`` values have several of both.
    """

    shared: str
    one: tuple[str, ...]
    other: tuple[str, ...]
    telling: int


def independent_lists(table: Table) -> Lists | None:
    """Return two lists of which a table holds every combination for each value of one key column.

    Such a multivalued dependency X ->> Y is what fourth normal form removes. Only tables are looked at whose
    columns all belong to the primary key, of three columns or more, and only values of X with several Y and
    several Z speak for it.
    """
    key = table.primary_key
    if len(key) < 3 or set(key) != set(table.column_names) or table.made_from is not None:
        return None
    for shared in key:
        rest = [name for name in key if name != shared]
        for size in range(1, len(rest) // 2 + 1):
            for one in combinations(rest, size):
                other = tuple(name for name in rest if name not in one)
                telling = _telling(table.rows, shared, one, other)
                if telling >= _LEAST_LISTS:
                    return Lists(shared, one, other, telling)
    return None


def _telling(rows: Relation, shared: str, one: Sequence[str], other: Sequence[str]) -> int:
    """Return how many values of a column have several of both lists; 0 where some combination lacks."""
    groups = groups_by(rows, [shared])
    if rows.row_count == 0:
        return 0
    counts = [_different(rows, groups, list(part)) for part in (one, other)]
    together = np.bincount(groups)
    if not np.array_equal(together, counts[0] * counts[1]):
        return 0
    return int(((counts[0] > 1) & (counts[1] > 1)).sum())


def _different(rows: Relation, groups: Groups, names: Sequence[str]) -> NDArray[np.intp]:
    """Return how many different combinations of the columns named each group has."""
    inner = group_numbers([groups, *(rows.column(name).codes for name in names)], rows.row_count)
    first = np.unique(inner, return_index=True)[1]
    return np.bincount(groups[first], minlength=int(groups.max()) + 1)


def lists_apart(
    tables: Sequence[Table], main: Table, header: Sequence[str]
) -> tuple[tuple[Table, ...], Table, Remark] | None:
    """Return the tables with the two lists of the main one apart, the first of these tables, and the price.

    None where the main table holds no two independent lists. The second table belongs beside the first: every
    row of the one goes with every row of the other that has the same value of the shared column.
    """
    found = independent_lists(main)
    if found is None:
        return None
    taken = [table.name for table in tables if table is not main]
    keys = [(found.shared, *found.one), (found.shared, *found.other)]
    names = [free_name(one.name, taken) for one in table_names(keys, header)]
    first, second = (_list_table(main, key, name) for key, name in zip(keys, names, strict=True))
    second = replace(second, independent_of=first.name)
    made = [new for table in tables for new in ((first, second) if table is main else (table,))]
    cells = main.rows.row_count * len(main.columns)
    kept = sum(table.rows.row_count * len(table.columns) for table in (first, second))
    text = (
        f"{first.name} and {second.name} hold two independent lists, in fourth normal form as you wish: to "
        f"add one {joined(found.other)} of a {found.shared}, a row for each of its {joined(found.one)} was "
        "needed. "
        f"{counted(cells, 'cell')} become {kept:,}. The price: that one {joined(found.one)} goes with one "
        f"{joined(found.other)} only can no longer be said."
    )
    return tuple(made), first, Remark("fourth normal form", first.name, text)


def _list_table(main: Table, key: tuple[str, ...], name: str) -> Table:
    rows = distinct_rows(main.rows, key, key)
    columns = {column.name: column for column in main.columns}
    links: list[ForeignKey] = [link for link in main.foreign_keys if set(link.columns) <= set(key)]
    return replace(
        main,
        name=name,
        columns=tuple(columns[one] for one in key),
        keys=(key,),
        foreign_keys=tuple(links),
        rows=rows,
        identities=(name,),
    )


def put_together(tables: Sequence[Table]) -> tuple[Table, ...]:
    """Return tables with those that hold independent lists as one again: every row with every row."""
    beside = {table.independent_of: table for table in tables if table.independent_of}
    return tuple(
        _product(table, beside[table.name]) if table.name in beside else table
        for table in tables
        if not table.independent_of
    )


def _product(one: Table, other: Table) -> Table:
    shared = [name for name in one.column_names if name in other.column_names]
    more = [name for name in other.column_names if name not in shared]
    places: dict[tuple[int, ...], list[int]] = {}
    theirs = zip(*(other.rows.column(name).codes.tolist() for name in shared), strict=True)
    for place, key in enumerate(theirs):
        places.setdefault(key, []).append(place)
    mine = zip(*(one.rows.column(name).codes.tolist() for name in shared), strict=True)
    pairs = [(here, there) for here, key in enumerate(mine) for there in places.get(key, ())]
    left, right = np.array(pairs, dtype=np.intp).reshape(-1, 2).T
    rows = one.rows.take(left)
    columns = (*rows.columns, *other.rows.project(more).take(right).columns)
    whole = (*one.columns, *(column for column in other.columns if column.name in more))
    key = tuple(column.name for column in whole)
    return replace(one, columns=whole, keys=(key,), rows=Relation(columns, rows.row_numbers))
