"""Columns that others compute: found by numbers, by dates and by texts, and left out of the tables."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from pravix.first_normal_form.agreement import Computed
from pravix.first_normal_form.computed_dates import computed_dates
from pravix.first_normal_form.computed_numbers import computed_numbers
from pravix.first_normal_form.computed_texts import computed_texts
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.repair import InPlace
from pravix.relation.relation import Column, Relation
from pravix.wording import counted, joined, shortened

COMPUTED = Topic("computed", "Columns that others compute", "computed columns")


@dataclass(frozen=True)
class LeftOut(InPlace):
    """A computed column that leaves the relation."""

    answer: ClassVar[str] = "leave out"

    formula: Formula

    @property
    def leaving(self) -> tuple[str, ...]:
        """As said there."""
        return (self.formula.column,)

    @property
    def arriving(self) -> tuple[str, ...]:
        """As said there: nothing comes."""
        return ()

    @property
    def told(self) -> str:
        """As said there."""
        formula = self.formula
        return f"{formula.column} is {formula} in every row: it is computed and no longer stored."

    def columns(self, relation: Relation) -> list[Column]:
        """As said there."""
        return []

    def rebuilt(self) -> Sequence[Formula]:
        """As said there."""
        return [self.formula]


def computed_columns(relation: Relation) -> list[Computed]:
    """Return at most one formula for each column, none of them going round in a circle.

    A formula must agree with nearly every row, on many different values. Of several the one with fewest
    disagreeing rows is taken. Cost: cubic in the number columns on a sample of rows, then linear for each
    formula that the sample does not refute.
    """
    found = [*computed_numbers(relation), *computed_dates(relation), *computed_texts(relation)]
    found.sort(key=lambda computed: (len(computed.disagreeing), _preference(computed.formula, relation)))
    chosen: dict[str, Computed] = {}
    for computed in found:
        if computed.formula.column not in chosen and not _circular(computed.formula, chosen):
            chosen[computed.formula.column] = computed
    return [
        replace(one, instead=_instead(one.formula, found))
        for name in relation.names
        if (one := chosen.get(name))
    ]


def _instead(formula: Formula, found: Sequence[Computed]) -> tuple[Formula, ...]:
    """Return the formulas that turn one around: of the same columns, for another of them."""
    columns = {formula.column, *formula.columns}
    others = {
        one.formula.column: one.formula
        for one in reversed(found)
        if not one.disagreeing and {one.formula.column, *one.formula.columns} == columns
    }
    return tuple(other for name, other in others.items() if name != formula.column)


def _preference(formula: Formula, relation: Relation) -> tuple[int, int]:
    """Prefer to compute later columns from earlier ones, and products and differences to quotients."""
    place = {name: number for number, name in enumerate(relation.names)}
    later = sum(place[name] > place[formula.column] for name in formula.columns)
    return later, "*-+%/".find(formula.operation)


def _circular(formula: Formula, chosen: dict[str, Computed]) -> bool:
    reached, waiting = set(), list(formula.columns)
    while waiting:
        name = waiting.pop()
        if name == formula.column:
            return True
        if name in chosen and name not in reached:
            reached.add(name)
            waiting += chosen[name].formula.columns
    return False


def find_computed(relation: Relation) -> list[Finding]:
    """Return a finding for each column that others compute."""
    return [_finding(computed, relation) for computed in computed_columns(relation)]


def _finding(computed: Computed, relation: Relation) -> Finding:
    formula = computed.formula
    rows = relation.row_numbers[list(computed.disagreeing)].tolist()
    agreeing = relation.row_count - len(rows)
    told = f"{formula.column} is {formula} in {counted(agreeing, 'row')}"
    if rows:
        place = computed.disagreeing[0]
        cells = [relation.column(name).text(place) for name in formula.columns]
        told += (
            f"; not in {counted(len(rows), 'row')}: row {rows[0]} has "
            f"{shortened(relation.column(formula.column).text(place)) or 'a blank'} "
            f"where {formula.cell(cells) or 'a blank'} is expected"
        )
    if computed.instead:
        told += f"; as well {joined([f'{one.column} is {one}' for one in computed.instead])}"
    measured = "Which of them was measured stays: is it not this one? " if computed.instead else ""
    return Finding(
        topic=COMPUTED,
        columns=(formula.column,),
        told=told,
        sure=computed.sure,
        rows=tuple(rows[:5]),
        question=f"{measured}Leave {formula.column} out of the tables and compute it when it is needed?",
        answers=("leave out", "keep") if not rows else ("keep",),
        repair=None if rows else LeftOut(formula),
    )
