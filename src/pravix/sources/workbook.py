"""A sheet of a workbook (XLSX, ODS, XLS) becomes a relation, its cells as people see them."""

from __future__ import annotations

import datetime
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from typing import Any

from pravix.errors import InputError
from pravix.sources.account import Account, Source
from pravix.sources.arriving import MOST_BYTES, check_readable, display_name
from pravix.sources.coding import coded_relation
from pravix.sources.delimited import keep_apart
from pravix.sources.layout import Grid, laid_out
from pravix.sources.reading import Reading
from pravix.wording import joined, shortened

SUFFIXES = (".xlsx", ".xlsm", ".xlsb", ".ods", ".xls")
_DIGITS = 12


def read_workbook(path: str, reading: Reading) -> Source:
    """Read one sheet of a workbook: the one asked for by name or number, or the only one with data.

    A cell with a formula has its stored value; a merged range has its value in every cell. Raises
    InputError for a broken, encrypted or hostile file, and for several sheets with data, which it lists.
    """
    from python_calamine import CalamineError, CalamineWorkbook, PasswordError

    name = display_name(path)
    check_readable(path)
    _check_archive(path, name)
    try:
        book = CalamineWorkbook.from_path(path)
        sheet, cells = _sheet(book, reading.sheet, name)
        merged = [(a[0], a[1], b[0], b[1]) for a, b in sheet.merged_cell_ranges or ()]
    except PasswordError:
        raise InputError(f"{name} is protected by a password", "Save a copy without the password.") from None
    except (CalamineError, OSError, ValueError) as error:
        reason = shortened(str(error), 80)
        raise InputError(f"{name} is not a readable workbook: {reason}", "Open and save it again.") from None
    rows = texts(cells)
    laid = laid_out(
        Grid(rows, range(1, len(rows) + 1), merged), reading, f"{name}, sheet {shortened(sheet.name)}"
    )
    if laid.ragged:
        keep_apart(laid, reading, name)
    relation = coded_relation(laid.names, laid.rows, laid.numbers)
    notes = (
        laid.notes
        if any(note.startswith("header in") for note in laid.notes)
        else ["header in row 1", *laid.notes]
    )
    return Source(relation, Account(name, f"sheet {shortened(sheet.name)}", tuple(notes), laid.fillable))


def filled_sheets(path: str) -> list[str]:
    """Return the names of the sheets that hold data. Raises InputError as ``read_workbook`` does."""
    from python_calamine import CalamineError, CalamineWorkbook

    name = display_name(path)
    check_readable(path)
    _check_archive(path, name)
    try:
        book = CalamineWorkbook.from_path(path)
        return [title for title in book.sheet_names if book.get_sheet_by_name(title).to_python()]
    except (CalamineError, OSError, ValueError) as error:
        reason = shortened(str(error), 80)
        raise InputError(f"{name} is not a readable workbook: {reason}", "Open and save it again.") from None


def texts(rows: Iterable[Sequence[Any]]) -> list[list[str]]:
    """Return the cells as text without outer spaces. Equal numbers are written once and shared."""
    numbers = _Numbers()
    return [
        [
            cell.strip()
            if cell.__class__ is str
            else numbers[cell]
            if cell.__class__ is float
            else cell_text(cell)
            for cell in row
        ]
        for row in rows
    ]


class _Numbers(dict[float, str]):
    """Numbers with their texts, each written when it is first asked for."""

    def __missing__(self, number: float) -> str:
        text = self[number] = _number_text(number)
        return text


def cell_text(cell: Any) -> str:
    """Return one value as people see it: no exponent, no digits that rounding left behind, ISO dates."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return _number_text(cell)
    if isinstance(cell, datetime.datetime):
        whole = cell.time() == datetime.time()
        return cell.date().isoformat() if whole else cell.isoformat(" ", "seconds")
    if isinstance(cell, datetime.timedelta):
        minutes, seconds = divmod(round(cell.total_seconds()), 60)
        return f"{minutes // 60:02}:{minutes % 60:02}" + (f":{seconds:02}" if seconds else "")
    if isinstance(cell, datetime.time):
        return cell.isoformat("seconds" if cell.second else "minutes")
    return str(cell)


def _number_text(number: float) -> str:
    text = f"{number:.{_DIGITS}g}"
    if "e" not in text and "n" not in text:
        return text
    if number != number or number in (float("inf"), float("-inf")):
        return ""
    if number == int(number) and abs(number) < 1e15:
        return str(int(number))
    rounded = float(text)
    plain = f"{rounded:.{_DIGITS}f}" if abs(rounded) >= 1e-6 else f"{rounded:.20f}"
    return plain.rstrip("0").rstrip(".")


def _sheet(book: Any, wanted: str | None, name: str) -> tuple[Any, list[list[Any]]]:
    """Return the sheet to read, and its cells from the first row and column on."""
    titles = list(book.sheet_names)
    if wanted is None:
        sheets = [book.get_sheet_by_name(title) for title in titles]
    elif wanted in titles:
        sheets = [book.get_sheet_by_name(wanted)]
    elif wanted.isdecimal() and 1 <= int(wanted) <= len(titles):
        sheets = [book.get_sheet_by_name(titles[int(wanted) - 1])]
    else:
        raise InputError(f"{name} has no sheet {shortened(wanted)}", f"Its sheets: {_listed(titles)}.")
    filled = [(sheet, cells) for sheet in sheets if (cells := sheet.to_python(skip_empty_area=False))]
    if not filled:
        raise InputError(f"{name} is empty: no sheet holds data", "Give a workbook with a table.")
    if len(filled) > 1:
        hint = f"Choose one with --sheet: {_listed([sheet.name for sheet, _ in filled])}."
        raise InputError(f"{name} has {len(filled)} sheets with data", hint)
    return filled[0]


def _listed(titles: Sequence[str]) -> str:
    return joined([f"{place} {shortened(title)}" for place, title in enumerate(titles, 1)])


def _check_archive(path: str, name: str) -> None:
    """Refuse archives that unpack to something huge, and XML that declares entities."""
    if not zipfile.is_zipfile(path):
        return
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
            if sum(entry.file_size for entry in entries) > MOST_BYTES:
                raise InputError(
                    f"{name} unpacks to more than {MOST_BYTES >> 30} GiB",
                    "Split the workbook into smaller ones.",
                )
            for entry in entries:
                if entry.filename.endswith((".xml", ".rels")):
                    with archive.open(entry) as part:
                        if b"<!DOCTYPE" in part.read(4096):
                            raise InputError(
                                f"{name} declares XML entities, which no workbook needs", "Save it again."
                            )
    except (zipfile.BadZipFile, zlib.error, OSError, ValueError, RuntimeError, EOFError) as error:
        reason = shortened(str(error), 60)
        raise InputError(f"{name} is not a readable workbook: {reason}", "Open and save it again.") from None
