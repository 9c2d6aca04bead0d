"""Child tables: each list in a cell and each numbered family gets a table beside the one it lives in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pravix.design.model import ForeignKey, Table, TableColumn
from pravix.design.naming import free_name
from pravix.first_normal_form.repair import Bundle
from pravix.relation.relation import Column, Relation
from pravix.relation.types import column_type
from pravix.theory.normal_forms import Form

POSITION = "position"


def with_children(tables: Sequence[Table], bundles: Sequence[Bundle]) -> tuple[Table, ...]:
    """Return the tables with every bundle moved out of its home into a child table right after it."""
    names = [table.name for table in tables]
    found: list[Table] = []
    for table in tables:
        inside = [bundle for bundle in bundles if bundle.column in table.column_names]
        found.append(_without(table, [bundle.column for bundle in inside]))
        for bundle in inside:
            name = free_name(f"{table.name}_{bundle.column}", names)
            names.append(name)
            found.append(_child(table, bundle, name))
    return tuple(found)


def _without(table: Table, left_out: Sequence[str]) -> Table:
    kept = [column for column in table.columns if column.name not in left_out]
    return replace(table, columns=tuple(kept), rows=table.rows.project([column.name for column in kept]))


def _child(table: Table, bundle: Bundle, name: str) -> Table:
    """Return one row for each part of each cell, keyed by the parent's key and the item or position."""
    key = table.primary_key
    facts = [free_name(fact, [*key, POSITION]) for fact in bundle.facts]
    position = free_name(POSITION, [*key, *facts])
    parents = table.rows.project(key).rows() if key else [()] * table.rows.row_count
    cells = table.rows.column(bundle.column).texts()
    lines: list[tuple[str, ...]] = []
    numbers: list[int] = []
    for parent, cell, number in zip(parents, cells, table.rows.row_numbers.tolist(), strict=True):
        for place, values in bundle.parts(cell):
            lines.append((*parent, str(place), *values))
            numbers.append(number)
    rows = Relation.from_rows([*key, position, *facts], lines)
    rows = Relation(rows.columns, table.rows.row_numbers[:0]) if not lines else _numbered(rows, numbers)
    by_item = (*key, facts[0])
    pairs = rows.project(by_item).rows()
    keys = [(*key, position)]
    if bundle.keyed_by_item and len(set(pairs)) == len(pairs):
        keys.insert(0, by_item)
    sources = dict(zip(facts, bundle.first_sources, strict=True)) | {column: column for column in key}
    return Table(
        name=name,
        columns=tuple(_column(column, sources.get(column.name), keys[0]) for column in rows.columns),
        keys=tuple(keys),
        foreign_keys=(_part_of(table),) if key else (),
        form=Form.BOYCE_CODD,
        rows=rows,
        made_from=bundle,
        identities=(name,),
    )


def _part_of(table: Table) -> ForeignKey:
    """Return the reference of a child to its parent: the parts go when the whole goes."""
    key = table.primary_key
    return ForeignKey(
        key, table.name, key, optional=False, single=False, on_delete="cascade", on_update="cascade"
    )


def _column(column: Column, source: str | None, key: Sequence[str]) -> TableColumn:
    nullable = column.blanks > 0 and column.name not in key
    stands_for = None if source is None else column.name
    return TableColumn(column.name, source, column_type(column), nullable, stands_for)


def _numbered(rows: Relation, numbers: Sequence[int]) -> Relation:
    return Relation(rows.columns, np.array(numbers, dtype=np.int64))


def broken_children(
    before: Sequence[Table], after: Sequence[Table], bundles: Sequence[Bundle]
) -> tuple[tuple[str, int], ...]:
    """Return table and row number of each cell that its child table does not give back exactly."""
    broken = []
    for bundle in bundles:
        parent = next(table for table in before if bundle.column in table.column_names)
        child = next(table for table in after if table.made_from == bundle)
        parts: dict[tuple[str, ...], list[tuple[int, tuple[str, ...]]]] = {}
        width = len(parent.primary_key)
        for row in child.rows.rows():
            parts.setdefault(row[:width], []).append((int(row[width]), row[width + 1 :]))
        keys = parent.rows.project(parent.primary_key).rows() or [()] * parent.rows.row_count
        cells = parent.rows.column(bundle.column).texts()
        for key, cell, number in zip(keys, cells, parent.rows.row_numbers.tolist(), strict=True):
            if bundle.cell(parts.get(key, [])) != cell:
                broken.append((parent.name, number))
    return tuple(broken)
