"""Cells made plain: outer spaces and words for no value removed, decimal commas turned into points, patches
applied.
"""

from __future__ import annotations

import csv
import os
import re
from collections.abc import Callable, Collection, Mapping, Sequence
from functools import partial

import numpy as np

from pravix.errors import InputError
from pravix.relation.relation import Column, Relation
from pravix.relation.texts import together
from pravix.wording import counted, joined, shortened

_COMMA = re.compile(r"-?\d{1,3}(?:\.\d{3})+,\d+|-?\d+,\d+")
_PLAIN = re.compile(r"-?\d{1,3}(?:\.\d{3})+|-?\d+")
PATCH_COLUMNS = ("row", "column", "now", "instead", "why")


def plain(
    relation: Relation,
    name: str,
    keep_spaces: bool = False,
    blank: Mapping[str, Collection[str]] | None = None,
) -> tuple[Relation, list[str]]:
    """Return a relation with plain cells, and a note for each change.

    Outer spaces go, unless they are to be kept; a cell of spaces alone is a blank, and so is one of the words
    for that which ``blank`` has for each column. In a column where every
    value is a number and at least one has a decimal comma, the comma becomes a point and points between
    thousands go; not where every comma stands before three digits, which may be thousands as well. Raises
    InputError for a cell with a zero byte, which no database takes. Linear in the different values.
    """
    notes: list[str] = []
    _check_zero_bytes(relation, name)
    spaced = [column for column in relation.columns if _has_outer_spaces(column)]
    if spaced and keep_spaces:
        relation = _changed(relation, {column.name: _blank_or_as_it_is for column in spaced})
    elif spaced:
        cells = sum(_count(column, lambda value: value != value.strip()) for column in spaced)
        notes.append(f"outer spaces removed from {counted(cells, 'cell')} (--keep-spaces keeps them)")
        relation = _changed(relation, {column.name: str.strip for column in spaced})
    relation, emptied = _without_words(relation, blank or {})
    notes += emptied
    commas = [column.name for column in relation.columns if has_decimal_commas(column.values)]
    if commas:
        notes.append(f"decimal commas read as points in {joined([shortened(name) for name in commas])}")
        relation = _changed(relation, dict.fromkeys(commas, _pointed))
    return relation, notes


def _without_words(relation: Relation, blank: Mapping[str, Collection[str]]) -> tuple[Relation, list[str]]:
    """Return a relation with blanks for the words that stand for them in some columns, and a note."""
    changes: dict[str, Callable[[str], str]] = {}
    told, cells = dict[str, None](), 0
    for name, words in blank.items():
        column = relation.column(name)
        if found := _count(column, words.__contains__):
            changes[name] = partial(_but_for, words)
            cells += found
            told |= dict.fromkeys(value for value in column.values if value in words)
    if not changes:
        return relation, []
    what, where = joined([shortened(word) for word in told]), joined([shortened(name) for name in changes])
    return _changed(relation, changes), [f"{what} read as a blank in {counted(cells, 'cell')} of {where}"]


def _but_for(words: Collection[str], value: str) -> str:
    return "" if value in words else value


def _blank_or_as_it_is(value: str) -> str:
    return value if value.strip() else ""


def _check_zero_bytes(relation: Relation, name: str) -> None:
    for column in relation.columns:
        if "\0" in together(column.values):
            code = next(code for code, value in enumerate(column.values) if "\0" in value)
            found = np.flatnonzero(column.codes == code)
            if len(found):
                raise InputError(
                    f"{name}, row {relation.row_numbers[found[0]]}, column {shortened(column.name)}: "
                    "the cell holds a zero byte, which no database takes",
                    "Remove it from the cell.",
                )


