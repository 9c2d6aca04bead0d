"""A sheet of a workbook (XLSX, ODS, XLS) becomes a relation, its cells as people see them."""

from __future__ import annotations

import datetime
import re
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from typing import IO, Any

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
_FULL = 0.6
_FEWEST_ROWS = 3
_MOST_CELLS = 60_000_000
_HEAD_BYTES = 4096
_DIMENSION = re.compile(rb'<dimension[^>]*ref="(?:[A-Z]+[0-9]+:)?([A-Z]+)([0-9]+)"')
_PLACE = re.compile(rb'<c [^>]*?r="([A-Z]+)([0-9]+)"')


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
        sheet, cells, others = _sheet(book, reading.sheet, name)
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
    notes = [*others, *(["header in row 1"] if laid.at_top else []), *laid.notes]
    return Source(
        relation, Account(name, f"sheet {shortened(sheet.name)}", tuple(notes), fillable=laid.fillable)
    )


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
    """Return the cells as text. Equal numbers are written once and shared."""
    numbers = _Numbers()
    return [
        [
            cell if cell.__class__ is str else numbers[cell] if cell.__class__ is float else cell_text(cell)
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


def _sheet(book: Any, wanted: str | None, name: str) -> tuple[Any, list[list[Any]], list[str]]:
    """Return the sheet to read, its cells from the first row and column on, and notes on the other sheets."""
    from python_calamine import SheetVisibleEnum

    titles = list(book.sheet_names)
    if wanted is not None:
        if wanted not in titles and not (wanted.isdecimal() and 1 <= int(wanted) <= len(titles)):
            raise InputError(f"{name} has no sheet {shortened(wanted)}", f"Its sheets: {_listed(titles)}.")
        sheet = book.get_sheet_by_name(wanted if wanted in titles else titles[int(wanted) - 1])
        return sheet, sheet.to_python(skip_empty_area=False), []
    hidden = {one.name for one in book.sheets_metadata if one.visible != SheetVisibleEnum.Visible}
    filled = []
    for title in titles:
        sheet = book.get_sheet_by_name(title)
        cells = sheet.to_python(skip_empty_area=False)
        if cells:
            filled.append((sheet, cells))
    if not filled:
        raise InputError(f"{name} is empty: no sheet holds data", "Give a workbook with a table.")
    tables = [one for one in filled if one[0].name not in hidden and _is_table(one[1])]
    if len(filled) > 1 and len(tables) != 1:
        hint = f"Choose one with --sheet: {_listed([sheet.name for sheet, _ in filled])}."
        raise InputError(f"{name} has {len(filled)} sheets with data", hint)
    sheet, cells = tables[0] if tables else filled[0]
    left = [
        f"{shortened(one.name)} ({'hidden' if one.name in hidden else 'no table'})"
        for one, _ in filled
        if one.name != sheet.name
    ]
    return sheet, cells, [f"the only visible table; left out: {joined(left)}"] if left else []


def _is_table(cells: Sequence[Sequence[Any]]) -> bool:
    """Whether a sheet holds a table: several rows that fill the same columns, two at least."""
    fills = [sum(cell not in ("", None) for cell in row) for row in cells]
    rows = [fill for fill in fills if fill > 1 and fill >= _FULL * max(fills)]
    return len(rows) >= _FEWEST_ROWS


def _check_extent(head: bytes, part: IO[bytes], name: str, sheet: str) -> None:
    """Refuse a sheet with a stray cell so far away that the area up to it would fill the memory."""
    found = _DIMENSION.search(head)
    if found:
        width, height = _column_number(found[1]), int(found[2])
    else:
        width = height = 0
        text = head
        while text:
            for place in _PLACE.finditer(text):
                width, height = max(width, _column_number(place[1])), max(height, int(place[2]))
            rest = text[text.rfind(b"<") :] if b"<" in text else b""
            more = part.read(1 << 20)
            text = rest + more if more else b""
    if width * height > _MOST_CELLS:
        raise InputError(
            f"{name}: {sheet} reaches to column {width:,} and row {height:,}",
            "A stray cell stands far from the table: delete the empty rows and columns, and save it again.",
        )


def _column_number(letters: bytes) -> int:
    """Return the number of a column from its letters: A is 1, AA is 27."""
    number = 0
    for letter in letters:
        number = 26 * number + letter - ord("A") + 1
    return number


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
                        head = part.read(_HEAD_BYTES)
                        if b"<!DOCTYPE" in head:
                            raise InputError(
                                f"{name} declares XML entities, which no workbook needs", "Save it again."
                            )
                        if entry.filename.startswith("xl/worksheets/sheet"):
                            _check_extent(head, part, name, entry.filename)
    except (zipfile.BadZipFile, zlib.error, OSError, ValueError, RuntimeError, EOFError) as error:
        reason = shortened(str(error), 60)
        raise InputError(f"{name} is not a readable workbook: {reason}", "Open and save it again.") from None
