"""How a source is to be read, as far as the analyst says so; what is not said is found out."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any


@dataclass(frozen=True)
class Reading:
    """The analyst's wishes about reading; None stands for what is to be found out.

    ``header`` is the row, or the first and last of two rows, that hold the names; ``last_row`` the last
    row with data. ``fill`` names columns whose blanks repeat the value above; the empty tuple stands for
    none. ``number_names`` makes equal or missing names different by a number. ``ragged`` is a file to
    which rows of the wrong width go. ``skip`` are rows that are no data; ``keep_spaces`` leaves the outer
    spaces of cells. ``patch`` is a file of corrected cells. ``sheet`` is the name or
    number of a sheet; ``table`` and ``query`` say what to read from a database.
    """

    encoding: str | None = None
    delimiter: str | None = None
    sheet: str | None = None
    header: tuple[int, int] | None = None
    last_row: int | None = None
    fill: tuple[str, ...] | None = None
    number_names: bool = False
    ragged: str | None = None
    skip: tuple[int, ...] | None = None
    keep_spaces: bool = False
    patch: str | None = None
    table: str | None = None
    query: str | None = None

    def with_defaults(self, other: Reading) -> Reading:
        """Return these wishes, and those of ``other`` where nothing is wished here."""
        wished: dict[str, Any] = {
            name: value for name, value in vars(self).items() if value is not None and value is not False
        }
        return replace(other, **wished)