def patched(relation: Relation, path: str, name: str) -> tuple[Relation, list[str]]:
    """Return a relation with the corrected cells of a patch file, and a note about them.

    The patch is CSV with the columns row, column, now, instead and why. Raises InputError where it
    names a row or a column that is not there, or a cell that does not hold what ``now`` says; then
    nothing is applied.
    """
    patch = os.path.basename(path)
    position = {number: place for place, number in enumerate(relation.row_numbers.tolist())}
    texts: dict[str, list[str]] = {}
    for line, entry in _patch_entries(path, patch):
        column, row = entry["column"], entry["row"]
        if column not in relation.names:
            raise InputError(
                f"{patch}, row {line}: {name} has no column {shortened(column)}", "Correct the patch."
            )
        if not row.isdecimal() or int(row) not in position:
            raise InputError(
                f"{patch}, row {line}: {name} has no data row {shortened(row)}", "Correct the patch."
            )
        cells = texts.setdefault(column, relation.column(column).texts())
        place = position[int(row)]
        if cells[place] != entry["now"]:
            raise InputError(
                f"{patch}, row {line}: row {row}, column {shortened(column)} of {name} "
                f"holds {shortened(cells[place]) or 'a blank'}, not {shortened(entry['now']) or 'a blank'}",
                "Was the patch made for another file, or applied already?",
            )
        cells[place] = entry["instead"].strip()
    corrected = sum(1 for _ in _patch_entries(path, patch))
    columns = tuple(
        Column.from_texts(column.name, texts[column.name]) if column.name in texts else column
        for column in relation.columns
    )
    return Relation(columns, relation.row_numbers), [f"{counted(corrected, 'cell')} corrected by {patch}"]


def _patch_entries(path: str, patch: str) -> list[tuple[int, dict[str, str]]]:
    try:
        with open(path, encoding="utf-8-sig", newline="") as file:
            reader = csv.DictReader(file, strict=True)
            if tuple(reader.fieldnames or ())[: len(PATCH_COLUMNS) - 1] != PATCH_COLUMNS[:-1]:
                raise InputError(
                    f"{patch}, row 1: a patch has the columns {', '.join(PATCH_COLUMNS)}",
                    "Correct its header.",
                )
            entries = list(enumerate(reader, 2))
    except OSError as error:
        raise InputError(f"the patch {path} cannot be read: {error.strerror}") from None
    except (UnicodeDecodeError, csv.Error) as error:
        raise InputError(f"{patch} is not a CSV file in UTF-8: {error}") from None
    for line, entry in entries:
        if any(entry[column] is None for column in PATCH_COLUMNS[:-1]):
            raise InputError(f"{patch}, row {line}: cells are missing", "Give row, column, now and instead.")
    return entries


def _has_outer_spaces(column: Column) -> bool:
    """Whether some value begins or ends with a space; all values are looked at as one text first."""
    text = together(column.values)
    if len(text.split(None, 1)) < 2 and text == text.strip():
        return False
    return any(value != value.strip() for value in column.values)


def has_decimal_commas(values: Sequence[str]) -> bool:
    """Whether all texts are numbers, some with a decimal comma that cannot be one between thousands."""
    if "," not in together(values):
        return False
    commas, ambiguous = False, True
    for value in values:
        if not value or _PLAIN.fullmatch(value):
            continue
        if not _COMMA.fullmatch(value):
            return False
        commas = True
        ambiguous &= len(value.rpartition(",")[2]) == 3
    return commas and not ambiguous


def _pointed(value: str) -> str:
    return value.replace(".", "").replace(",", ".")


def _count(column: Column, wanted: Callable[[str], bool]) -> int:
    counts = column.counts
    return sum(int(counts[code]) for code, value in enumerate(column.values) if wanted(value))


def _changed(relation: Relation, changes: dict[str, Callable[[str], str]]) -> Relation:
    """Return the relation with the values of some columns changed; values that become equal share a code."""
    columns = []
    for column in relation.columns:
        change = changes.get(column.name)
        if change is None:
            columns.append(column)
            continue
        known: dict[str, int] = {"": 0}
        moved = np.array(
            [known.setdefault(change(value), len(known)) for value in column.values], dtype=np.int32
        )
        columns.append(Column(column.name, moved[column.codes], list(known)))
    return Relation(tuple(columns), relation.row_numbers)
