"""Child tables: each list in a cell and each numbered family gets a table beside the one it lives in.

Its rows are designed as the file's own are: what fixes facts of a part gets a table of its own.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from pravix.design.model import ForeignKey, Table, TableColumn
from pravix.design.naming import free_name
from pravix.design.restyle import renamed
from pravix.first_normal_form.parts import POSITION, PartNames
from pravix.first_normal_form.repair import Bundle


def names_beside(
    made: Sequence[Table], child: Table, home: Table, bundle: Bundle, taken: Sequence[str]
) -> dict[str, str]:
    """Return the names of the tables of parts, by what they were called among themselves: none is taken."""
    names = {child.name: free_name(f"{home.name}_{bundle.column}", taken)}
    for table in made:
        if table is not child:
            names[table.name] = free_name(table.name, [*taken, *names.values()])
    return names


def placed(
    made: Sequence[Table], child: Table, home: Table, part: PartNames, names: Mapping[str, str]
) -> tuple[Table, ...]:
    """Return the tables of parts under their names; the ``child`` belongs to its home.

    A position is called that, whatever it is called among the columns of all parts.
    """
    columns = {table.name: {name: name for name in table.column_names} for table in made}
    for called in columns.values():
        if part.position in called and POSITION not in called:
            called[part.position] = POSITION
    sources = {column.name: column.source for column in home.columns}
    sources |= dict(zip(part.facts, part.bundle.first_sources, strict=True)) | {part.position: None}
    found = []
    for table, old in zip(renamed(made, names, columns), made, strict=True):
        own = tuple(_column(column, sources) for column in table.columns)
        table = replace(table, columns=own, part_of=part.bundle.column, identities=(table.name,))
        if old is child:
            to_home = (_part_of(home),) if home.primary_key else ()
            table = replace(table, made_from=part.bundle, foreign_keys=(*to_home, *table.foreign_keys))
        found.append(table)
    return tuple(found)


def without_bundles(tables: Sequence[Table], bundles: Sequence[Bundle]) -> tuple[Table, ...]:
    """Return the tables without the columns that have tables of their own now."""
    left_out = {bundle.column for bundle in bundles}
    return tuple(
        _without(table, left_out) if not table.part_of and left_out & set(table.column_names) else table
        for table in tables
    )


def _without(table: Table, left_out: set[str]) -> Table:
    kept = [column for column in table.columns if column.name not in left_out]
    return replace(table, columns=tuple(kept), rows=table.rows.project([column.name for column in kept]))


def _part_of(table: Table) -> ForeignKey:
    """Return the reference of a child to its parent: the parts go when the whole goes."""
    key = table.primary_key
    return ForeignKey(
        key, table.name, key, optional=False, single=False, on_delete="cascade", on_update="cascade"
    )


def _column(column: TableColumn, sources: Mapping[str, str | None]) -> TableColumn:
    return replace(column, source=sources.get(column.stands_for or column.name, column.source))


def broken_children(home: Table, rows: Sequence[tuple[str, ...]], bundle: Bundle) -> tuple[int, ...]:
    """Return the row number of each cell that its parts do not give back exactly.

    ``rows`` are the key of the home, the position and the facts of each part, joined back from its tables.
    """
    parts: dict[tuple[str, ...], list[tuple[int, tuple[str, ...]]]] = {}
    width = len(home.primary_key)
    for row in rows:
        parts.setdefault(row[:width], []).append((int(row[width]), row[width + 1 :]))
    keys = home.rows.project(home.primary_key).rows() or [()] * home.rows.row_count
    cells = home.rows.column(bundle.column).texts()
    numbers = home.rows.row_numbers.tolist()
    return tuple(
        number
        for key, cell, number in zip(keys, cells, numbers, strict=True)
        if bundle.cell(parts.get(key, [])) != cell
    )
