"""Rows that are no data: totals anywhere, remarks below the table. A doubtful one is kept, and told."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from decimal import Decimal, InvalidOperation
from statistics import median

from pravix.wording import counted, shortened

_TOTAL = re.compile(
    r"\W*((grand|sub)?[ -]?totals?\b.*|(sum|average|mean|count|summe|gesamt|zwischensumme)\W*)", re.IGNORECASE
)
_TOTAL_ALONE = re.compile(
    r"\W*((grand|sub)?[ -]?totals?|sum|average|mean|count|summe|gesamt|zwischensumme)\W*", re.IGNORECASE
)
_REMARK = re.compile(
    r"[*†‡§¹²³#(]|\d\)|note|source|remark|quelle|stand\b|anmerkung|hinweis|source\b|nota|signed",
    re.IGNORECASE,
)
_NUMBER = re.compile(r"[-+]?\d[\d,']*(?:\.\d+)?")
_FOOTNOTE = re.compile(r"(?:[*†‡§¹²³]|[a-z1-9]\))\s*\w")
_NAMED_ROWS = 5
_SPARSE = 0.6
_WAYS = 3
_WAYS_OF_A_REMARK = 2
_WORDS = 4


def filled(row: Sequence[str]) -> int:
    """Return how many cells of a row hold something."""
    return len(row) - row.count("")


def typical_fill(rows: Sequence[Sequence[str]]) -> float:
    """Return how many cells of a row are filled, as a median over the rows."""
    return median(map(filled, rows)) if rows else 0.0


def total_row(row: Sequence[str], typical: float) -> bool:
    """Return whether a row may sum up others: a word for a total in front, and many cells blank."""
    if filled(row) > 0.75 * typical:
        return False
    first = [cell for cell in row if cell][:2]
    return any(_TOTAL.fullmatch(cell) for cell in first)


def note_row(row: Sequence[str], typical: float) -> bool:
    """Return whether a row may be a remark below the table: one or two cells of words in a wide table."""
    cells = [cell for cell in row if cell]
    if not cells or typical < 3 or len(cells) > max(1, 0.3 * typical):
        return False
    return not _NUMBER.fullmatch(cells[0])


def data_rows(
    rows: Sequence[Sequence[str]],
    body: list[int],
    fills: Sequence[int],
    numbers: Sequence[int],
    notes: list[str],
) -> list[int]:
    """Return the positions of data rows, without totals anywhere and remarks at the end.

    A total must add up, or stand out in several ways; so must a remark. Others are kept, with a note on how
    to leave them out. Linear in the cells.
    """
    typical = median(fills[place] for place in body) if body else 0.0
    candidates = [p for p in body if fills[p] <= 0.75 * typical and total_row(rows[p], typical)]
    totals = _totals(rows, body, fills, candidates, typical)
    kept = [place for place in body if place not in totals]
    end = len(kept)
    while end and note_row(rows[kept[end - 1]], typical) and _is_remark(rows, kept, end - 1, fills):
        end -= 1
    doubtful = dict.fromkeys(place for place in candidates if place not in totals)
    if end == len(kept) and end and note_row(rows[kept[-1]], typical):
        doubtful[kept[-1]] = None
    notes += left_out("total row", "", sorted(totals), numbers)
    notes += left_out("note", "below the table", kept[end:], numbers)
    notes += _asked(rows, list(doubtful), numbers)
    return kept[:end]


def _totals(
    rows: Sequence[Sequence[str]],
    body: Sequence[int],
    fills: Sequence[int],
    candidates: Sequence[int],
    typical: float,
) -> set[int]:
    """Return those of the candidates that are totals of the rows above them."""
    found: set[int] = set()
    if not candidates:
        return found
    wanted, group, all_rows = set(candidates), _Sums(), _Sums()
    for place in body:
        is_total = place in wanted and (
            group.give(rows[place]) or all_rows.give(rows[place]) or _stands_out(rows, fills, place, typical)
        )
        if is_total:
            found.add(place)
            group = _Sums()
        else:
            group.add(rows[place])
            all_rows.add(rows[place])
    return found


class _Sums:
    """The sums of the numbers in each column of some rows, and how many they are."""

    def __init__(self) -> None:
        self._rows = 0
        self._sums: dict[int, tuple[Decimal, int]] = {}

    def add(self, row: Sequence[str]) -> None:
        """Add a row."""
        self._rows += 1
        for column, cell in enumerate(row):
            number = _number(cell)
            if number is not None:
                total, count = self._sums.get(column, (Decimal(0), 0))
                self._sums[column] = total + number, count + 1

    def give(self, row: Sequence[str]) -> bool:
        """Whether a number of a row is the sum or the mean of its column, or the number of rows."""
        for column, cell in enumerate(row):
            wanted = _number(cell)
            if wanted is None:
                continue
            if wanted == self._rows > _WORDS:
                return True
            total, count = self._sums.get(column, (Decimal(0), 0))
            places = Decimal(1).scaleb(min(int(wanted.as_tuple().exponent), 0))
            if count > 1 and (wanted == total or abs(wanted - total / count) <= places / 2):
                return True
        return False


def _cell(row: Sequence[str], column: int) -> str:
    return row[column] if column < len(row) else ""


def _number(cell: str) -> Decimal | None:
    if not _NUMBER.fullmatch(cell):
        return None
    try:
        return Decimal(cell.replace(",", "").replace("'", ""))
    except InvalidOperation:
        return None


def _stands_out(rows: Sequence[Sequence[str]], fills: Sequence[int], place: int, typical: float) -> bool:
    """Whether a row looks like a total in several ways, whatever its numbers are."""
    cells = [cell for cell in rows[place] if cell]
    words = [cell for cell in cells if not _NUMBER.fullmatch(cell)]
    ways = [
        bool(_TOTAL_ALONE.fullmatch(words[0])) if words else False,
        len(words) == 1,
        len(cells) <= _SPARSE * typical,
        place == len(rows) - 1 or not fills[place + 1] or not fills[place - 1],
    ]
    return sum(ways) >= _WAYS


def _is_remark(rows: Sequence[Sequence[str]], kept: Sequence[int], at: int, fills: Sequence[int]) -> bool:
    """Whether a row below the table looks like a remark in several ways."""
    place = kept[at]
    column, text = next((n, cell) for n, cell in enumerate(rows[place]) if cell)
    if not any(mark.isalnum() for mark in text):
        return True
    above = [value for row in kept[:at] if (value := _cell(rows[row], column))]
    ways = [
        not fills[place - 1],
        len(text.split()) >= _WORDS,
        bool(_FOOTNOTE.match(text)),
        bool(_REMARK.match(text)) or text[-1] in ".:",
        " " in text and not any(" " in value for value in above),
        len(text) > 2 * max(map(len, above), default=0),
    ]
    return sum(ways) >= _WAYS_OF_A_REMARK and text not in above


def left_out(noun: str, where: str, places: Sequence[int], numbers: Sequence[int]) -> list[str]:
    """Return a note about rows that were left out; none where there are none."""
    if not places:
        return []
    told = ", ".join(str(numbers[place]) for place in places[:_NAMED_ROWS])
    more = ", ..." if len(places) > _NAMED_ROWS else ""
    return [f"{counted(len(places), noun)} {where + ' ' if where else ''}left out: {told}{more}"]


def _asked(rows: Sequence[Sequence[str]], places: Sequence[int], numbers: Sequence[int]) -> Iterator[str]:
    for place in places[:_NAMED_ROWS]:
        told = shortened(next(cell for cell in rows[place] if cell))
        number = numbers[place]
        yield f"is row {number} ({told}) data? It was kept; --skip {number} leaves it out"
