"""What each table buys and what it costs: cells no longer repeated, cells stored, joins."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.design.model import Design, Table


@dataclass(frozen=True)
class TableAccount:
    """The account of one table.

    ``saves`` counts the cells of the file that only repeat what the table says once, ``stores`` its own
    cells, ``joins`` how many joins it costs when the flat rows are put together.
    """

    table: Table
    saves: int
    stores: int
    joins: int


@dataclass(frozen=True)
class Account:
    """The accounts of all tables; ``cells_before`` are those of the file."""

    tables: tuple[TableAccount, ...]
    cells_before: int

    @property
    def cells_after(self) -> int:
        """The cells of all tables."""
        return sum(one.stores for one in self.tables)

    @property
    def joins(self) -> int:
        """How many joins put the flat rows together."""
        return sum(one.joins for one in self.tables)


def account_of(design: Design) -> Account:
    """Return the account of a design. Linear in its tables."""
    found = []
    for table in design.tables:
        saves = sum(step.cells_saved for step in design.steps if step.to_table == table.name)
        joins = 0 if table.name == design.main else max(1, len(table.roles))
        found.append(TableAccount(table, saves, table.rows.row_count * len(table.columns), joins))
    before = design.relation.row_count * len(design.repaired.original.columns)
    return Account(tuple(found), before)
