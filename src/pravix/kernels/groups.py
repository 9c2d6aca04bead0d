"""Rows grouped by their values: see ``pravix.relation.grouping`` and ``pravix.discovery.checking``."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bounds, CodeMatrix, Codes, Groups, Keys, Pairs, Rows
from pravix.kernels.compiling import compiled

_ROOM = 4


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


@compiled("C1(C1,C1,N1)")
def sorted_by(codes: Codes, order: Rows, starts: Bounds) -> Rows:
    """Return the order sorted by code, rows of one code in the order given; ``starts`` is used up."""
    result = np.empty_like(order)
    for row in order:
        code = codes[row]
        result[starts[code]] = row
        starts[code] += 1
    return result


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
    """Return the groups split by one more column, lone rows left out. The last four are scratch."""
    ends[0] = 0
    count, end = 0, 0
    for group in range(len(bounds) - 1):
        first, last = bounds[group], bounds[group + 1]
        for place in range(first, last):
            code = codes[rows[place]]
            local[place - first] = code
            tally[code] += 1
        for place in range(last - first):
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
            code = local[place - first]
            if tally[code] < 0:
                kept[-tally[code] - 1] = rows[place]
                tally[code] -= 1
        for place in range(last - first):
            tally[local[place]] = 0
    return kept[:end].copy(), ends[: count + 1].copy()


@compiled("void(C1,N1,C2,int64,N1,N1,N1,N2)")
def first_breaks(
    rows: Rows,
    bounds: Bounds,
    columns: CodeMatrix,
    last_column: int,
    dependents: Keys,
    seen: Keys,
    groups: Keys,
    pairs: Pairs,
) -> None:
    """Fill in ``pairs``. A dependent equal to the number of columns is the row itself."""
    codes = columns[last_column]
    unbroken = len(dependents)
    if groups[0] + len(bounds) >= 1 << 31:
        seen[:] = 0
        groups[0] = 0
    for group in range(len(bounds) - 1):
        groups[0] += 1
        stamp = groups[0] << 32
        for place in range(bounds[group], bounds[group + 1]):
            row = np.int64(rows[place])
            earlier = seen[codes[row]]
            if earlier < stamp:
                seen[codes[row]] = stamp | row
                continue
            leading = earlier & np.int64(0xFFFFFFFF)
            for k in range(len(dependents)):
                number = dependents[k]
                if pairs[k, 0] < 0 and (
                    number == len(columns) or columns[number, row] != columns[number, leading]
                ):
                    pairs[k, 0], pairs[k, 1] = leading, row
                    unbroken -= 1
            if unbroken == 0:
                return
