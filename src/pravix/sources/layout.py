"""Where the table is in a sheet: its header, its last row, its columns, and what stands around it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import pairwise

from pravix.errors import InputError
from pravix.sources.left_out import data_rows, filled, left_out
from pravix.sources.reading import Reading
from pravix.wording import counted, joined, shortened, unused

HEAD_ROWS = 60
"""Rows in which the header is sought."""

_NUMBER = re.compile(r"[-+]?[\d.,'’ ]*\d[\d.,]*\s*%?|\d{4}-\d\d-\d\d.*|\d{1,2}[./]\d{1,2}[./]\d{2,4}")

_UNIT = re.compile(r"[(\[]?[^\W\d]{0,4}[%°€$£µ]?[^\W\d]{0,4}[²³23]?(?:[/·*][^\W\d]{1,4}[²³23]?){0,2}[)\]]?")
_ROWS_BELOW_UNITS = 3


@dataclass(frozen=True)
class Grid:
    """The cells of a sheet as text, and each row's number; rows may differ in width.

    ``merged`` lists merged ranges as first and last row and column, as positions from 0.
    """

    rows: Sequence[list[str]]
    numbers: Sequence[int]
    merged: Sequence[tuple[int, int, int, int]] = ()


@dataclass(frozen=True)
class Laid:
    """A table found in a sheet: its names, its rows with their numbers, and what was left out or filled.

    ``ragged`` are rows of another width than the header, by number, with their cells. ``at_top`` says that
    the header is the first row; where it is not, the first of the ``notes`` says where it is.
    """

    names: list[str]
    rows: list[list[str]]
    numbers: list[int]
    notes: list[str] = field(default_factory=list)
    fillable: tuple[str, ...] = ()
    ragged: list[tuple[int, Sequence[str]]] = field(default_factory=list)
    at_top: bool = True


@dataclass(frozen=True)
class Header:
    """The positions of the first and the last header row."""

    first: int
    last: int


def find_header(rows: Sequence[Sequence[str]]) -> Header:
    """Return where the header is: the first row that is nearly as full as the fullest of the first rows.

    A row above or below it belongs to it where the two complete each other: group names over the
    columns that they hold for. Rows above are titles.
    """
    head = rows[:HEAD_ROWS]
    widest = max(map(filled, head), default=0)
    enough = max(min(2, widest), 0.6 * widest)
    first = next((place for place, row in enumerate(head) if filled(row) >= enough), 0)
    if first > 0 and _names_of(head[first - 1], head[first:]):
        return Header(first - 1, first - 1)
    if first > 0 and _group_names(head[first - 1], head[first], head[first + 1 : first + 6]):
        return Header(first - 1, first)
    if first + 1 < len(head) and _group_names(head[first], head[first + 1], head[first + 2 : first + 7]):
        return Header(first, first + 1)
    return Header(first, first)


def _names_of(above: Sequence[str], rows: Sequence[Sequence[str]]) -> bool:
    """Whether a row with blanks is the header all the same: words, above a row like those below it."""
    if filled(above) < 2 or len(rows) < 2 or any(_NUMBER.fullmatch(cell) for cell in above):
        return False
    first, below = rows[0], rows[1:6]
    for place, cell in enumerate(first):
        others = [row[place] for row in below if len(row) > place and row[place]]
        if cell and (cell in others or (_NUMBER.fullmatch(cell) and any(map(_NUMBER.fullmatch, others)))):
            return True
    return False


def _group_names(upper: Sequence[str], lower: Sequence[str], below: Sequence[Sequence[str]]) -> bool:
    """Whether two rows are one header: group names above, the names of the columns below."""
    pairs = list(_padded(upper, lower))
    gaps = [place for place, (one, other) in enumerate(pairs) if not one and other]
    if filled(upper) < 2 or not gaps or any(not one and not other for one, other in pairs):
        return False
    if any(_NUMBER.fullmatch(cell) for row in (upper, lower) for cell in row if cell):
        return False
    grouped = [place for place in gaps if any(pairs[left][0] and pairs[left][1] for left in range(place))]
    numeric = [any(len(row) > place and _NUMBER.fullmatch(row[place]) for row in below) for place in grouped]
    return bool(grouped) and any(numeric)


def laid_out(grid: Grid, reading: Reading, name: str) -> Laid:
    """Find the table in a sheet and return its names and rows, with a note for each thing done.

    Raises InputError where there is no data, or where names are missing or equal and may not be
    numbered. Linear in the cells.
    """
    rows, numbers, notes = (
        [[cell.strip() for cell in row] for row in grid.rows],
        list(grid.numbers),
        list[str](),
    )
    fills = [filled(row) for row in rows]
    if not any(fills):
        raise InputError(f"{name} is empty", "Give a table with a header row and data rows.")
    header = _header(rows, numbers, fills, reading, name)
    if header.last > 0:
        some = "rows" if header.last != header.first else "row"
        notes.append(f"header in {some} {_row_span(header, numbers)}")
    body = _body(rows, numbers, fills, header, reading, notes)
    if not body:
        raise InputError(f"{name} holds a header and no data rows", "Give a file with at least one data row.")
    repeated = _fill_merged(grid.rows, body, grid.merged)
    if repeated:
        notes.append(f"the value of {counted(repeated, 'merged range')} repeated in all its rows")
    heads = _names(rows[header.first : header.last + 1])
    heads, kept, ragged = _columns(heads, rows, body, notes)
    names = _unique_names(heads, reading, name, f"row {_row_span(header, numbers)}", notes)
    cells = [[grid.rows[place][column] for column in kept] for place in body if place not in ragged]
    fillable = _written_once(names, cells) if reading.fill is None else ()
    _fill_wished(names, cells, reading, name, notes)
    return Laid(
        names,
        cells,
        [numbers[place] for place in body if place not in ragged],
        notes,
        fillable,
        [(numbers[place], rows[place]) for place in sorted(ragged)],
        header.last == 0,
    )


def _header(
    rows: Sequence[Sequence[str]],
    numbers: Sequence[int],
    fills: Sequence[int],
    reading: Reading,
    name: str,
) -> Header:
    """Return the header asked for, or else the one found among the rows that are not blank."""
    if reading.header is not None:
        first, last = reading.header
        if first not in numbers or last not in numbers or last - first not in (0, 1):
            hint = "Give a row of the file, or two that follow each other."
            raise InputError(f"{name} has no header in row {first}", hint)
        return Header(numbers.index(first), numbers.index(last))
    full = [place for place, fill in enumerate(fills) if fill]
    found = find_header([rows[place] for place in full[: HEAD_ROWS + 2]])
    first, last = full[found.first], full[found.last]
    return Header(first if last - first == found.last - found.first else last, last)


def _body(
    rows: Sequence[Sequence[str]],
    numbers: Sequence[int],
    fills: Sequence[int],
    header: Header,
    reading: Reading,
    notes: list[str],
) -> list[int]:
    """Return the positions of the data rows, and note what was left out."""
    body = [place for place in range(header.last + 1, len(rows)) if fills[place]]
    end = max(body, default=header.last)
    if reading.last_row is not None:
        after = [place for place in body if numbers[place] > reading.last_row]
        body = [place for place in body if numbers[place] <= reading.last_row]
        notes += left_out("row", "after the last row", after, numbers)
    if reading.skip is not None:
        notes += left_out("row", "as wished", [p for p in body if numbers[p] in reading.skip], numbers)
        body = [place for place in body if numbers[place] not in reading.skip]
    body = _without_units(rows, body, header, numbers, notes)
    again = [place for place in body if rows[place] == rows[header.last]]
    notes += left_out("repeated header", "", again, numbers)
    body = [place for place in body if place not in set(again)]
    if reading.last_row is None and reading.skip is None:
        body = data_rows(rows, body, fills, numbers, notes)
    blank = sum(1 for fill in fills[header.last + 1 : end + 1] if not fill) + len(rows) - 1 - end
    if blank:
        notes.append(f"{counted(blank, 'blank line')} left out")
    return body


def _without_units(
    rows: Sequence[Sequence[str]],
    body: list[int],
    header: Header,
    numbers: Sequence[int],
    notes: list[str],
) -> list[int]:
    """Return the positions of the data rows without a row of units under the header; the units are told."""
    if not body or not units_row(rows[body[0]], [rows[place] for place in body[1:HEAD_ROWS]]):
        return body
    units = [
        f"{shortened(name)} in {cell}" if cell else ""
        for name, cell in _padded(_names(rows[header.first : header.last + 1]), rows[body[0]])
    ]
    notes.append(f"row {numbers[body[0]]} has units and is no data: {joined(list(filter(None, units)))}")
    return body[1:]


def units_row(row: Sequence[str], below: Sequence[Sequence[str]]) -> bool:
    """Whether a row holds the units of the numbers below it, and nothing else."""
    cells = [(place, cell) for place, cell in enumerate(row) if cell]
    if not cells or len(below) < _ROWS_BELOW_UNITS or not all(_UNIT.fullmatch(cell) for _, cell in cells):
        return False
    told = [[other[place] for other in below if len(other) > place and other[place]] for place, _ in cells]
    return all(column and all(map(_NUMBER.fullmatch, column)) for column in told)


def _fill_wished(
    names: Sequence[str], cells: Sequence[list[str]], reading: Reading, name: str, notes: list[str]
) -> None:
    """Fill the columns down that the analyst names."""
    for column in reading.fill or ():
        if column not in names:
            raise InputError(
                f"{name} has no column {shortened(column)} to fill", "Use the names of the header."
            )
        filled = _fill_down(cells, names.index(column))
        notes.append(f"{shortened(column)} filled down in {counted(filled, 'row')}")


def _columns(
    heads: list[str],
    rows: Sequence[list[str]],
    body: Sequence[int],
    notes: list[str],
) -> tuple[list[str], list[int], set[int]]:
    """Return the names and places of the columns kept, and the rows of another width.

    Blank columns without a name are left out. A row may be longer than the header by blank cells.
    """
    width = len(heads)
    while (
        width and not heads[width - 1] and not any(len(rows[p]) >= width and rows[p][width - 1] for p in body)
    ):
        width -= 1
    ragged = {place for place in body if len(rows[place]) < width or any(rows[place][width:])}
    sound = [rows[place] for place in body if place not in ragged]
    kept = [column for column in range(width) if heads[column] or any(row[column] for row in sound)]
    dropped = len(heads) - len(kept)
    if dropped:
        notes.append(f"{counted(dropped, 'blank column')} left out")
    return [heads[column] for column in kept], kept, ragged


def _names(lines: Sequence[Sequence[str]]) -> list[str]:
    """Return one name a column: of two header lines, the group's name before the column's."""
    if len(lines) == 1:
        return [" ".join(cell.split()) for cell in lines[0]]
    names, group = [], ""
    for upper, lower in _padded(lines[0], lines[-1]):
        group = upper or group
        names.append(" ".join(f"{group} {lower}".split()) if lower else " ".join(upper.split()))
    return names


def _unique_names(
    heads: Sequence[str], reading: Reading, name: str, place: str, notes: list[str]
) -> list[str]:
    """Return different, non-empty names; raise InputError where they are not and may not be numbered."""
    names: list[str] = []
    for column, head in enumerate(heads, 1):
        if head and head not in names:
            names.append(head)
            continue
        if not reading.number_names:
            raise _bad_name(heads, column, name, place)
        called = head or "column"
        wanted = unused(
            f"{called} {2 if head else column}",
            {*names, *heads}.__contains__,
            partial("{} {}".format, called),
            first=3 if head else column + 1,
        )
        notes.append(f"column {column} is called {shortened(wanted)}")
        names.append(wanted)
    return names


def _bad_name(heads: Sequence[str], column: int, name: str, place: str) -> InputError:
    head = heads[column - 1]
    if not head:
        told = f"{name}, {place}: column {column} of {len(heads)} has no name"
    else:
        first = list(heads).index(head) + 1
        told = f"{name}, {place}: columns {first} and {column} are both named {shortened(head)}"
    return InputError(told, "Name it in the header, or let --number-names number such columns.")


def _row_span(header: Header, numbers: Sequence[int]) -> str:
    first, last = numbers[header.first], numbers[header.last]
    return str(first) if first == last else f"{first} and {last}"


def _fill_merged(
    rows: Sequence[list[str]], body: Sequence[int], merged: Sequence[tuple[int, int, int, int]]
) -> int:
    """Repeat the value of each merged range in all of its cells in data rows; count such ranges."""
    inside, repeated = set(body), 0
    for first_row, first_column, last_row, last_column in merged:
        if first_row >= len(rows) or first_column >= len(rows[first_row]):
            continue
        value = rows[first_row][first_column]
        repeated += first_row in inside
        for place in range(first_row, last_row + 1):
            if place in inside:
                for column in range(first_column, min(last_column + 1, len(rows[place]))):
                    rows[place][column] = value
    return repeated


def _written_once(names: Sequence[str], cells: Sequence[Sequence[str]]) -> tuple[str, ...]:
    """Return the columns that look as if a group's value stands in the group's first row only.

    They are the leading columns whose first cell is filled, which are blank in many rows, and never
    repeat the value above; and other columns that are blank in exactly the same rows as one of these.
    """
    if len(cells) < 4:
        return ()
    columns = list(zip(*cells, strict=True))
    patterns = [tuple(not cell for cell in column) if "" in column else () for column in columns]

    def once(column: int) -> bool:
        filled = [cell for cell in columns[column] if cell]
        enough = 0.2 <= sum(patterns[column]) / len(cells) <= 0.97
        return enough and not patterns[column][0] and all(a != b for a, b in pairwise(filled))

    leading: list[int] = []
    while len(leading) < len(names) and once(len(leading)):
        leading.append(len(leading))
    same = {patterns[column] for column in leading}
    return tuple(
        name
        for column, name in enumerate(names)
        if column in leading or (patterns[column] in same and once(column))
    )


def _fill_down(cells: Sequence[list[str]], column: int) -> int:
    filled, above = 0, ""
    for row in cells:
        if row[column]:
            above = row[column]
        elif above:
            row[column] = above
            filled += 1
    return filled


def _padded(one: Sequence[str], other: Sequence[str]) -> list[tuple[str, str]]:
    width = max(len(one), len(other))
    wide = [[*row, *[""] * (width - len(row))] for row in (one, other)]
    return list(zip(*wide, strict=True))


def ragged_told(ragged: Sequence[tuple[int, int]], expected: int, name: str) -> str:
    """Return one line that names the first rows of another width than the header, each with its width."""
    told = joined([f"row {number} has {counted(width, 'field')}" for number, width in ragged[:3]])
    more = f"; {counted(len(ragged) - 3, 'more row')} like that" if len(ragged) > 3 else ""
    return f"{name}: {told} where the header has {expected}{more}"
