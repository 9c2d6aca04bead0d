"""The rows of a file as its design sees them: cells as they are compared, repairs made again."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pravix.databases.known import database
from pravix.document.model import DesignDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.loading.sandbox import loaded_in_memory
from pravix.relation.relation import Relation
from pravix.relation.types import comparable
from pravix.sql.view import view_name
from pravix.wording import counted, joined, shortened


@dataclass(frozen=True)
class ArrivedRow:
    """One row: its number, its cells as they were read, and its values by column of the repaired rows."""

    number: int
    cells: tuple[str, ...]
    values: Mapping[str, str]


def arrived_rows(document: DesignDocument, relation: Relation, name: str) -> list[ArrivedRow]:
    """Return the rows of a new file. Raises InputError where it has not the columns of the design's file."""
    check_columns(document, relation.names, name)
    wanted = document.source.columns
    rows, numbers = relation.project(wanted).rows(), relation.row_numbers.tolist()
    return [
        ArrivedRow(number, row, _values(document, row)) for number, row in zip(numbers, rows, strict=True)
    ]


def check_columns(document: DesignDocument, names: Sequence[str], name: str) -> None:
    """Raise InputError where a new file has not the columns of the design's file."""
    wanted = document.source.columns
    lacking = [column for column in wanted if column not in names]
    more = [column for column in names if column not in wanted]
    if lacking or more:
        told = [f"lacks {joined([shortened(one) for one in lacking])}"] if lacking else []
        told += (
            [f"has {counted(len(more), 'column')} more: {joined([shortened(one) for one in more])}"]
            if more
            else []
        )
        raise InputError(
            f"{name} is no file of this design: it {joined(told)}", "Give a file with the same columns."
        )


def stored_rows(folder: Folder) -> list[ArrivedRow]:
    """Return the rows that a folder holds, put together in SQLite; they are numbered from 1."""
    try:
        with loaded_in_memory(folder) as (connection, fitted):
            view = database("sqlite").quoted(view_name(fitted))
            rows = connection.execute(f"SELECT * FROM {view}").fetchall()
    except sqlite3.Error as error:
        raise InputError(f"the folder {folder.path} cannot be used: {error}", "See: pravix prove") from None
    return rows_of_view(folder.design, rows)


def rows_of_view(document: DesignDocument, rows: Sequence[Sequence[object]]) -> list[ArrivedRow]:
    """Return the flat rows that a database gives; they are numbered from 1."""
    numeric = [kind.numeric for kind in document.flat.kinds]
    told = (tuple(map(comparable, row, numeric)) for row in rows)
    return [ArrivedRow(number, row, _values(document, row)) for number, row in enumerate(told, 1)]


def _values(document: DesignDocument, row: Sequence[str]) -> dict[str, str]:
    """Return the values of the repaired columns for the cells of a row."""
    kinds, names = document.flat.kinds, document.source.columns
    values = {
        name: comparable(cell, kind.numeric) for name, cell, kind in zip(names, row, kinds, strict=True)
    }
    for entry in document.rebuild:
        entry.replay(values)
    return values


def part_rows(document: DesignDocument, row: ArrivedRow, bundle: str) -> list[dict[str, str]]:
    """Return the parts that a row has of a list or family: the position and the facts by flat column."""
    cells = dict(zip(document.source.columns, row.cells, strict=True))
    found: dict[int, dict[str, str]] = {}
    for entry in document.children():
        child = document.by_name[entry.table]
        if (child.part_of or entry.table) != bundle:
            continue
        position = child.column(entry.position).flat or entry.position
        for place, fact in entry.parts(cells[entry.column]):
            found.setdefault(place, {position: str(place)})[entry.fact] = fact
    return list(found.values())


def bundle_of(document: DesignDocument, table: TableDocument, role: str) -> str:
    """Return the list or family whose parts a table holds in a role; nothing for what the rows say."""
    if table.repairs is not None or table.part_of:
        return table.part_of or table.name
    columns = set(table.flat_columns(role)) if role else set[str]()
    known = (child.of for child in document.made_parts if columns and columns <= {*child.columns})
    return next(known, "")
