"""All rows, where a relation in memory holds only some of them."""

from __future__ import annotations

from collections.abc import Collection
from typing import Protocol


class Whole(Protocol):
    """All rows that a relation stands for, wherever they are; every count is exact."""

    @property
    def row_count(self) -> int:
        """How many rows there are."""
        ...

    def size(self, columns: Collection[str], filled: Collection[str] = ()) -> int:
        """Return how many different combinations some columns have, in rows where those ``filled`` are."""
        ...

    def filled(self, columns: Collection[str]) -> int:
        """Return how many rows have a value in each of some columns."""
        ...

    def exceptions(self, determinant: Collection[str], dependent: str) -> tuple[int, int]:
        """Return how many rows at least break a rule, and how many repeat a value of its determinant."""
        ...
