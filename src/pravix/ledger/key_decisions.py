"""What the analyst decided about keys: what identifies a row, what does not, what other tables refer by.

In the ledger::

    [[key]]
    columns = ["drum_no", "day"]
    says = "key"
    why = "a drum is weighed once a day"

``says`` is ``key``, ``not key`` or ``refer by``.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from enum import Enum
from functools import partial
from typing import Any

import numpy as np

from pravix.errors import InputError
from pravix.ledger.said import Said
from pravix.relation.grouping import blank_in, first_positions, groups_by
from pravix.relation.relation import Relation
from pravix.wording import joined, meant, shortened

_TYPES: Mapping[str, type] = {"columns": list, "says": str, "why": str, "on": date, "by": str}
_SPOKEN = {str: "a text in quotes", list: "a list of names", date: "a date like 2026-05-04"}
_EXAMPLE = 'For example: columns = ["drum_no", "day"] and says = "key"'


class Says(Enum):
    """What is said of some columns."""

    KEY = "key"
    NOT_KEY = "not key"
    REFER_BY = "refer by"


@dataclass(frozen=True)
class KeyDecision:
    """One decision about columns of the file, with its reason and its place in the ledger."""

    columns: tuple[str, ...]
    says: Says
    why: str = ""
    place: str = ""
    on: date | None = None
    by: str = ""

    def replaces(self, other: KeyDecision) -> bool:
        """Whether it takes the place of an earlier one: a row has one key, and columns are one thing.

        What identifies a row may well be what others refer by.
        """
        referring = (self.says is Says.REFER_BY, other.says is Says.REFER_BY)
        both_keys = self.says is other.says is Says.KEY
        return both_keys or (set(self.columns) == set(other.columns) and referring[0] == referring[1])


def with_added(known: Iterable[KeyDecision], made: Iterable[KeyDecision]) -> tuple[KeyDecision, ...]:
    """Return decisions with others added, each in the place of those that it replaces."""
    kept = list(known)
    for one in made:
        kept = [*(other for other in kept if not one.replaces(other)), one]
    return tuple(kept)


def said_of(decisions: Iterable[KeyDecision]) -> Said:
    """Return what decisions say to the judgement."""
    told = [(one.says, frozenset(one.columns)) for one in decisions]
    return Said(
        key=next((columns for says, columns in reversed(told) if says is Says.KEY), None),
        not_keys=tuple(columns for says, columns in told if says is Says.NOT_KEY),
        refer_by=tuple(columns for says, columns in told if says is Says.REFER_BY),
    )


def check_key_decisions(decisions: Collection[KeyDecision], columns: Collection[str], source: str) -> None:
    """Raise InputError where a decision names a column that the source lacks, or two contradict."""
    for one in decisions:
        for column in one.columns:
            if column not in columns:
                raise InputError(
                    f"{_where(one)}: {source} has no column {shortened(column)}",
                    f"{meant(column, columns)}Use the names of the header.",
                )
    key = next((one for one in decisions if one.says is Says.KEY), None)
    for one in decisions:
        if key is not None and one.says is Says.NOT_KEY and set(key.columns) <= set(one.columns):
            told = f"{joined(key.columns)} identifies a row, and {joined(one.columns)} does not"
            raise InputError(f"{_where(one)}: {told}", "Change one of these decisions.")


def check_in_rows(decisions: Iterable[KeyDecision], relation: Relation, source: str) -> None:
    """Raise InputError, with row numbers, where the rows break what is to identify them."""
    for one in decisions:
        if one.says is not Says.KEY:
            continue
        told, are = joined(one.columns), "is" if len(one.columns) == 1 else "are"
        remedy = "Correct these rows, or take it back: pravix decide --not-key"
        blank = np.flatnonzero(blank_in(relation, one.columns))
        if len(blank):
            row = int(relation.row_numbers[blank[0]])
            raise InputError(f"{source}, row {row}: {told} {are} to identify a row and blank here", remedy)
        groups = groups_by(relation, one.columns)
        repeated = np.setdiff1d(np.arange(relation.row_count), first_positions(groups))
        if len(repeated):
            first = int(np.argmax(groups == groups[repeated[0]]))
            rows = [int(relation.row_numbers[place]) for place in (first, int(repeated[0]))]
            raise InputError(
                f"{source}, rows {rows[0]} and {rows[1]} agree on {told}, which {are} to identify a row",
                remedy,
            )


def parsed_key_decisions(
    content: Mapping[str, Any], name: str, line: Callable[[str, int, str], int]
) -> tuple[KeyDecision, ...]:
    """Return the decisions of a ledger's content; InputError, with the line, for what is none."""
    entries = enumerate(content.get("key", []), 1)
    return with_added((), [_parsed(entry, name, partial(line, "key", number)) for number, entry in entries])


def _parsed(entry: Any, name: str, line: Callable[[str], int]) -> KeyDecision:
    if not isinstance(entry, dict):
        raise InputError(f"{name}: a decision about a key must be a [[key]] entry", _EXAMPLE)
    for key, value in entry.items():
        place = f"{name}, line {line(key)}"
        if key not in _TYPES:
            raise InputError(f"{place}: unknown key {shortened(key)}", f"Known are {', '.join(_TYPES)}.")
        if type(value) is not _TYPES[key]:
            raise InputError(f"{place}: {key} must be {_SPOKEN[_TYPES[key]]}", _EXAMPLE)
    place = f"{name}, line {line('columns')}"
    columns = entry.get("columns", [])
    if not columns or not all(isinstance(column, str) for column in columns):
        raise InputError(f"{place}: columns must be a list of names", _EXAMPLE)
    known = [says.value for says in Says]
    if entry.get("says") not in known:
        raise InputError(f"{name}, line {line('says')}: says must be {joined(known, 'or')}", _EXAMPLE)
    more = {key: entry[key] for key in ("why", "on", "by") if key in entry}
    return KeyDecision(tuple(dict.fromkeys(columns)), Says(entry["says"]), place=place, **more)


def _where(one: KeyDecision) -> str:
    return one.place or f"{one.says.value} {', '.join(one.columns)}"
