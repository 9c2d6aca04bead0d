"""One fact spread over several yes/no columns: exactly one of them is true in every row, or at most one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Annotated, ClassVar

import numpy as np
from msgspec import Meta
from numpy.typing import NDArray

from pravix.databases.number import Number
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.rebuilt import Expressions, Names, Rebuilt
from pravix.first_normal_form.repair import InPlace
from pravix.relation.relation import Column, Relation
from pravix.relation.types import YES_NO_PAIRS
from pravix.relation.words import words
from pravix.wording import counted, joined

ONE_FACT = Topic("one fact", "One fact over several yes/no columns", "yes/no columns")

_MOST_VIOLATIONS = 0.02
_FEWEST_TRUE = 3
_EXPECTED_TOGETHER = 8.0
_MOST_FLAGS = 40


@dataclass(frozen=True)
class Truth:
    """How a column says yes and no: the texts for true and for false, one of which may be a blank."""

    column: str
    yes: str
    no: str


@dataclass(frozen=True)
class OneFact:
    """Columns of which at most one is true in a row; ``always`` where one is true in every row.

    ``several`` are the positions of rows in which more than one is true.
    """

    truths: tuple[Truth, ...]
    always: bool
    several: tuple[int, ...]

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns of the fact."""
        return tuple(truth.column for truth in self.truths)

    @property
    def name(self) -> str:
        """The name proposed for the one column."""
        return "_or_".join("_".join(words(name)) or name for name in self.columns)


class RebuiltFlag(Rebuilt, frozen=True, kw_only=True, tag="flag"):
    """A yes/no column that was merged with others into one: it says yes where that has its ``value``."""

    columns: Annotated[Names, Meta(min_length=1, max_length=1)]
    value: str
    yes: str
    no: str

    @property
    def needs(self) -> Names:
        """As said there."""
        return self.columns

    def cell(self, cells: Sequence[str]) -> str:
        """As said there."""
        return self.yes if cells[0] == self.value else self.no

    def __str__(self) -> str:
        return f"whether {self.columns[0]} is {self.value}"

    def sql(self, cells: Sequence[Number], database: Expressions) -> str:
        """As said there."""
        yes, no = (database.text(text) if text else "NULL" for text in (self.yes, self.no))
        return f"CASE WHEN {cells[0].sql} = {database.text(self.value)} THEN {yes} ELSE {no} END"

    def replay(self, values: dict[str, str]) -> None:
        """As said there."""
        if values[self.column] == self.yes:
            values[self.columns[0]] = self.value
        values.setdefault(self.columns[0], "")


@dataclass(frozen=True)
class Merged(InPlace):
    """Yes/no columns put into one column called ``name``, whose values are the columns' names."""

    answer: ClassVar[str] = "merge"
    namable: ClassVar[bool] = True

    fact: OneFact
    name: str

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return self.fact.columns

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.name,)

    @property
    def told(self) -> str:
        """As said there."""
        return f"{joined(self.fact.columns)} are one fact: {self.name} says which of them is true."

    def named(self, name: str) -> Merged:
        """As said there."""
        return replace(self, name=name)

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        true = true_cells(relation, self.fact.truths)
        values = np.array([*self.fact.columns, ""], dtype=object)
        chosen = np.where(true.any(axis=1), true.argmax(axis=1), len(self.fact.columns))
        return [Column.from_texts(self.name, values[chosen].tolist())]

    def rebuilt(self) -> Sequence[RebuiltFlag]:
        """As said there."""
        return [
            RebuiltFlag(column=one.column, columns=(self.name,), value=one.column, yes=one.yes, no=one.no)
            for one in self.fact.truths
        ]


