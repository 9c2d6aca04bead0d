"""Repairs that the analyst declares where none was found; that they fit every row is checked."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from pravix.errors import InputError
from pravix.first_normal_form.computed import LeftOut
from pravix.first_normal_form.declaration import Declaration
from pravix.first_normal_form.families import Family, SplitFamily, facts_of
from pravix.first_normal_form.flags import Merged, OneFact, true_cells, truth
from pravix.first_normal_form.formula_text import parsed_formulas
from pravix.first_normal_form.lists import SplitList, declared_list
from pravix.first_normal_form.repair import Repair
from pravix.relation.relation import Relation
from pravix.wording import joined, shortened


def declared_repairs(relation: Relation, made: Sequence[Declaration], place: str) -> list[Repair]:
    """Return the repairs that declarations ask for.

    Raises InputError, with row and column, where one does not fit the rows. Linear in the cells.
    """
    return [_REPAIRS[one.says](relation, one, one.place or place) for one in made if one.says in _REPAIRS]


def _list(relation: Relation, said: Declaration, place: str) -> Repair:
    (name,) = said.columns
    found = declared_list(relation.column(name), said.how)
    for value in relation.column(name).present_values:
        if found.evened(value) != value:
            row = _first_row(relation, name, value)
            raise InputError(
                f"{place}: {name} is {shortened(value)} in row {row}, where {shortened(found.evened(value))} "
                "is meant",
                "Items are put together again by one separator: correct the cell with a patch.",
            )
    return SplitList(found, name)


def _family(relation: Relation, said: Declaration, place: str) -> Repair:
    rows = [said.columns[at : at + said.width] for at in range(0, len(said.columns), said.width)]
    facts = facts_of(rows, said.how)
    name = said.how or facts[0]
    if name in relation.names and name not in said.columns:
        raise InputError(f"{place}: there is a column {shortened(name)} already", "Choose another name.")
    return SplitFamily(Family(name, tuple(range(1, len(rows) + 1)), facts, tuple(rows)), name)


def _one_fact(relation: Relation, said: Declaration, place: str) -> Repair:
    truths = []
    for name in said.columns:
        found = truth(relation.column(name))
        if found is None:
            raise InputError(f"{place}: {name} does not say yes and no", "Each of the columns must.")
        truths.append(found)
    count = true_cells(relation, tuple(truths)).sum(axis=1)
    if (count > 1).any():
        row = int(relation.row_numbers[int(np.argmax(count > 1))])
        raise InputError(f"{place}: more than one of {joined(said.columns)} is true in row {row}")
    fact = OneFact(tuple(truths), bool((count == 1).all()), ())
    return Merged(fact, said.how or fact.name)


def _computed(relation: Relation, said: Declaration, place: str) -> Repair:
    (name,) = said.columns
    cells, best = relation.column(name).texts(), None
    for formula in parsed_formulas(relation, name, said.how, place):
        texts = formula.texts(relation)
        wrong = next(
            (at for at, pair in enumerate(zip(cells, texts, strict=True)) if pair[0] != pair[1]), None
        )
        if wrong is None:
            return LeftOut(formula)
        if best is None or wrong > best[0]:
            best = wrong, texts[wrong]
    assert best is not None
    at, expected = best
    row, cell = int(relation.row_numbers[at]), cells[at]
    raise InputError(
        f"{place}: {name} is {shortened(cell) or 'blank'} in row {row}, where {said.how} gives "
        f"{shortened(expected) or 'nothing'}",
        "Correct the cell with a patch, or take the declaration back.",
    )


def _first_row(relation: Relation, name: str, value: str) -> int:
    column = relation.column(name)
    return int(relation.row_numbers[int(np.argmax(column.codes == list(column.values).index(value)))])


_REPAIRS: Mapping[str, Callable[[Relation, Declaration, str], Repair]] = {
    "list": _list,
    "family": _family,
    "one fact": _one_fact,
    "computed": _computed,
}
