"""What a discovery returns."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import Enum

from pravix.discovery.columnsets import ColumnSets
from pravix.theory.dependency import Dependency


class Blanks(Enum):
    """How blanks compare: all equal to each other, or each different from everything."""

    EQUAL = "equal"
    DISTINCT = "distinct"


class Dependencies:
    """The determinants of each dependent; a dependency is made when it is asked for.

    Hundreds of thousands of them so take a few megabytes.
    """

    def __init__(self, by_dependent: Sequence[tuple[str, ColumnSets]]) -> None:
        self.by_dependent = tuple(by_dependent)

    def __len__(self) -> int:
        return sum(len(determinants) for _, determinants in self.by_dependent)

    def __iter__(self) -> Iterator[Dependency]:
        for dependent, determinants in self.by_dependent:
            for determinant in determinants:
                yield Dependency(determinant, dependent)

    def up_to(self, size: int) -> Iterator[Dependency]:
        """Yield the dependencies with at most ``size`` columns in the determinant."""
        for dependent, determinants in self.by_dependent:
            for determinant in determinants.up_to(size):
                yield Dependency(determinant, dependent)


@dataclass(frozen=True, eq=False)
class Discovery:
    """Every minimal dependency and every minimal key of the rows, as far as was searched.

    ``dependencies`` are sorted by the place of the dependent in the header, then by the size of the
    determinant, then by the places of its columns; ``keys`` by size, then by the places of their
    columns. ``searched_to`` is the largest number of columns in a determinant that was searched
    completely; None when the search is complete. ``plan`` says in a few words how it was searched.
    """

    dependencies: Dependencies
    keys: ColumnSets
    searched_to: int | None
    plan: str = ""

    @property
    def complete(self) -> bool:
        """Whether every minimal dependency and key is listed."""
        return self.searched_to is None
