"""All tables as the sheets of one workbook, for people without a database."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any

from pravix.design.naming import free_name
from pravix.document.model import ColumnDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.harmless import harmless
from pravix.folder.reader import Folder
from pravix.wording import shortened
from pravix.writing import write_file

_MOST_ROWS = 1_048_575
_LONGEST_SHEET = 31
_LONGEST_CELL = 32_767
_FORBIDDEN = re.compile(r"[\[\]:*?/\\]")
_WIDEST = 40
_EXACT_DIGITS = 15


def write_workbook(folder: Folder, path: str, exact: bool = False) -> None:
    """Write the tables of a folder into an XLSX file: a sheet each, header frozen, keys marked.

    Texts that a spreadsheet could run as a formula get an apostrophe before them, unless the cells are to be
    ``exact``; they are written as texts either way. Raises InputError where a table has more rows than a
    sheet holds, or the file cannot be written.
    """
    import xlsxwriter

    for table in folder.tables:
        if table.rows > _MOST_ROWS:
            raise InputError(
                f"{shortened(table.name)} has {table.rows:,} rows, more than a sheet holds",
                "Use the CSV files, or pravix load.",
            )

    def fill(made: Path) -> None:
        with xlsxwriter.Workbook(str(made), {"constant_memory": True, "strings_to_formulas": False}) as book:
            names = sheet_names([table.name for table in folder.tables])
            key = book.add_format({"bold": True, "underline": 1, "bg_color": "#e4eef0", "bottom": 1})
            plain = book.add_format({"bold": True, "bg_color": "#e4eef0", "bottom": 1})
            for table, name in zip(folder.tables, names, strict=True):
                sheet = book.add_worksheet(name)
                sheet.freeze_panes(1, 0)
                for place, column in enumerate(table.columns):
                    is_key = column.name in table.primary_key
                    sheet.set_column(place, place, _width(column))
                    sheet.write_string(0, place, _title(column, exact), key if is_key else plain)
                _write_rows(sheet, folder, table, exact)
                sheet.autofilter(0, 0, max(table.rows, 1), len(table.columns) - 1)

    write_file(Path(path), fill)


def _title(column: ColumnDocument, exact: bool) -> str:
    return column.name if exact else harmless(column.name)


def _width(column: ColumnDocument) -> int:
    return min(max(len(column.name), column.length) + 3, _WIDEST)


def _write_rows(sheet: Any, folder: Folder, table: TableDocument, exact: bool) -> None:
    numbers = [column.kind.numeric and column.digits <= _EXACT_DIGITS for column in table.columns]
    for line, row in enumerate(folder.rows(table), 1):
        for place, cell in enumerate(row):
            if cell is None:
                continue
            if numbers[place]:
                sheet.write_number(line, place, float(cell))
            else:
                text = cell if exact else harmless(cell)
                if len(text) > _LONGEST_CELL:
                    column = shortened(table.columns[place].name)
                    raise InputError(
                        f"{table.file}, row {line + 1}, column {column}: the cell holds {len(text):,} "
                        f"characters, and one of a sheet at most {_LONGEST_CELL:,}",
                        "Use the CSV files, or pravix load.",
                    )
                sheet.write_string(line, place, text)


def sheet_names(tables: Sequence[str]) -> list[str]:
    """Return a name for each sheet: allowed marks, at most 31, all different where case is ignored."""
    taken: list[str] = []
    for table in tables:
        kept = _FORBIDDEN.sub("_", "".join(mark if mark.isprintable() else "_" for mark in table)).strip("' ")
        kept = kept[:_LONGEST_SHEET].strip("' ") or "table"
        taken.append(free_name(kept, [*taken, "history"], partial(_numbered, kept)))
    return taken


def _numbered(sheet: str, number: int) -> str:
    ending = f" {number}"
    return sheet[: _LONGEST_SHEET - len(ending)] + ending
