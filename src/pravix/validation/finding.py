"""What is found in a new file: what it is about, in a sentence, with the numbers of its rows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

from pravix.wording import joined, shortened

_NAMED = 5


class About(Enum):
    """What a finding is about; all but ``KNOWN`` keep a row from being loaded."""

    CHANGED = "changed fact"
    CONTRADICTION = "contradiction"
    CONFLICT = "other values"
    KNOWN = "already there"
    LIST = "new value"
    TYPE = "type"
    LENGTH = "length"
    RANGE = "range"
    BLANK = "blank"
    COMPUTED = "other than computed"
    ORPHAN = "refers to nothing"
    REFUSED = "refused by the database"


@dataclass(frozen=True)
class Violation:
    """One thing that is not as the design has it: what, in a sentence, and the numbers of the rows."""

    about: About
    told: str
    rows: tuple[int, ...]

    @property
    def keeps_out(self) -> bool:
        """Whether its rows cannot be loaded."""
        return self.about is not About.KNOWN


def rows_by_finding(found: Sequence[Violation]) -> dict[str, list[int]]:
    """Return the numbers of the rows that each kind of finding concerns."""
    rows: dict[str, list[int]] = {}
    for one in found:
        rows.setdefault(one.about.value, []).extend(one.rows)
    return rows


def pairs_told(names: Sequence[str], cells: Sequence[str]) -> str:
    """Return columns with their cells, in words."""
    pairs = zip(names, cells, strict=True)
    return joined([f"{name} {shortened(cell) if cell else 'blank'}" for name, cell in pairs])


def rows_told(numbers: Sequence[int]) -> str:
    """Return the numbers of rows, the first few, in words."""
    first = joined([str(number) for number in numbers[:_NAMED]])
    more = f" and {len(numbers) - _NAMED} more" if len(numbers) > _NAMED else ""
    return f"{'row' if len(numbers) == 1 else 'rows'} {first}{more}"


def shown(values: Mapping[str, str], name: str) -> str:
    """Return one of the values of a row in words."""
    cell = values.get(name, "").replace("\x1f", "; ")
    return shortened(cell) if cell else "blank"
