"""Compound values: a number with its unit, a street with its number, a person's two names."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

from msgspec import Meta

from pravix.databases.number import Number
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import Expressions, Names, Rebuilt
from pravix.first_normal_form.repair import InPlace
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words
from pravix.wording import joined, shortened

COMPOUND = Topic("compound", "Several facts in one value", "compounds")

_PERSON_WORDS = frozenset(
    "keeper driver person contact author owner agent member helm registrar collector observer".split()
)
_MOSTLY = 0.85


@dataclass(frozen=True)
class Compound:
    """A way in which one value holds several facts: its pattern, and the names of the parts."""

    pattern: re.Pattern[str]
    parts: tuple[str, ...]
    told: str


_COMPOUNDS = (
    Compound(
        re.compile(r"(-?\d+(?:[.,]\d+)?)\s+([^\W\d]{1,6}|%|€|\$)"),
        ("value", "unit"),
        "a number with its unit",
    ),
    Compound(
        re.compile(r"([^\W\d][\w.'’ -]*?[^\W\d.])\s+(\d{1,4}[a-zA-Z]?)"),
        ("street", "number"),
        "a street with its number",
    ),
    Compound(
        re.compile(r"([^\W\d][\w.'’-]*\.?)\s+([^\W\d][\w'’-]+)"), ("given", "family"), "a person's two names"
    ),
    Compound(
        re.compile(r"([^\W\d][\w'’-]+),\s*([^\W\d][\w.'’-]*)"), ("family", "given"), "a person's two names"
    ),
)


class RebuiltCompound(Rebuilt, frozen=True, kw_only=True, tag="compound"):
    """A column whose values were split in two at the last ``between``."""

    columns: Annotated[Names, Meta(min_length=2, max_length=2)]
    between: str

    @property
    def needs(self) -> Names:
        """As said there."""
        return self.columns

    def cell(self, cells: Sequence[str]) -> str:
        """As said there."""
        first, second = cells
        return f"{first}{self.between}{second}" if first and second else ""

    def __str__(self) -> str:
        return f"{self.columns[0]} and {self.columns[1]} with {self.between!r} between"

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """As said there."""
        first, second = (database.as_text(one.sql) for one in cells)
        return database.put_together([first, database.text(self.between), second])

    def replay(self, values: dict[str, str]) -> None:
        """As said there."""
        cell, (first, second) = values[self.column], self.columns
        before, between, after = cell.rpartition(self.between) if self.between else (cell, "", "")
        values[first], values[second] = (before, after) if between else (cell, "")


@dataclass(frozen=True)
class CompoundColumn(InPlace):
    """A column of compound values: how they are put together, and in what share of the values.

    ``between`` stands between the two parts. ``exact`` says that every value is its two parts with just
    that between, so that a split can be undone.
    """

    answer: ClassVar[str] = "split"

    column: str
    compound: Compound
    between: str
    share: float
    exact: bool

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.column,)

    @property
    def arriving(self) -> tuple[str, str]:
        """As said there."""
        first, second = self.compound.parts
        return f"{self.column}_{first}", f"{self.column}_{second}"

    @property
    def told(self) -> str:
        """As said there."""
        return f"{self.column} held {self.compound.told}: it is {joined(self.arriving)} now."

    def parts(self, cell: str) -> tuple[str, str]:
        """Return the two parts of a cell; blanks for a blank."""
        match = self.compound.pattern.fullmatch(cell)
        return (match[1], match[2]) if match else ("", "")

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        cells = [self.parts(cell) for cell in relation.column(self.column).texts()]
        return [
            Column.from_texts(name, (cell[place] for cell in cells))
            for place, name in enumerate(self.arriving)
        ]

    def rebuilt(self) -> Sequence[RebuiltCompound]:
        """As said there."""
        return [RebuiltCompound(column=self.column, columns=self.arriving, between=self.between)]


def compound_column(column: Column) -> CompoundColumn | None:
    """Return how the values of a column are compound, or None. Linear in the different values."""
    values = column.present_values
    kind = column_type(column).meant
    if len(values) < 4 or kind not in (Kind.TEXT, Kind.CODE):
        return None
    for compound in _COMPOUNDS if kind is Kind.TEXT else _COMPOUNDS[:1]:
        matches = [match for value in values if (match := compound.pattern.fullmatch(value))]
        if len(matches) < _MOSTLY * len(values) or not _plausible(compound, column, matches):
            continue
        betweens = Counter(match[0][match.end(1) : match.start(2)] for match in matches)
        exact = len(matches) == len(values) and len(betweens) == 1
        between = betweens.most_common(1)[0][0]
        return CompoundColumn(column.name, compound, between, len(matches) / len(values), exact)
    return None


def _plausible(compound: Compound, column: Column, matches: list[re.Match[str]]) -> bool:
    """Whether the parts are what they are taken for: few units, streets that come again, persons."""
    first, second = {match[1] for match in matches}, {match[2] for match in matches}
    if compound.parts == ("value", "unit"):
        return len(second) <= 5
    if compound.parts == ("street", "number"):
        return len(first) < len(matches) and len(second) > 3
    return bool(_PERSON_WORDS & set(words(column.name)))


def find_compounds(relation: Relation) -> list[Finding]:
    """Return a finding for each column of compound values; the proposal is to keep it as it is."""
    return [
        _finding(found, column)
        for column in relation.columns
        if (found := compound_column(column)) is not None
    ]


def _finding(found: CompoundColumn, column: Column) -> Finding:
    compound, cells = found.compound, [found.parts(value) for value in column.present_values]
    split = [parts for parts in cells if parts[0]]
    told = joined([f"{part} {text}" for part, text in zip(compound.parts, split[0], strict=True)])
    example = shortened(found.between.join(split[0]))
    return Finding(
        topic=COMPOUND,
        columns=(column.name,),
        told=f"{column.name} holds {compound.told}: {example} would be {told}",
        sure=found.share - 0.1,
        question=f"Keep {column.name} as it is, or split it?",
        answers=("keep", "split") if found.exact else ("keep",),
        preview=(found.arriving, *split[:3]),
        repair=found if found.exact else None,
    )
