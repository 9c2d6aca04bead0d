"""How a column of the file that no table holds comes back: as text, in SQL, and on new rows.

Each way is a struct of the design's document and says all of it; a proof has code of its own for them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, ClassVar, Protocol

from msgspec import Meta, Struct

from pravix.databases.number import Number

Name = Annotated[str, Meta(min_length=1)]
Names = tuple[Name, ...]

BETWEEN_PARTS = "\x1f"
"""What stands between the parts of a cell of a bundle, in the values of a new row."""


class Expressions(Protocol):
    """The SQL of a database, as rebuilt columns need it; see ``pravix.databases.database.Database``."""

    def text(self, value: str) -> str:
        """Return a text as a literal."""
        ...

    def as_text(self, sql: str) -> str:
        """Return an expression as text."""
        ...

    def put_together(self, parts: Sequence[str]) -> str:
        """Return texts one after the other."""
        ...

    def part_of(self, sql: str, start: int, end: int) -> str:
        """Return some characters of a text."""
        ...

    def list_of(self, fact: str, order: str, separator: str, source: str, where: str) -> str:
        """Return a query for the facts of some rows as one text."""
        ...

    def list_with_last(
        self, fact: str, order: str, separator: str, last: str, source: str, where: str
    ) -> str:
        """Return an expression for such a text with another separator before its last fact."""
        ...

    def days_between(self, earlier: str, later: str) -> str:
        """Return the days from one date to another."""
        ...

    def days_after(self, day: str, days: str) -> str:
        """Return the date some days after another."""
        ...

    def date(self, value: str) -> str:
        """Return a date as a literal."""
        ...

    def as_whole(self, sql: str) -> str:
        """Return a text of digits as a whole number."""
        ...

    def years(self, earlier: str, later: str) -> str:
        """Return the whole years between two dates."""
        ...

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, rounding: str) -> str:
        """Return an operation on numbers, rounded."""
        ...


class Rebuilt(Struct, frozen=True, kw_only=True, tag_field="kind"):
    """A column of the file that no table holds as it is."""

    layered: ClassVar[bool] = False
    """Whether its SQL needs those of its columns as columns of a query, not as expressions."""

    column: Name

    @property
    def needs(self) -> Names:
        """The columns that it is built from, where it comes from no child table."""
        return ()

    @property
    def scale_of_numbers(self) -> int:
        """How many decimal places its numbers have."""
        return 0

    @property
    def is_arithmetic(self) -> bool:
        """Whether numbers are computed, which a database may round."""
        return False

    @property
    def is_sound(self) -> bool:
        """Whether it needs as many columns as it uses."""
        return True

    def cell(self, cells: Sequence[str]) -> str:
        """Return its cell for those of the columns that it needs."""
        raise NotImplementedError

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """Return its expression over those of the columns that it needs."""
        raise NotImplementedError

    def replay(self, values: dict[str, str]) -> None:
        """Add to the ``values`` of a new row by column those of the repaired columns that this one gives."""


class FromChild(Rebuilt, frozen=True, kw_only=True):
    """A column that comes back from rows of a child table."""

    bundle: str
    table: Name
    fact: Name
    position: Name

    def parts(self, cell: str) -> Iterator[tuple[int, str]]:
        """Yield the position and the fact of each row that the child table has for a cell."""
        raise NotImplementedError

    def query(self, fact: str, position: str, source: str, where: str, database: Expressions) -> str:
        """Return the query of the child's rows ``where`` they belong to a row of the parent."""
        raise NotImplementedError
