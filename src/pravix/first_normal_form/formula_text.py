"""Formulas as people write them: ``gross - tare``, ``mean of a, b``, ``days from begun to due``."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence

from pravix.errors import InputError
from pravix.first_normal_form.formula import Formula, Operation, Rounding
from pravix.relation.relation import Relation
from pravix.relation.types import column_type, is_number
from pravix.wording import joined, shortened

FORMS = (
    '"a + b", "a - b", "a * b", "a / b", "100 * a / b", "a + b + c", "mean of a, b", "years from a to b", '
    '"days from a to b", "a + b days" or "year of a - year of b"; a and b are columns or numbers'
)
_HUNDRED = "100 * "
_BETWEEN = {
    "years": re.compile(r"years from (.+) to (.+)"),
    "days": re.compile(r"days from (.+) to (.+)"),
    "after": re.compile(r"(.+) \+ (.+) days"),
    "year": re.compile(r"year of (.+) - year of (.+)"),
}
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


def parsed_formulas(relation: Relation, column: str, text: str, place: str) -> list[Formula]:
    """Return the formulas that a text may mean for a column: one for each way of rounding and writing.

    Raises InputError, with the forms, for a text that is none, or names no column.
    """
    found = [one for one in _read(text.strip()) if all(map(_operand(relation), one[1]))]
    if not found:
        names = joined([shortened(name) for name in relation.names[:30]])
        raise InputError(
            f"{place}: {shortened(text)} is no formula over the columns {names}", f"Write {FORMS}."
        )
    operation, operands = found[0]
    constants = [one for one in operands if one not in relation.names]
    columns = tuple(one for one in operands if one in relation.names)
    if len(constants) > 1 or not columns:
        raise InputError(f"{place}: {shortened(text)} has too many numbers", f"Write {FORMS}.")
    scale = column_type(relation.column(column)).scale
    ways: list[tuple[Rounding, bool, bool]] = [
        (rounding, trimmed, filled)
        for rounding in ("ROUND_HALF_UP", "ROUND_HALF_EVEN")
        for trimmed in (False, True)
        for filled in ((False, True) if operation == "sum" else (False,))
    ]
    return [
        Formula(
            column=column,
            operation=operation,
            columns=columns,
            scale=scale,
            rounding=rounding,
            trimmed=trimmed,
            constant=constants[0] if constants else "",
            constant_first=bool(constants) and operands[0] == constants[0],
            blanks_count_nothing=filled,
        )
        for rounding, trimmed, filled in ways
    ]


def _operand(relation: Relation) -> Callable[[str], bool]:
    return lambda one: one in relation.names or is_number(one) or bool(_DAY.fullmatch(one))


def _read(text: str) -> Iterator[tuple[Operation, Sequence[str]]]:
    """Yield the ways to read a formula, the likeliest first; that the operands are columns is not checked."""
    operations: tuple[Operation, ...] = ("years", "days", "after", "year")
    for operation in operations:
        if match := _BETWEEN[operation].fullmatch(text):
            yield operation, [_bare(one) for one in match.groups()]
    if text.startswith("mean of "):
        yield "mean", [_bare(one) for one in text.removeprefix("mean of ").split(",")]
    if text.startswith(_HUNDRED) and " / " in text:
        yield from _split(text.removeprefix(_HUNDRED), " / ", "%")
    singles: tuple[Operation, ...] = ("-", "/", "*")
    for single in singles:
        yield from _split(text, f" {single} ", single)
    parts = [_bare(one) for one in text.split(" + ")]
    if len(parts) == 2:
        yield "+", parts
    if len(parts) >= 2:
        yield "sum", parts


def _split(text: str, mark: str, operation: Operation) -> Iterator[tuple[Operation, Sequence[str]]]:
    """Yield the ways to cut a text in two at a mark."""
    at = text.find(mark)
    while at >= 0:
        yield operation, [_bare(text[:at]), _bare(text[at + len(mark) :])]
        at = text.find(mark, at + 1)


def _bare(name: str) -> str:
    return name.strip().removeprefix('"').removesuffix('"')
