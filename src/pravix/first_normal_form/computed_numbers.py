"""Columns that numbers compute: sums, differences, products, quotients, means, and fixed factors."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal, InvalidOperation
from itertools import combinations, permutations

import numpy as np
from numpy.typing import NDArray

from pravix.first_normal_form.agreement import (
    AGREEING,
    FEWEST_ROWS,
    Computed,
    compared,
    holds_on_sample,
    sampled,
)
from pravix.first_normal_form.formula import Formula, Operation, Rounding
from pravix.relation.grouping import first_positions, group_numbers
from pravix.relation.relation import Column, Relation
from pravix.relation.types import ColumnType, Kind, column_type

_NUMBERS = (Kind.INTEGER, Kind.DECIMAL)
_MOST_NUMBERS = 24
_SAMPLE = 400
_FEWEST_VALUES = 5
_ROUNDINGS: tuple[Rounding, ...] = ("ROUND_HALF_UP", "ROUND_HALF_EVEN")
_COMMUTING: tuple[Operation, ...] = ("+", "*")
_ORDERED: tuple[Operation, ...] = ("-", "/", "%")
_MOST_PLACES = 5
_DIFFERENT_FOR_A_FACTOR = 8

Floats = NDArray[np.float64]

_FAST: dict[str, Callable[[Floats, Floats], Floats]] = {
    "+": np.add,
    "-": np.subtract,
    "*": np.multiply,
    "/": np.divide,
    "%": lambda a, b: 100 * a / b,
}


def computed_numbers(relation: Relation) -> list[Computed]:
    """Return the columns of numbers that others compute. Cubic in these columns on a sample of rows."""
    types = {column.name: column_type(column) for column in relation.columns}
    numbers = [column for column in relation.columns if types[column.name].kind in _NUMBERS][:_MOST_NUMBERS]
    if len(numbers) < 2 or relation.row_count < FEWEST_ROWS:
        return []
    step = max(1, relation.row_count // _SAMPLE)
    sample = {column.name: _floats(column, step) for column in numbers}
    found = []
    for target in numbers:
        if target.distinct < _FEWEST_VALUES:
            continue
        others = [column.name for column in numbers if column is not target and column.distinct > 1]
        tolerance = 0.5 * 10.0 ** -types[target.name].scale * 1.001 + 1e-9

        def agrees(expected: Floats, own: Floats = sample[target.name], within: float = tolerance) -> bool:
            known = ~np.isnan(expected) & ~np.isnan(own)
            agreeing = np.abs(expected - own)[known] <= within
            return len(agreeing) >= FEWEST_ROWS and bool(agreeing.mean() >= AGREEING)

        for operation, names in _pairs(others):
            with np.errstate(all="ignore"):
                expected = _FAST[operation](sample[names[0]], sample[names[1]])
            if agrees(expected):
                found += _exactly(relation, target, types[target.name], operation, names)
        for run in _runs_beside(numbers, target):
            rows = np.array([sample[name] for name in run])
            if len(run) > 2 and agrees(rows.sum(axis=0)):
                found += _exactly(relation, target, types[target.name], "sum", run)
            if np.isnan(rows).any() and agrees(_sum_of_filled(rows)):
                found += _exactly(relation, target, types[target.name], "sum", run, blanks_count_nothing=True)
            if agrees(rows.mean(axis=0)):
                found += _exactly(relation, target, types[target.name], "mean", run)
        for name in others:
            for operation, constant, first in _constants(relation, target, relation.column(name)):
                found += _exactly(
                    relation,
                    target,
                    types[target.name],
                    operation,
                    (name,),
                    constant=constant,
                    constant_first=first,
                )
    return found


def _sum_of_filled(rows: Floats) -> Floats:
    total: Floats = np.nansum(rows, axis=0)
    total[np.isnan(rows).all(axis=0)] = np.nan
    return total


def _runs_beside(numbers: Sequence[Column], target: Column) -> list[tuple[str, ...]]:
    """Return the runs of two and more number columns that end just before the target or begin after it."""
    names = [column.name for column in numbers]
    place = names.index(target.name)
    before = [tuple(names[start:place]) for start in range(place - 1)]
    after = [tuple(names[place + 1 : end]) for end in range(place + 3, len(names) + 1)]
    return before + after


def _constants(relation: Relation, target: Column, other: Column) -> Iterator[tuple[Operation, str, bool]]:
    """Yield how a column may come from one other: the operation, the constant, and whether it stands first.

    Those are a fixed sum or difference, and a fixed factor, the shortest that all rows allow.
    """
    unit = Decimal(1).scaleb(-column_type(target).scale) / 2
    numbers = _number_pairs(target, other, list(sampled(relation)))
    if numbers is None or (numbers and not _may_be_constant(numbers, unit)):
        return
    groups = group_numbers([target.codes, other.codes], relation.row_count)
    numbers = _number_pairs(target, other, first_positions(groups).tolist())
    if numbers is None or len({own for own, _ in numbers}) < _DIFFERENT_FOR_A_FACTOR:
        return
    sums, differences = {own + cell for own, cell in numbers}, {own - cell for own, cell in numbers}
    if len(sums) == 1 and (total := next(iter(sums))) > 0:
        yield "-", f"{total:f}", True
    if len(differences) == 1 and (more := next(iter(differences))) > 0:
        yield "+", f"{more:f}", False
    factor = _factor(numbers, unit)
    if factor is not None:
        yield "*", f"{factor:f}", False


def _number_pairs(
    target: Column, other: Column, places: Sequence[int]
) -> list[tuple[Decimal, Decimal]] | None:
    """Return the numbers of two columns in some rows, where both are filled; None where some are none."""
    pairs = {
        (target.text(place), other.text(place))
        for place in places
        if target.codes[place] and other.codes[place]
    }
    try:
        return [(Decimal(own), Decimal(cell)) for own, cell in pairs]
    except InvalidOperation:
        return None


def _may_be_constant(numbers: Sequence[tuple[Decimal, Decimal]], unit: Decimal) -> bool:
    """Return whether the sum, the difference or the factor is the same, for all that some rows say."""
    if len({own + cell for own, cell in numbers}) == 1 or len({own - cell for own, cell in numbers}) == 1:
        return True
    ends = _ends(numbers, unit)
    return not ends or max(end[0] for end in ends) <= min(end[1] for end in ends)


def _ends(numbers: Sequence[tuple[Decimal, Decimal]], unit: Decimal) -> list[list[Decimal]]:
    """Return the ends of what the factor may be, for each pair of numbers."""
    return [sorted(((own - unit) / cell, (own + unit) / cell)) for own, cell in numbers if cell]


def _factor(numbers: Sequence[tuple[Decimal, Decimal]], unit: Decimal) -> Decimal | None:
    """Return the shortest factor by which all numbers come from others but for rounding; None for none."""
    ends = _ends(numbers, unit)
    if len(ends) < _DIFFERENT_FOR_A_FACTOR or any(own for own, cell in numbers if not cell):
        return None
    low, high = max(end[0] for end in ends), min(end[1] for end in ends)
    if low > high or high <= 0:
        return None
    for places in range(_MOST_PLACES + 1):
        step = Decimal(1).scaleb(-places)
        factor = ((low + high) / 2).quantize(step)
        if low <= factor <= high and factor > 0:
            return factor
    return None


def _pairs(names: Sequence[str]) -> list[tuple[Operation, tuple[str, str]]]:
    commuting = [(operation, pair) for pair in combinations(names, 2) for operation in _COMMUTING]
    return commuting + [(operation, pair) for pair in permutations(names, 2) for operation in _ORDERED]


def _floats(column: Column, step: int) -> Floats:
    values = np.array([float(value) if value else np.nan for value in column.values])
    return values[column.codes[::step]]


def _exactly(
    relation: Relation,
    target: Column,
    found: ColumnType,
    operation: Operation,
    names: tuple[str, ...],
    constant: str = "",
    constant_first: bool = False,
    blanks_count_nothing: bool = False,
    everywhere: bool = False,
) -> list[Computed]:
    """Return the best way to write a formula's results, judged on every row exactly.

    Where it must agree ``everywhere``, some rows may tell that it does not.
    """
    trimmed = (
        found.kind is Kind.DECIMAL
        and len({len(value.partition(".")[2]) for value in target.present_values}) > 1
    )
    best: Computed | None = None
    for rounding in _ROUNDINGS:
        formula = Formula(
            column=target.name,
            operation=operation,
            columns=names,
            scale=found.scale,
            rounding=rounding,
            trimmed=trimmed,
            constant=constant,
            constant_first=constant_first,
            blanks_count_nothing=blanks_count_nothing,
        )
        if everywhere and not holds_on_sample(relation, formula, target):
            continue
        computed = compared(relation, formula, target)
        if computed and (best is None or len(computed.disagreeing) < len(best.disagreeing)):
            best = computed
    return [best] if best else []


def explained(relation: Relation, columns: Sequence[str], target: str) -> bool:
    """Return whether one or two columns of numbers give another by a fixed sum or factor, or by arithmetic.

    Linear in the rows.
    """
    types = [column_type(relation.column(name)) for name in (*columns, target)]
    if not 1 <= len(columns) <= 2 or any(found.kind not in _NUMBERS for found in types):
        return False
    column = relation.column(target)
    if len(columns) == 1:
        return next(_constants(relation, column, relation.column(columns[0])), None) is not None
    return any(
        not one.disagreeing
        for operation, names in _pairs(columns)
        for one in _exactly(relation, column, types[-1], operation, names, everywhere=True)
    )
