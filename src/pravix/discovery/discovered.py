"""What a discovery returns, and the one function that the other rooms call."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum

from pravix.theory.dependency import Dependency

Progress = Callable[[str, int], None]
"""Called with what is being done and how many steps of it are done."""


class Blanks(Enum):
    """How blanks compare: all equal to each other, or each different from everything."""

    EQUAL = "equal"
    DISTINCT = "distinct"


@dataclass(frozen=True)
class Discovery:
    """Every minimal dependency and every minimal key of the rows, as far as was searched.

    ``dependencies`` are sorted by the place of the dependent in the header, then by the size of the
    determinant, then by the places of its columns; ``keys`` by size, then by the places of their
    columns. ``searched_to`` is the largest number of columns in a determinant that was searched
    completely; None when the search is complete.
    """

    dependencies: tuple[Dependency, ...]
    keys: tuple[frozenset[str], ...]
    searched_to: int | None

    @property
    def complete(self) -> bool:
        """Whether every minimal dependency and key is listed."""
        return self.searched_to is None


def silent(doing: str, steps: int) -> None:
    """Report no progress."""