def truth(column: Column) -> Truth | None:
    """Return how a column says yes and no, or None where it holds anything else."""
    values = column.present_values
    if len(values) > 2:
        return None
    texts = {value.lower(): value for value in values} | ({"": ""} if column.blanks else {})
    if not values or len(texts) != 2 or len(values) + (column.blanks > 0) != 2:
        return None
    for yes, no in (*YES_NO_PAIRS, ("1", "0"), ("1", ""), ("yes", ""), ("true", "")):
        if set(texts) == {yes, no}:
            return Truth(column.name, texts[yes], texts[no])
    return None


def one_facts(relation: Relation) -> list[OneFact]:
    """Return the groups of yes/no columns that spread one fact, the larger groups first.

    Neighbouring columns are tried together first, then pairs. A group of which at most one is true must
    be more exclusive than chance would make it. Quadratic in the yes/no columns.
    """
    places = {column.name: place for place, column in enumerate(relation.columns)}
    found = [candidate for column in relation.columns if (candidate := truth(column))][:_MOST_FLAGS]
    taken: set[str] = set()
    groups = []
    for group in (*_runs(found, places), *combinations(found, 2)):
        if taken & {candidate.column for candidate in group}:
            continue
        fact = _one_fact(relation, tuple(group))
        if fact is not None:
            groups.append(fact)
            taken |= set(fact.columns)
    return groups


def _runs(found: list[Truth], places: dict[str, int]) -> list[list[Truth]]:
    """Return the runs of neighbouring yes/no columns, and their parts of three and more, longest first."""
    runs: list[list[Truth]] = []
    for candidate in found:
        if runs and places[candidate.column] == places[runs[-1][-1].column] + 1:
            runs[-1].append(candidate)
        else:
            runs.append([candidate])
    parts = [run[i:j] for run in runs for i in range(len(run)) for j in range(i + 3, len(run) + 1)]
    return sorted(parts, key=len, reverse=True)


def _one_fact(relation: Relation, group: tuple[Truth, ...]) -> OneFact | None:
    true = true_cells(relation, group)
    count = true.sum(axis=1)
    several = np.flatnonzero(count > 1)
    if len(several) > _MOST_VIOLATIONS * relation.row_count or min(true.sum(axis=0)) < _FEWEST_TRUE:
        return None
    always = int(np.count_nonzero(count == 0)) == 0
    if not always:
        shares = true.mean(axis=0)
        together = sum(one * other for one, other in combinations(shares, 2)) * relation.row_count
        if len(group) < 3 or together < _EXPECTED_TOGETHER:
            return None
    return OneFact(group, always, tuple(several.tolist()))


def true_cells(relation: Relation, group: tuple[Truth, ...]) -> NDArray[np.bool_]:
    """Return a matrix of rows by columns: whether the cell says yes."""
    columns = []
    for candidate in group:
        column = relation.column(candidate.column)
        says = np.array([value == candidate.yes for value in column.values])
        columns.append(says[column.codes])
    return np.stack(columns, axis=1)


def find_one_facts(relation: Relation) -> list[Finding]:
    """Return a finding for each fact that is spread over yes/no columns."""
    return [_finding(fact, relation) for fact in one_facts(relation)]


def _finding(fact: OneFact, relation: Relation) -> Finding:
    how = "exactly one of them is true" if fact.always else "never more than one of them is true"
    obeying = counted(relation.row_count - len(fact.several), "row")
    told = f"{joined(fact.columns)} are yes/no columns, and {how} in {obeying}"
    rows = tuple(relation.row_numbers[list(fact.several)].tolist())
    if rows:
        told += f"; but more than one in {counted(len(rows), 'row')}, which would have to be corrected first"
    preview = tuple((name,) for name in fact.columns)
    return Finding(
        topic=ONE_FACT,
        columns=fact.columns,
        told=told,
        sure=0.95 if fact.always and not rows else 0.75,
        rows=rows[:5],
        question=f"Put the fact into one column, {fact.name}, with the values {joined(fact.columns)}?",
        answers=("merge", "keep") if not rows else ("keep",),
        preview=((fact.name,), *preview),
        repair=None if rows else Merged(fact, fact.name),
    )
