"""Tables of known shape for the benchmarks, drawn from fixed seeds."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from pravix.relation.relation import Column, Relation

Cells = NDArray[np.int64]


def sixteen_values(rows: int = 20_000) -> Cells:
    """17 columns of values 0 to 15, two dozen kinds of rows with noise: 64 rules, of large determinants.

    One row in a hundred repeats another one but for a column or two.
    """
    draw = np.random.default_rng(11)
    kind = draw.integers(0, 26, rows)
    typical = draw.integers(4, 12, (26, 16))
    noise = np.rint(draw.normal(0, 0.8, (rows, 16))).astype(np.int64)
    cells = np.column_stack((kind % 16, np.clip(typical[kind] + noise, 0, 15)))
    again, copied = draw.choice(rows, (2, rows // 100), replace=False)
    cells[again] = cells[copied]
    for changed in (draw.integers(8, 17, len(again)), draw.integers(0, 16, len(again))):
        cells[again, changed] = (cells[again, changed] + 1) % 16
    return cells


def many_dependencies(rows: int = 300, columns: int = 25) -> Cells:
    """Columns of few values that have nothing to do with each other: everything holds by luck."""
    draw = np.random.default_rng(12)
    return np.column_stack([draw.integers(0, size, rows) for size in draw.integers(2, 6, columns)])


def wide(rows: int = 1_000, categories: int = 23, measures: int = 37) -> Cells:
    """A wide sheet: categories of few values, and measures of which hardly two are equal."""
    draw = np.random.default_rng(13)
    columns = [draw.integers(0, size, rows) for size in draw.integers(2, 6, categories)]
    return np.column_stack((*columns, *(draw.integers(0, 100_000, rows) for _ in range(measures))))


def denormalised(rows: int = 1_000_000) -> Cells:
    """15 columns: a delivery of drums with its keeper, village, district, honey type, price and so on."""
    draw = np.random.default_rng(14)
    drums, deliveries, keepers, villages = max(rows // 2, 2), max(rows // 6, 2), max(rows // 200, 4), 300
    delivery, drum = draw.integers(0, deliveries, rows), draw.integers(0, drums, rows)
    keeper = draw.integers(0, keepers, drums)[drum]
    village = draw.integers(0, villages, keepers)[keeper]
    honey = draw.integers(0, 40, drums)[drum]
    date = draw.integers(0, 900, deliveries)[delivery]
    driver = draw.integers(0, 60, deliveries)[delivery]
    depot = draw.integers(0, 25, deliveries)[delivery]
    gross = draw.integers(2_000, 30_000, rows)
    tare = draw.integers(0, 80, drums)[drum]
    return np.column_stack(
        (
            np.arange(rows), delivery, date, driver, depot, depot // 3, drum, tare, honey,
            draw.integers(5, 20, 40)[honey], keeper, draw.integers(0, 10 * keepers, keepers)[keeper],
            village, village // 12, gross,
        )
    )  # fmt: skip


def twenty_columns(rows: int = 100_000) -> Cells:
    """The denormalised columns, and five more: driver's phone, season, moisture, a rare remark, a flag."""
    draw = np.random.default_rng(15)
    cells = denormalised(rows)
    driver = cells[:, 3]
    more = (
        draw.integers(10_000, 99_999, 60)[driver],
        draw.integers(0, 4, rows),
        draw.integers(140, 200, rows),
        np.where(draw.random(rows) < 0.02, draw.integers(1, 9, rows), 0),
        draw.integers(0, 2, rows),
    )
    return np.column_stack((cells, *more))


def flights(rows: int = 100_000) -> Cells:
    """19 columns of rounds of vans: days, lines, depots, plans and delays, with blanks where none ran."""
    draw = np.random.default_rng(16)
    routes, depots = 4_000, 320
    route = draw.zipf(1.3, rows) % routes
    line, origin, to = (draw.integers(0, most, routes)[route] for most in (14, depots, depots))
    district, far = draw.integers(0, 52, depots), draw.integers(80, 2_600, (depots, depots))
    day, planned = draw.integers(0, 31, rows), draw.integers(0, 288, routes)[route] * 5
    ran = draw.random(rows) >= 0.03
    late = np.clip(draw.normal(25, 30, rows), 0, 900).astype(np.int64)
    later = np.clip(late + draw.normal(0, 12, rows), 0, 999).astype(np.int64)
    took = far[origin, to] // 8 + draw.integers(0, 9, rows)
    of_those_that_ran = [np.where(ran, one, -1) for one in (planned + late, late, late > 15, later, took)]
    return np.column_stack(
        (
            day, day % 7, line, draw.integers(0, 4_200, rows), route, origin, district[origin],
            to, district[to], planned, *of_those_that_ran, ~ran, np.where(ran, -1, draw.integers(0, 4, rows)),
            far[origin, to], far[origin, to] // 250,
        )
    )  # fmt: skip


