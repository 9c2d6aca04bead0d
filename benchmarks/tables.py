"""Tables of known shape for the benchmarks, drawn from fixed seeds."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from pravix.relation.relation import Column, Relation

Cells = NDArray[np.int64]


def sixteen_values(rows: int = 20_000) -> Cells:
    """17 columns of values 0 to 15, two dozen kinds of rows with noise: only large determinants hold."""
    draw = np.random.default_rng(11)
    kind = draw.integers(0, 26, rows)
    typical = draw.integers(4, 12, (26, 16))
    noise = np.rint(draw.normal(0, 0.8, (rows, 16))).astype(np.int64)
    return np.column_stack((kind % 16, np.clip(typical[kind] + noise, 0, 15)))


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
