"""Rows grouped by their values: see ``pravix.relation.grouping`` and ``pravix.discovery.checking``."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bounds, CodeMatrix, Codes, Groups, Keys, Pairs, Rows
from pravix.kernels.compiling import compiled

_ROOM = 4
_DIGIT = 12
"""Up to so many bits of a code are sorted by at a time."""

_SMALL = 8
"""Groups of up to so many rows are split without a tally."""

_READ_AT_ONCE = 4096


@compiled("C1(C1,C1)")
def split(groups: Groups, codes: Codes) -> Groups:
    """Return the groups split further by codes, numbered from 0 in the order of first appearance.

    Linear: by a table of all pairs of a group and a code where these are not many more than the rows, or
    else by open addressing; a slot holds the first row of a group, counted from 1, or 0 where it is free.
    """
    rows = len(groups)
    numbers = np.empty(rows, dtype=np.int32)
    most, width = np.int64(-1), np.int64(0)
    for row in range(rows):
        most = max(most, np.int64(groups[row]))
        width = max(width, np.int64(codes[row]))
    width += 1
    count = 0
    if (most + 1) * width <= _ROOM * rows:
        table = np.zeros((most + 1) * width, dtype=np.int32)
        for row in range(rows):
            place = np.int64(groups[row]) * width + codes[row]
            if table[place] == 0:
                count += 1
                table[place] = count
            numbers[row] = table[place] - 1
        return numbers
    size, shift = 2, np.uint64(63)
    while size < 2 * rows:
        size, shift = 2 * size, shift - np.uint64(1)
    slots = np.zeros(size, dtype=np.int32)
    for row in range(rows):
        group, code = groups[row], codes[row]
        key = np.uint64(group) << np.uint64(32) | np.uint64(code)
        slot = key * np.uint64(0x9E3779B97F4A7C15) >> shift
        while slots[slot] != 0 and (groups[slots[slot] - 1] != group or codes[slots[slot] - 1] != code):
            slot = (slot + np.uint64(1)) & np.uint64(size - 1)
        if slots[slot] == 0:
            slots[slot] = row + 1
            numbers[row] = count
            count += 1
        else:
            numbers[row] = numbers[slots[slot] - 1]
    return numbers


@compiled("C1(C1,C1,int64)")
def sorted_by(codes: Codes, order: Rows, width: int) -> Rows:
    """Return the order sorted by code, rows of one code in the order given; the codes are below ``width``.

    Linear, digit by digit, the lowest first: what is written goes to few places at a time.
    """
    rows, bits = len(order), 1
    while (1 << bits) < width:
        bits += 1
    digits = (bits + _DIGIT - 1) // _DIGIT
    size = (bits + digits - 1) // digits
    mask = (1 << size) - 1
    starts = np.zeros((digits, 1 << size), dtype=np.int64)
    for row in range(rows):
        for digit in range(digits):
            starts[digit, (codes[row] >> (digit * size)) & mask] += 1
    for digit in range(digits):
        start = 0
        for value in range(1 << size):
            count = starts[digit, value]
            starts[digit, value] = start
            start += count
    given, local = order, np.empty(rows, dtype=np.int32)
    for place in range(rows):
        local[place] = codes[order[place]]
    for digit in range(digits):
        result, moved = np.empty(rows, dtype=np.int32), np.empty(rows, dtype=np.int32)
        for place in range(rows):
            code = local[place]
            value = (code >> (digit * size)) & mask
            to = starts[digit, value]
            starts[digit, value] += 1
            result[to] = given[place]
            moved[to] = code
        given, local = result, moved
    return given


@compiled("Tuple((C1,N1))(C1,N1,C1,C1,C1,N1,N1)")
def refined(
    rows: Rows,
    bounds: Bounds,
    codes: Codes,
    kept: Rows,
    local: Codes,
    ends: Bounds,
    tally: Bounds,
) -> tuple[Rows, Bounds]:
    """Return the groups split by one more column, lone rows left out. The last four are scratch.

    In small groups each row is compared with those after it; in others the codes are tallied.
    """
    ends[0] = 0
    count, end = 0, 0
    for place in range(len(rows)):
        local[place] = codes[rows[place]]
    for group in range(len(bounds) - 1):
        first, last = bounds[group], bounds[group + 1]
        if last - first <= _SMALL:
            for place in range(first, last):
                code, start = local[place], end
                if code < 0:
                    continue
                for other in range(place + 1, last):
                    if local[other] == code:
                        if end == start:
                            kept[end] = rows[place]
                            end += 1
                        kept[end] = rows[other]
                        end += 1
                        local[other] = -1
                if end > start:
                    count += 1
                    ends[count] = end
            continue
        for place in range(first, last):
            tally[local[place]] += 1
        for place in range(first, last):
            code = local[place]
            size = tally[code]
            if size > 1:
                tally[code] = -end - 1
                end += size
                count += 1
                ends[count] = end
            elif size == 1:
                tally[code] = 0
        for place in range(first, last):
            code = local[place]
            if tally[code] < 0:
                kept[-tally[code] - 1] = rows[place]
                tally[code] -= 1
        for place in range(first, last):
            tally[local[place]] = 0
    return kept[:end].copy(), ends[: count + 1].copy()


@compiled("void(C1,N1,C2,int64,N1,C1,N1,N1,N2)")
def first_breaks(
    rows: Rows,
    bounds: Bounds,
    columns: CodeMatrix,
    last_column: int,
    dependents: Keys,
    local: Codes,
    seen: Keys,
    groups: Keys,
    pairs: Pairs,
) -> None:
    """Fill in ``pairs``. A dependent equal to the number of columns is the row itself.

    ``local`` is scratch. In small groups each row is compared with those before it.
    """
    codes = columns[last_column]
    unbroken = len(dependents)
    if groups[0] + len(bounds) >= 1 << 31:
        seen[:] = 0
        groups[0] = 0
    read = 0
    for group in range(len(bounds) - 1):
        first, last = bounds[group], bounds[group + 1]
        if last > read:
            upto = min(len(rows), max(last, read + _READ_AT_ONCE))
            for place in range(read, upto):
                local[place] = codes[rows[place]]
            read = upto
        groups[0] += 1
        stamp = groups[0] << 32
        for place in range(first, last):
            row, leading = np.int64(rows[place]), np.int64(-1)
            if last - first <= _SMALL:
                for other in range(first, place):
                    if local[other] == local[place]:
                        leading = np.int64(rows[other])
                        break
            elif seen[local[place]] < stamp:
                seen[local[place]] = stamp | row
            else:
                leading = seen[local[place]] & np.int64(0xFFFFFFFF)
            if leading < 0:
                continue
            for k in range(len(dependents)):
                number = dependents[k]
                if pairs[k, 0] < 0 and (
                    number == len(columns) or columns[number, row] != columns[number, leading]
                ):
                    pairs[k, 0], pairs[k, 1] = leading, row
                    unbroken -= 1
            if unbroken == 0:
                return