def joined(rows: int = 12_124) -> Cells:
    """48 columns: eleven tables in chains of things, each with facts of its own, joined flat."""
    draw = np.random.default_rng(17)
    columns = [np.arange(rows)]
    for chain in ((rows // 3, rows // 9, rows // 60, 40, 9), (rows // 5, 300, 30), (120, 20), (60,)):
        at, last = None, 0
        for count in chain:
            at = draw.integers(0, count, rows) if at is None else draw.integers(0, count, last)[at]
            columns.append(at)
            for _ in range(3):
                size = max(2, int(count * draw.uniform(0.2, 0.95)))
                columns.append(draw.integers(0, size, count)[at])
            last = count
    columns += [draw.integers(0, most, rows) for most in (400, 6, 3)]
    return np.column_stack(columns)


def few_rows(rows: int = 358) -> Cells:
    """35 columns of six kinds of rows with noise, and an age: very many rules by luck."""
    draw = np.random.default_rng(18)
    kind = draw.integers(0, 6, rows)
    typical = [draw.integers(0, 4, 6)[kind] for _ in range(34)]
    columns = [np.where(draw.random(rows) < 0.13, draw.integers(0, 4, rows), one) for one in typical]
    return np.column_stack((*columns, draw.integers(10, 75, rows)))


def of_width(rows: int, width: int) -> Cells:
    """Columns of keys, of facts of keys, of few values and of measures, in turn."""
    draw = np.random.default_rng(21)
    columns = [np.arange(rows)]
    for place in range(width - 1):
        if place % 5 in (1, 2):
            base = columns[-(place % 5)]
            columns.append(draw.integers(0, max(2, rows // 10), int(base.max()) + 1)[base])
        else:
            columns.append(draw.integers(0, {0: max(2, rows // 8), 3: 5, 4: 10_000}[place % 5], rows))
    return np.column_stack(columns)


def of_few_values(rows: int = 200_000, width: int = 60) -> Cells:
    """Columns of two to six values that have nothing to do with each other."""
    draw = np.random.default_rng(22)
    return np.column_stack([draw.integers(0, size, rows) for size in draw.integers(2, 7, width)])


def relation(cells: Cells) -> Relation:
    """Return the cells as a relation of integer-coded columns."""
    columns = []
    for place in range(cells.shape[1]):
        values, codes = np.unique(cells[:, place], return_inverse=True)
        texts = ["", *map(str, values.tolist())]
        columns.append(Column(f"c{place + 1}", (codes + 1).astype(np.int32), texts))
    return Relation(tuple(columns), np.arange(2, len(cells) + 2, dtype=np.int64))


def write_csv(cells: Cells, path: Path) -> None:
    """Write the cells with a header."""
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow([f"c{place + 1}" for place in range(cells.shape[1])])
        writer.writerows(cells.tolist())


_THINGS = (
    "keeper", "drum", "depot", "honey", "hive", "orchard", "lorry", "press", "cellar", "label",
    "jar", "lid", "mill", "sieve", "wax", "meadow", "scale", "tank", "filter", "crate",
)  # fmt: skip


def write_deliveries(path: Path, rows: int, width: int) -> None:
    """Write deliveries of things: each with its number, its name, a place, a day and a weight."""
    draw = np.random.default_rng(23)
    columns = {
        "delivery_no": [f"D{place:06}" for place in range(rows)],
        "delivered_on": (np.datetime64("2024-01-01") + draw.integers(0, 700, rows)).astype(str).tolist(),
    }
    for thing in _THINGS:
        count = int(draw.integers(20, max(21, rows // 10)))
        chosen = draw.integers(0, count, rows)
        days = (np.datetime64("2015-01-01") + draw.integers(0, 3_000, count)).astype(str)
        facts = {
            f"{thing}_no": [f"{thing[0].upper()}-{place:04}" for place in range(count)],
            f"{thing}_name": [f"{thing.title()} {name}" for name in draw.permutation(count * 9)[:count]],
            f"{thing}_village": [f"Village {place}" for place in draw.integers(0, 40, count)],
            f"{thing}_since": days.tolist(),
            f"{thing}_weight_kg": [f"{weight / 10:.1f}" for weight in draw.integers(10, 9_000, count)],
        }
        columns |= {name: np.array(values)[chosen].tolist() for name, values in facts.items()}
    names = list(columns)[:width]
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(names)
        writer.writerows(zip(*(columns[name] for name in names), strict=True))
