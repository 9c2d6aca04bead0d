"""Compound values: a number with its unit, a street with its number, a person's two names."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

from pravix.atomic.finding import Finding, Topic
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words
from pravix.wording import joined, shortened

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


@dataclass(frozen=True)
class CompoundColumn:
    """A column of compound values: how they are put together, and in what share of the values.

    ``between`` stands between the two parts. ``exact`` says that every value is its two parts with just
    that between, so that a split can be undone.
    """

    column: str
    compound: Compound
    between: str
    share: float
    exact: bool

    @property
    def names(self) -> tuple[str, str]:
        """The names of the columns after a split."""
        first, second = self.compound.parts
        return f"{self.column}_{first}", f"{self.column}_{second}"

    def parts(self, cell: str) -> tuple[str, str]:
        """Return the two parts of a cell; blanks for a blank."""
        match = self.compound.pattern.fullmatch(cell)
        return (match[1], match[2]) if match else ("", "")

    def cell(self, first: str, second: str) -> str:
        """Return the cell with these parts: the inverse of ``parts``."""
        return f"{first}{self.between}{second}" if first else ""


def compound_column(column: Column) -> CompoundColumn | None:
    """Return how the values of a column are compound, or None. Linear in the different values."""
    values = column.present_values
    kind = column_type(column).kind
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
    example = shortened(found.cell(*split[0]))
    return Finding(
        topic=Topic.COMPOUND,
        columns=(column.name,),
        told=f"{column.name} holds {compound.told}: {example} would be {told}",
        sure=found.share - 0.1,
        question=f"Keep {column.name} as it is, or split it?",
        answers=("keep", "split") if found.exact else ("keep",),
        preview=(found.names, *split[:3]),
    )
