"""Numbers with the mark of a footnote behind them: 12.4*, 17.2², 31 1)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from pravix.first_normal_form.finding import Finding, Topic
from pravix.relation.relation import Column, Relation
from pravix.relation.types import is_number
from pravix.wording import counted, joined

FOOTNOTE = Topic("footnote", "Numbers with the mark of a footnote", "footnote marks")

_MARKED = re.compile(r"(?P<number>[-+]?\d[\d.,]*)\s?(?P<mark>[*†‡§¹²³⁴⁵⁶⁷⁸⁹]+|[\[(]?[a-z1-9][\])])")
_MOST_SHARE = 0.3
_NAMED = 3


@dataclass(frozen=True)
class Marked:
    """A number with a mark: as it stands, and without."""

    column: str
    now: str
    instead: str


def marked_numbers(column: Column) -> list[Marked]:
    """Return the values of a column of numbers that have the mark of a footnote. Linear in its values."""
    values = column.present_values
    odd = [value for value in values if not is_number(value)]
    if not odd or len(odd) > _MOST_SHARE * len(values):
        return []
    found = [(value, match["number"]) for value in odd if (match := _MARKED.fullmatch(value))]
    sound = len(found) == len(odd) and all(is_number(number) for _, number in found)
    return [Marked(column.name, value, number) for value, number in found] if sound else []


def find_footnotes(relation: Relation) -> list[Finding]:
    """Return a finding for each column of numbers of which some have the mark of a footnote."""
    return list(_found(relation))


def _found(relation: Relation) -> Iterator[Finding]:
    for column in relation.columns:
        marked = {one.now: one for one in marked_numbers(column)}
        if not marked:
            continue
        places = [place for place, cell in enumerate(column.texts()) if cell in marked]
        shown = [f"{one.now} for {one.instead}" for one in list(marked.values())[:_NAMED]]
        yield Finding(
            topic=FOOTNOTE,
            columns=(column.name,),
            told=f"{column.name} is a column of numbers but for the mark of a footnote in "
            f"{counted(len(places), 'row')}: {joined(shown)}; a patch without the marks can be written: "
            "pravix repair --write-patch",
            sure=0.9,
            rows=tuple(relation.row_numbers[places[:5]].tolist()),
        )
