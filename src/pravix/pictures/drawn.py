"""What is drawn: the tables of a design, or those that were found to be linked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from pravix.design.cardinality import Cardinality


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
