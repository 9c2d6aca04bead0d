"""How a source is to be read, as far as the analyst says so; what is not said is found out."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

from pravix.errors import InputError
from pravix.wording import shortened

_WRITTEN = "written as"


def _kept(kind: type, default: object = None) -> Any:
    """Return a field that a ledger keeps, and how it is written there."""
    return field(default=default, metadata={_WRITTEN: kind})


@dataclass(frozen=True)
class Reading:
    """The analyst's wishes about reading; None stands for what is to be found out.

    ``header`` is the row, or the first and last of two rows, that hold the names; ``last_row`` the last
    row with data. ``fill`` names columns whose blanks repeat the value above; the empty tuple stands for
    none. ``blank`` are words for no value: ``NA`` wherever a cell is that, ``kg=NA`` in one column.
    ``number_names`` makes equal or missing names different by a number. ``ragged`` is a file to
    which rows of the wrong width go. ``skip`` are rows that are no data; ``keep_spaces`` leaves the outer
    spaces of cells. ``patch`` is a file of corrected cells. ``sheet`` is the name or
    number of a sheet; ``table`` and ``query`` say what to read from a database. A source that would take
    more than ``memory`` (bytes) stays where it is. A ledger keeps all but ``memory`` and ``ragged``: that
    file is written once.
    """

    encoding: str | None = _kept(str)
    delimiter: str | None = _kept(str)
    sheet: str | None = _kept(str)
    header: tuple[int, int] | None = _kept(str)
    last_row: int | None = _kept(int)
    fill: tuple[str, ...] | None = _kept(list)
    blank: tuple[str, ...] | None = _kept(list)
    number_names: bool = _kept(bool, False)
    ragged: str | None = None
    skip: tuple[int, ...] | None = _kept(list)
    keep_spaces: bool = _kept(bool, False)
    patch: str | None = _kept(str)
    table: str | None = _kept(str)
    query: str | None = _kept(str)
    memory: int | None = None

    def with_defaults(self, other: Reading) -> Reading:
        """Return these wishes, and those of ``other`` where nothing is wished here."""
        wished: dict[str, Any] = {
            name: value for name, value in vars(self).items() if value is not None and value is not False
        }
        return replace(other, **wished)

    def blank_words(self, names: Collection[str], source: str) -> dict[str, list[str]]:
        """Return the words that are blanks, for each of the columns of a ``source`` where there are any.

        Raises InputError where a column is not there, or no word is given.
        """
        found: dict[str, list[str]] = {}
        for wish in self.blank or ():
            column, equals, word = wish.partition("=")
            if equals and column not in names:
                raise InputError(
                    f"{source} has no column {shortened(column)} with blanks", "Use the names of the header."
                )
            if not (word if equals else column):
                raise InputError(
                    f"{source}: a word for blanks is missing{f' after {wish}' if wish else ''}",
                    "Give a word as in NA, or kg=NA for one column.",
                )
            for name in [column] if equals else names:
                found.setdefault(name, []).append(word if equals else column)
        return found


KEPT_WISHES: Mapping[str, type] = {
    wish.name: wish.metadata[_WRITTEN] for wish in fields(Reading) if _WRITTEN in wish.metadata
}
"""The wishes that a ledger keeps, with the type in which each is written there."""
