"""A format of files in which a folder holds the rows of its tables."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from pravix.design.model import Table

if TYPE_CHECKING:
    import pyarrow

Row = list[str | None]


class TableFormat(ABC):
    """A format of files. Cells are texts, blanks are None, and a cell comes back as it was."""

    ending: ClassVar[str]
    """How its files end."""

    told: ClassVar[str]
    """What somebody who gets such files must know, in a sentence."""

    @abstractmethod
    def write(self, table: Table, path: Path, safe_cells: bool = False) -> None:
        """Write a table; with ``safe_cells`` no cell can be run by a spreadsheet."""

    @abstractmethod
    def rows(self, path: Path, width: int) -> Iterator[Row]:
        """Yield the rows of a file whose table has ``width`` columns.

        Raises InputError, with the place, for a row of another width; OSError, UnicodeDecodeError or
        csv.Error where the file cannot be read.
        """

    @abstractmethod
    def batches(self, path: Path, width: int) -> Iterator[pyarrow.RecordBatch]:
        """Yield the rows as Arrow batches of texts, null for a blank; columns are called 0, 1 and so on.

        Raises as ``rows`` does.
        """
