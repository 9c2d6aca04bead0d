"""What is drawn: the tables of a design, or those that were found to be linked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from pravix.design.cardinality import Cardinality
from pravix.errors import InputError
from pravix.wording import joined, meant, shortened


class DrawnColumn(Protocol):
    """A column of a table."""

    @property
    def name(self) -> str:
        """Its name."""
        ...

    @property
    def type(self) -> str:
        """Its type, as people read it."""
        ...


class DrawnEnd(Protocol):
    """A table that is referred to, and columns of it."""

    @property
    def table(self) -> str:
        """The name of the table."""
        ...

    @property
    def columns(self) -> Sequence[str]:
        """The names of the columns."""
        ...


class DrawnLink(Protocol):
    """A reference."""

    @property
    def columns(self) -> Sequence[str]:
        """The columns that refer."""
        ...

    @property
    def references(self) -> DrawnEnd:
        """What they refer to."""
        ...

    @property
    def cardinality(self) -> Cardinality:
        """How many rows it joins on either side."""
        ...


class DrawnTable(Protocol):
    """A table."""

    @property
    def name(self) -> str:
        """Its name."""
        ...

    @property
    def rows(self) -> int:
        """How many rows it has."""
        ...

    @property
    def columns(self) -> Sequence[DrawnColumn]:
        """Its columns."""
        ...

    @property
    def primary_key(self) -> Sequence[str]:
        """The columns of its primary key."""
        ...

    @property
    def candidate_keys(self) -> Sequence[Sequence[str]]:
        """The columns of each of its keys, those of the primary key first."""
        ...

    @property
    def foreign_keys(self) -> Sequence[DrawnLink]:
        """Its references."""
        ...


@dataclass(frozen=True)
class Part:
    """A table of which only some columns and references are shown."""

    name: str
    rows: int
    columns: Sequence[DrawnColumn]
    primary_key: Sequence[str]
    candidate_keys: Sequence[Sequence[str]]
    foreign_keys: Sequence[DrawnLink]


def around(tables: Sequence[DrawnTable], name: str) -> list[DrawnTable]:
    """Return a table with those that it refers to, and those that refer to it.

    Raises InputError where there is no such table.
    """
    names = [table.name for table in tables]
    if name not in names:
        told = joined([shortened(one) for one in names[:30]])
        hint = f"{meant(name, names)}The tables are {told}."
        raise InputError(f"there is no table {shortened(name)}", hint)
    near = {name}
    for table in tables:
        ends = {link.references.table for link in table.foreign_keys}
        near |= ends if table.name == name else {table.name} if name in ends else set()
    return [
        Part(
            table.name,
            table.rows,
            table.columns,
            table.primary_key,
            table.candidate_keys,
            [link for link in table.foreign_keys if name in (table.name, link.references.table)],
        )
        for table in tables
        if table.name in near
    ]


def keys_only(tables: Sequence[DrawnTable]) -> list[DrawnTable]:
    """Return the tables with the columns of their primary keys and references alone."""
    found: list[DrawnTable] = []
    for table in tables:
        shown = {*table.primary_key, *(name for link in table.foreign_keys for name in link.columns)}
        columns = [column for column in table.columns if column.name in shown]
        keys = [key for key in table.candidate_keys if set(key) <= shown]
        found.append(Part(table.name, table.rows, columns, table.primary_key, keys, table.foreign_keys))
    return found
