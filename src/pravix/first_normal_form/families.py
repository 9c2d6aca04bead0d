"""Numbered families of columns: contact_1, contact_2; email, email2; contact1_name, contact1_phone, ..."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from operator import add
from typing import Annotated, ClassVar

import numpy as np
from msgspec import Meta

from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import BETWEEN_PARTS, Expressions, FromChild
from pravix.first_normal_form.repair import BETWEEN_FACTS, BETWEEN_POSITIONS, Bundle, ChildPlace, Parts
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words
from pravix.wording import joined

FAMILY = Topic("family", "Numbered families of columns", "families")

_NUMBERED = re.compile(r"(?P<stem>.*?[^\W\d][^\d(]*?)[\s_.(-]*(?P<number>\d{1,4})\)?(?P<rest>[^\d]*)")
_MOST_SHARE = 0.6


@dataclass(frozen=True)
class Family:
    """Columns that repeat: for each position, one column for each of ``facts``.

    ``facts`` are called as the columns without their number. ``members`` has a row a position and a column a
    fact; a missing member is the empty text.
    """

    stem: str
    positions: tuple[int, ...]
    facts: tuple[str, ...]
    members: tuple[tuple[str, ...], ...]

    @property
    def columns(self) -> tuple[str, ...]:
        """All columns of the family."""
        return tuple(name for row in self.members for name in row if name)


class RebuiltMember(FromChild, frozen=True, kw_only=True, tag="family"):
    """A column that comes from the row of a child table with its position."""

    at: Annotated[int, Meta(ge=-(10**9), le=10**9)]

    def parts(self, cell: str) -> Iterator[tuple[int, str]]:
        """As said there."""
        if cell:
            yield self.at, cell

    def query(self, fact: str, position: str, source: str, where: str, database: Expressions) -> str:
        """As said there."""
        return f"(SELECT {fact} FROM {source} WHERE {where} AND {position} = {self.at})"

    def replay(self, values: dict[str, str]) -> None:
        """As said there: the filled members of a family are its parts, each after its position."""
        if values[self.column]:
            known = values.get(self.bundle, "")
            part = f"{self.at}:{values[self.column]}"
            values[self.bundle] = BETWEEN_PARTS.join([known, part]) if known else part


@dataclass(frozen=True)
class SplitFamily(Bundle):
    """A family whose members get a table of their own; ``name`` is that of the bundle."""

    kind: ClassVar[str] = "family"
    how: ClassVar[str] = "a numbered family of columns"
    each: ClassVar[str] = "a filled position"
    parts_of: ClassVar[str] = "members of the numbered family"
    answer: ClassVar[str] = "split"

    of: Family
    name: str

    @property
    def column(self) -> str:
        """As said there."""
        return self.name

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return self.of.columns

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.name,)

    @property
    def facts(self) -> tuple[str, ...]:
        """As said there."""
        return self.of.facts if len(self.of.facts) > 1 else (self.name,)

    @property
    def first_sources(self) -> tuple[str, ...]:
        """As said there."""
        return tuple(
            next(row[place] for row in self.of.members if row[place]) for place in range(len(self.of.facts))
        )

    def named(self, name: str) -> SplitFamily:
        """As said there."""
        return replace(self, name=name)

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        texts = [
            [relation.column(name).texts() if name else [""] * relation.row_count for name in row]
            for row in self.of.members
        ]
        cells = []
        for place in range(relation.row_count):
            rows = [tuple(column[place] for column in row) for row in texts]
            pairs = zip(self.of.positions, rows, strict=True)
            cells.append(self.cell([(number, row) for number, row in pairs if any(row)]))
        return [Column.from_texts(self.name, cells)]

    def undo(self, texts: dict[str, list[str]]) -> None:
        """As said there."""
        cells = texts.pop(self.name)
        parts = {cell: dict(self.parts(cell)) for cell in set(cells)}
        for position, row in zip(self.of.positions, self.of.members, strict=True):
            for place, name in enumerate(row):
                if name:
                    found = [parts[cell].get(position) for cell in cells]
                    texts[name] = [values[place] if values else "" for values in found]

    def parts(self, cell: str) -> Parts:
        """As said there."""
        if not cell:
            return []
        rows = [tuple(part.split(BETWEEN_FACTS)) for part in cell.split(BETWEEN_POSITIONS)]
        return [(place, row) for place, row in zip(self.of.positions, rows, strict=True) if any(row)]

    def cell(self, parts: Parts) -> str:
        """As said there."""
        if not parts:
            return ""
        known = dict(parts)
        blank = ("",) * len(self.facts)
        rows = [BETWEEN_FACTS.join(known.get(place, blank)) for place in self.of.positions]
        return BETWEEN_POSITIONS.join(rows)

    def from_child(self, child: ChildPlace) -> Sequence[RebuiltMember]:
        """As said there."""
        return [
            RebuiltMember(
                column=name,
                bundle=self.name,
                table=child.table,
                fact=child.facts[place],
                position=child.position,
                at=number,
            )
            for number, row in zip(self.of.positions, self.of.members, strict=True)
            for place, name in enumerate(row)
            if name
        ]


def families(relation: Relation) -> list[Family]:
    """Return the numbered families of a relation's columns.

    Members that belong together have values of one kind. A family of one fact that would take in
    most of the columns is none: such columns are only numbered. Linear in the columns.
    """
    parsed: dict[str, dict[tuple[int, str], str]] = {}
    for name in relation.names:
        match = _NUMBERED.fullmatch(name)
        if match and not match["rest"].strip(" _.-)").isdecimal():
            key = int(match["number"]), match["rest"].strip(" _.-()")
            parsed.setdefault(_plain(match["stem"]), {}).setdefault(key, name)
    for name in relation.names:
        cells = parsed.get(_plain(name))
        if cells and min(number for number, _ in cells) == 2 and all(not rest for _, rest in cells):
            cells[1, ""] = name
    found = [family for stem, cells in parsed.items() if (family := _family(stem, cells)) is not None]
    return [
        family
        for family in _put_together(found, relation)
        if (len(family.facts) > 1 or len(family.columns) <= _MOST_SHARE * len(relation.columns))
        and _of_one_kind(family, relation)
    ]


def _plain(stem: str) -> str:
    return stem.strip(" _.-(")


def _family(stem: str, cells: dict[tuple[int, str], str]) -> Family | None:
    positions = sorted({number for number, _ in cells})
    facts = list(dict.fromkeys(rest for _, rest in cells))
    if len(positions) < 2 or positions[-1] - positions[0] >= 2 * len(positions):
        return None
    members = tuple(tuple(cells.get((number, fact), "") for fact in facts) for number in positions)
    if sum(1 for row in members for name in row if not name) > len(positions) * len(facts) / 3:
        return None
    called = [stem if not fact else _without_number(cells, fact) for fact in facts]
    return Family(stem, tuple(positions), tuple(called), members)


def facts_of(rows: Sequence[Sequence[str]], name: str) -> tuple[str, ...]:
    """Return what the facts of a family are called: as its first columns are, without their number.

    The one fact of a family with a ``name`` is called like that.
    """
    if len(rows[0]) == 1 and name:
        return (name,)
    called = [
        _without_number({(1, "x"): column}, "x") if _NUMBERED.fullmatch(column) else column
        for column in rows[0]
    ]
    return tuple(called) if len(set(called)) == len(called) else tuple(rows[0])


def _without_number(cells: dict[tuple[int, str], str], fact: str) -> str:
    """Return what the columns of a fact are called without their number: ``part1_name`` is ``part_name``."""
    name = next(name for (_, rest), name in cells.items() if rest == fact)
    match = _NUMBERED.fullmatch(name)
    assert match is not None
    before, after = _plain(match["stem"]), match["rest"].lstrip(") ")
    between = "" if after[:1] in "_-." or (after[:1].isupper() and before[-1:].islower()) else " "
    return f"{before}{between}{after}".strip()


def _put_together(found: list[Family], relation: Relation) -> list[Family]:
    """Return families, those of one fact that go side by side as one family of several facts.

    They have the same positions, and stand in turn (``part_1, qty_1, part_2, qty_2``), or their names share a
    word and they are blank in the same rows.
    """
    place = {name: number for number, name in enumerate(relation.names)}
    kept: list[Family] = []
    for family in found:
        beside = next((one for one in kept if _beside(one, family, place, relation)), None)
        if beside is None:
            kept.append(family)
            continue
        facts = [*beside.facts, *family.facts]
        shared = [word for word in words(beside.stem) if all(word in words(fact) for fact in facts)]
        members = tuple(one + other for one, other in zip(beside.members, family.members, strict=True))
        stem = "_".join(shared) or beside.stem
        kept[kept.index(beside)] = Family(stem, beside.positions, tuple(facts), members)
    return kept


def _beside(one: Family, other: Family, place: Mapping[str, int], relation: Relation) -> bool:
    if one.positions != other.positions or len(other.facts) > 1:
        return False
    if any(not name for family in (one, other) for row in family.members for name in row):
        return False
    groups = [sorted(place[name] for name in row) for row in map(add, one.members, other.members)]
    in_turn = all(group[-1] - group[0] == len(group) - 1 for group in groups)
    if in_turn:
        return True
    named = bool(set(words(one.stem)) & set(words(other.stem)))
    return named and all(
        np.array_equal(relation.column(here[0]).codes == BLANK, relation.column(there[0]).codes == BLANK)
        for here, there in zip(one.members, other.members, strict=True)
    )


def _of_one_kind(family: Family, relation: Relation) -> bool:
    for place in range(len(family.facts)):
        names = [row[place] for row in family.members if row[place]]
        kinds = {column_type(relation.column(name)).kind for name in names} - {Kind.EMPTY}
        numbers = kinds <= {Kind.INTEGER, Kind.DECIMAL}
        words = kinds <= {Kind.TEXT, Kind.CODE}
        if len(kinds) > 1 and not numbers and not words:
            return False
    return True


def find_families(relation: Relation) -> list[Finding]:
    """Return a finding for each numbered family."""
    return [_finding(family, relation) for family in families(relation)]


def _finding(family: Family, relation: Relation) -> Finding:
    filled = [
        sum(relation.column(name).blanks < relation.row_count for name in row if name)
        for row in family.members
    ]
    cells = sum(relation.row_count - relation.column(name).blanks for name in family.columns)
    blank = relation.row_count * len(family.columns) - cells
    facts = family.facts
    told = (
        f"{joined(family.columns)} are {len(family.positions)} columns for one thing, {family.stem}"
        if len(facts) == 1
        else f"{joined(family.columns)} are {len(family.positions)} groups of {joined(facts)}"
    )
    blanks = f"; {blank:,} of their cells {'is' if blank == 1 else 'are'} blank" if blank else ""
    first = next((p for p in range(relation.row_count) if relation.column(family.columns[-1]).text(p)), 0)
    preview = [
        (str(position), *(relation.column(name).text(first) if name else "" for name in row))
        for position, row in zip(family.positions, family.members, strict=True)
    ]
    return Finding(
        topic=FAMILY,
        columns=family.columns,
        told=told + blanks,
        sure=0.9 if all(filled) else 0.7,
        rows=(int(relation.row_numbers[first]),),
        question=f"Give each {family.stem} a row of its own, with its position? Or are they different facts?",
        answers=("split", "keep"),
        preview=(("position", *facts), *preview),
        repair=SplitFamily(family, family.stem),
    )
