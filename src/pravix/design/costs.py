"""What each table buys and what it costs: cells no longer repeated, cells stored, joins."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.design.model import Design, Table
from pravix.errors import InputError


@dataclass(frozen=True)
class TableCosts:
    """What one table buys and costs.

    ``saves`` counts the cells of the file that only repeat what the table says once, ``stores`` its own
    cells, ``joins`` how many joins it costs when the flat rows are put together.
    """

    table: Table
    saves: int
    stores: int
    joins: int


@dataclass(frozen=True)
class Costs:
    """What all tables buy and cost; ``cells_before`` are those of the file."""

    tables: tuple[TableCosts, ...]
    cells_before: int

    @property
    def cells_after(self) -> int:
        """The cells of all tables."""
        return sum(one.stores for one in self.tables)

    @property
    def joins(self) -> int:
        """How many joins put the flat rows together."""
        return sum(one.joins for one in self.tables)


def repeats_by_column(design: Design) -> list[tuple[str, int, int]]:
    """Return for each column of the file how many of its cells repeat a value, there and in the tables.

    A column that became a table of its own parts is counted in the file only, one of a table with several
    roles for the first of them. Raises InputError where the rows stay outside memory. Linear in the cells.
    """
    if design.repaired.original.whole is not None:
        raise InputError("rows outside memory are not counted by column", "Leave --figure out.")
    stored = dict.fromkeys(design.repaired.original.names, 0)
    for table in design.tables:
        first = {own: name for name, own in reversed(table.flat_names.items())}
        for own, name in first.items():
            if name in stored:
                column = table.rows.column(own)
                stored[name] += column.filled - column.distinct
    return [
        (column.name, column.filled - column.distinct, stored[column.name])
        for column in design.repaired.original.columns
    ]


def costs_of(design: Design) -> Costs:
    """Return what the tables of a design buy and cost. Linear in its tables."""
    found = []
    for table in design.tables:
        saves = sum(step.cells_saved for step in design.steps if step.to_table == table.name)
        joins = 0 if table.name == design.main else max(1, len(table.roles))
        found.append(TableCosts(table, saves, table.rows.total * len(table.columns), joins))
    before = design.relation.total * len(design.repaired.original.columns)
    return Costs(tuple(found), before)
