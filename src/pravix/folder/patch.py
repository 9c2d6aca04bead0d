"""The patch file: proposed corrections of cells, for the analyst to edit and to apply with --patch."""

from __future__ import annotations

import csv
import os
from collections.abc import Sequence
from pathlib import Path

from pravix.errors import InputError
from pravix.first_normal_form.footnotes import marked_numbers
from pravix.first_normal_form.lists import list_column
from pravix.first_normal_form.spellings import rows_of, variants
from pravix.judgement.near import NearDependency, Oddity
from pravix.relation.relation import Relation
from pravix.sources.cells import PATCH_COLUMNS
from pravix.writing import new_file


def write_patch(relation: Relation, near: Sequence[NearDependency], path: str) -> int:
    """Write the proposed corrections of a relation's cells into a new file and return their number.

    Spelling variants, misspellings that break a rule, uneven separators in lists and the marks of footnotes
    are proposed, ordered by row. Raises InputError where the file is there already or cannot be written.
    """
    by_cell = {(line[0], line[1]): line for line in (*_exceptions(near), *_spellings(relation))}
    lines = sorted({*by_cell.values(), *_separators(relation), *_footnotes(relation)})
    if os.path.exists(path):
        raise InputError(f"{path} is there already", "Give a new file; the patch may hold your own edits.")
    with new_file(Path(path)) as made, made.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerows([PATCH_COLUMNS, *lines])
    return len(lines)


def _spellings(relation: Relation) -> list[tuple[int, str, str, str, str]]:
    return [
        (row, variant.column, variant.now, variant.instead, variant.told)
        for variant in variants(relation)
        for row in rows_of(relation, variant)
    ]


def _exceptions(near: Sequence[NearDependency]) -> list[tuple[int, str, str, str, str]]:
    return [
        (cell.row, one.rule.dependent, cell.now, cell.instead, f"{cell.why}; breaks {one.rule}")
        for one in near
        for cell in one.odd
        if cell.oddity is Oddity.MISSPELLING
    ]


def _footnotes(relation: Relation) -> list[tuple[int, str, str, str, str]]:
    return [
        (row, column.name, cell, marked[cell], "without the mark of a footnote")
        for column in relation.columns
        if (marked := {one.now: one.instead for one in marked_numbers(column)})
        for row, cell in zip(relation.row_numbers.tolist(), column.texts(), strict=True)
        if cell in marked
    ]


def _separators(relation: Relation) -> list[tuple[int, str, str, str, str]]:
    lines = []
    for column in relation.columns:
        found = list_column(column)
        if found is None:
            continue
        uneven = {value: even for value in column.present_values if (even := found.evened(value)) != value}
        for row, cell in zip(relation.row_numbers.tolist(), column.texts(), strict=True):
            if cell in uneven:
                lines.append((row, column.name, cell, uneven[cell], "another separator"))
    return lines
