"""What tables, columns and codes mean, in the analyst's words.

In the ledger::

    [[meaning]]
    column = "tare_kg"
    text = "weight of the empty drum with its lid"

    [[meaning]]
    column = "treatment"
    value = "raw"
    text = "as it came from the comb"

    [[meaning]]
    table = "drum"
    text = "a barrel that is filled once"
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from pravix.errors import InputError
from pravix.wording import joined, shortened

_KEYS = ("table", "column", "value", "text")


@dataclass(frozen=True)
class Meaning:
    """The meaning of a table, a column of the file, or one ``value`` of a column."""

    text: str
    table: str = ""
    column: str = ""
    value: str = ""

    @property
    def about(self) -> tuple[str, str, str]:
        """What it is the meaning of."""
        return self.table, self.column, self.value


def parsed_meanings(
    content: Mapping[str, Any], name: str, line: Callable[[str, int, str], int]
) -> tuple[Meaning, ...]:
    """Return the meanings of a ledger's content; InputError, with the line, for what is none."""
    entries = enumerate(content.get("meaning", []), 1)
    return tuple(_meaning(entry, name, partial(line, "meaning", number)) for number, entry in entries)


def _meaning(entry: object, name: str, line: Callable[[str], int]) -> Meaning:
    def place(key: str) -> str:
        return f"{name}, line {line(key)}"

    if not isinstance(entry, dict):
        raise InputError(f"{place('text')}: a meaning must be a [[meaning]] entry")
    for key, value in entry.items():
        if key not in _KEYS:
            raise InputError(f"{place(key)}: unknown key {shortened(key)}", f"Known are {joined(_KEYS)}.")
        if not isinstance(value, str):
            raise InputError(f"{place(key)}: {key} must be a text in quotes")
    if "text" not in entry or ("table" in entry) == ("column" in entry):
        raise InputError(f"{place('text')}: a meaning needs a text and either a table or a column")
    if "value" in entry and "column" not in entry:
        raise InputError(f"{place('value')}: a value has a meaning in a column only")
    return Meaning(**entry)


def meaning_of(meanings: Iterable[Meaning], table: str = "", column: str = "", value: str = "") -> str:
    """Return the last meaning given to something; the empty text where there is none."""
    found = [one.text for one in meanings if one.about == (table, column, value)]
    return found[-1] if found else ""
