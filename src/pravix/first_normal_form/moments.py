"""A date with a separate time of day: two columns that tell one moment."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, ClassVar

from msgspec import Meta

from pravix.databases.number import Number
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import Expressions, Names, Rebuilt
from pravix.first_normal_form.repair import InPlace
from pravix.relation.relation import Column, Relation
from pravix.relation.types import column_type
from pravix.relation.words import words
from pravix.wording import counted, joined

MOMENT = Topic("moment", "A date with a separate time of day", "dates with times")

_TIME_OF_DAY = re.compile(r"([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?")
_BETWEEN = " "
_DATE_LENGTH = 10


class RebuiltMomentPart(Rebuilt, frozen=True, kw_only=True, tag="moment"):
    """The date or the time of a moment: its characters from ``start`` to ``end``."""

    columns: Annotated[Names, Meta(min_length=1, max_length=1)]
    start: Annotated[int, Meta(ge=0, le=100)]
    end: Annotated[int, Meta(ge=0, le=100)]

    @property
    def needs(self) -> Names:
        """As said there."""
        return self.columns

    def cell(self, cells: Sequence[str]) -> str:
        """As said there."""
        return cells[0][self.start : self.end]

    def __str__(self) -> str:
        return f"characters {self.start + 1} to {self.end} of {self.columns[0]}"

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """As said there."""
        return database.part_of(cells[0].sql, self.start, self.end)

    def replay(self, values: dict[str, str]) -> None:
        """As said there: the date comes first, then the time behind it."""
        parts = values.get(self.columns[0], ""), values[self.column]
        values[self.columns[0]] = _BETWEEN.join(filter(None, parts))


@dataclass(frozen=True)
class MergedMoment(InPlace):
    """A date and a time of day put into one column called ``name``."""

    answer: ClassVar[str] = "merge"
    namable: ClassVar[bool] = True

    date: str
    time: str
    name: str
    longest: int

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.date, self.time)

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.name,)

    @property
    def told(self) -> str:
        """As said there."""
        return f"{self.date} and {self.time} are one moment: {self.name} holds both."

    def named(self, name: str) -> MergedMoment:
        """As said there."""
        return replace(self, name=name)

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        pairs = zip(relation.column(self.date).texts(), relation.column(self.time).texts(), strict=True)
        return [Column.from_texts(self.name, (_BETWEEN.join(filter(None, pair)) for pair in pairs))]

    def rebuilt(self) -> Sequence[RebuiltMomentPart]:
        """As said there."""
        after = _DATE_LENGTH + len(_BETWEEN)
        places = ((self.date, 0, _DATE_LENGTH), (self.time, after, after + self.longest))
        return [
            RebuiltMomentPart(column=column, columns=(self.name,), start=start, end=end)
            for column, start, end in places
        ]


def find_moments(relation: Relation) -> list[Finding]:
    """Return a finding for each date beside one time of day; the proposal is to keep both.

    Both are filled in the same rows. A date beside several times, such as a begin and an end, is no moment.
    Linear in the cells of such columns.
    """
    return [_finding(date, time, relation) for date, time in _pairs(relation) if _filled_together(date, time)]


def _pairs(relation: Relation) -> Iterator[tuple[Column, Column]]:
    """Yield each date with the time beside it, where no other date or time stands beside them."""
    kinds = [
        "date" if column_type(column).iso and _all_dates(column) else "time" if _all_times(column) else ""
        for column in relation.columns
    ]
    for place in range(len(kinds) - 1):
        around = [*kinds[max(place - 1, 0) : place], *kinds[place + 2 : place + 3]]
        if {*kinds[place : place + 2]} == {"date", "time"} and not any(around):
            one, other = relation.columns[place : place + 2]
            yield (one, other) if kinds[place] == "date" else (other, one)


def _all_dates(column: Column) -> bool:
    return all(len(value) == _DATE_LENGTH for value in column.present_values)


def _all_times(column: Column) -> bool:
    values = column.present_values
    return bool(values) and all(map(_TIME_OF_DAY.fullmatch, values))


def _filled_together(date: Column, time: Column) -> bool:
    return bool(((date.codes > 0) == (time.codes > 0)).all())


def _finding(date: Column, time: Column, relation: Relation) -> Finding:
    name = _name(date.name, time.name)
    repair = MergedMoment(date.name, time.name, name, max(map(len, time.present_values)))
    filled = relation.row_count - date.blanks
    made = repair.columns(relation)[0]
    return Finding(
        topic=MOMENT,
        columns=(date.name, time.name),
        told=f"{joined((date.name, time.name))} tell one moment in {counted(filled, 'row')}: a date, and the "
        "time of that day beside it",
        sure=0.8,
        question=f"Keep {date.name} and {time.name}, or put them into one column, {name}?",
        answers=("keep", "merge"),
        preview=((name,), *((value,) for value in made.present_values[:3])),
        repair=repair,
    )


def _name(date: str, time: str) -> str:
    """Return what both names begin with, in their words, or both names."""
    alike = []
    for one, other in zip(words(date), words(time), strict=False):
        if one != other:
            break
        alike.append(one)
    return f"{'_'.join(alike)}_at" if alike else f"{date}_{time}"
