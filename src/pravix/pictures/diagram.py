"""The entity-relationship diagram of a design: boxes with keys marked in words, crow's-foot ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pravix.pictures.diagram_layout import Box, Layout, Line, laid_out
from pravix.pictures.drawing import check_figure_path, save_figure, width_of
from pravix.pictures.drawn import DrawnLink, DrawnTable
from pravix.wording import counted, joined, printable, shortened

if TYPE_CHECKING:
    from matplotlib.axes import Axes

FONT = 9.0
_LETTER = 0.602 * FONT
"""The width of a letter of DejaVu Sans Mono, in points."""

_ROW = 15.0
_HEAD = 20.0
_INSIDE = 8.0
_LONGEST_NAME = 28
_MOST_ROWS = 16
_MOST_PIXELS = 6000
_FOOT = 9.0


_PAPERS = ((210.0, 297.0), (297.0, 420.0))
"""A4 and A3, in millimetres."""

_EDGE = 10.0
_SMALLEST = 0.7
"""The scale below which A4 is too small."""


@dataclass(frozen=True)
class Look:
    """The colours of a diagram, and how large it is drawn."""

    paper: str
    ink: str
    head: str
    head_ink: str
    key: str
    line: str
    scale: float = 1.0


LIGHT = Look("#ffffff", "#1d2528", "#24505f", "#ffffff", "#e4eef0", "#4a5a60")
DARK = Look("#15191c", "#e6ebec", "#8fc3cf", "#10262c", "#223139", "#9fb0b5")


@dataclass(frozen=True)
class _Entry:
    """One line of a box: its mark (PK, FK, U), the name of a column, and its type."""

    mark: str
    name: str
    type: str


def entries_of(table: DrawnTable) -> list[_Entry]:
    """Return the lines of a table's box: key columns first, then those that refer, then the rest."""
    referring = {name for link in table.foreign_keys for name in link.columns}
    unique = {key[0] for key in table.candidate_keys[1:] if len(key) == 1}
    found = []
    for column in table.columns:
        name = column.name
        marks = ["PK"] if name in table.primary_key else []
        marks += ["FK"] if name in referring else []
        marks += ["U"] if name in unique and not marks else []
        found.append(_Entry(" ".join(marks), shortened(name, _LONGEST_NAME), shortened(column.type, 16)))
    found.sort(key=lambda entry: ("PK" not in entry.mark, "FK" not in entry.mark))
    if len(found) > _MOST_ROWS:
        more = counted(len(found) - _MOST_ROWS + 1, "more column")
        found = [*found[: _MOST_ROWS - 1], _Entry("", f"... {more}", "")]
    return found


def _width(table: DrawnTable, entries: Sequence[_Entry]) -> float:
    lengths = [5 + 2 + width_of(entry.name) + 2 + width_of(entry.type) for entry in entries]
    return max([*lengths, width_of(_title(table)) * 1.1]) * _LETTER + 2 * _INSIDE


def _title(table: DrawnTable) -> str:
    return f"{shortened(table.name, _LONGEST_NAME)}  {table.rows:,}"


def _height_of(table: DrawnTable, columns: Sequence[str]) -> float:
    """Return how far below the top of its box the first of some columns stands."""
    names = [entry.name for entry in entries_of(table)]
    first = shortened(columns[0], _LONGEST_NAME)
    place = names.index(first) if first in names else len(names) - 1
    return _HEAD + (place + 0.5) * _ROW


def diagram_layout(drawn: Sequence[DrawnTable]) -> tuple[Layout, list[DrawnLink]]:
    """Return the layout of a design's diagram, and the reference that each of its lines stands for."""
    tables = {table.name: table for table in drawn}
    boxes = []
    for table in tables.values():
        entries = entries_of(table)
        height = _HEAD + len(entries) * _ROW + _INSIDE / 2
        facts = table.rows * max(len(table.columns) - len(table.primary_key), 1)
        boxes.append(Box(table.name, _width(table, entries), height, facts))
    links, lines = [], []
    for table in tables.values():
        for link in table.foreign_keys:
            other = tables[link.references.table]
            here, there = _height_of(table, link.columns), _height_of(other, link.references.columns)
            lines.append(Line(table.name, here, other.name, there))
            links.append(link)
    return laid_out(boxes, lines), links


def write_diagram(tables: Sequence[DrawnTable], path: str, dark: bool = False) -> None:
    """Draw the diagram into a PNG, SVG or PDF file, the latter a page of A4 or A3.

    Raises InputError where it is none of these or cannot be written.
    """
    check_figure_path(path)
    import matplotlib
    from matplotlib.figure import Figure

    look = DARK if dark else LIGHT
    layout, links = diagram_layout(tables)
    size = (max(layout.width, 200.0) / 72, max(layout.height, 120.0) / 72)
    page, place = size, (0.0, 0.0, 1.0, 1.0)
    if Path(path).suffix.lower() == ".pdf":
        page, place, scale = _on_paper(size)
        look = replace(look, scale=scale)
    figure = Figure(figsize=page, facecolor=look.paper)
    axes = figure.add_axes(place)
    axes.set_xlim(0, size[0] * 72)
    axes.set_ylim(size[1] * 72, 0)
    axes.axis("off")
    for points, link in zip(layout.paths, links, strict=True):
        _draw_line(axes, points, link, look)
    for table in tables:
        _draw_box(axes, layout.boxes[table.name], table, look)
    with matplotlib.rc_context({"svg.fonttype": "none", "svg.hashsalt": "pravix"}):
        save_figure(figure, path, dpi=min(160.0, _MOST_PIXELS / max(size)), title=alternative_text(tables))
    if Path(path).suffix.lower() == ".svg":
        _describe(Path(path), alternative_text(tables))


def _on_paper(
    size: tuple[float, float],
) -> tuple[tuple[float, float], tuple[float, float, float, float], float]:
    """Return the page for a drawing of a size in inches, its place there (in shares), and its scale."""
    for short, long in _PAPERS:
        page = (long / 25.4, short / 25.4) if size[0] > size[1] else (short / 25.4, long / 25.4)
        edge = _EDGE / 25.4
        scale = min(1.0, *((whole - 2 * edge) / own for whole, own in zip(page, size, strict=True)))
        if scale >= _SMALLEST:
            break
    width, height = (scale * own / whole for own, whole in zip(size, page, strict=True))
    return page, ((1 - width) / 2, 1 - height - edge / page[1], width, height), scale


def alternative_text(tables: Sequence[DrawnTable]) -> str:
    """Return what the diagram shows, in a few sentences."""
    links = [
        f"{table.name} refers to {link.references.table}" for table in tables for link in table.foreign_keys
    ]
    names = joined([table.name for table in tables])
    told = f"Entity-relationship diagram of {counted(len(tables), 'table')}: {names}."
    return printable(f"{told} {'; '.join(links)}." if links else told)


def _describe(path: Path, text: str) -> None:
    """Give an SVG file a title that screen readers speak."""
    drawn = path.read_text(encoding="utf-8")
    start = drawn.index("<svg")
    end = drawn.index(">", start)
    label = f' role="img" aria-label="{escape(text)}">\n <title>{escape(text)}</title>'
    path.write_text(drawn[:end] + label + drawn[end + 1 :], encoding="utf-8")


def _draw_box(axes: Axes, place: tuple[float, float, float, float], table: DrawnTable, look: Look) -> None:
    from matplotlib.patches import Rectangle

    left, top, width, height = place
    entries = entries_of(table)
    axes.add_patch(
        Rectangle((left, top), width, height, facecolor=look.paper, edgecolor=look.line, linewidth=look.scale)
    )
    axes.add_patch(
        Rectangle((left, top), width, _HEAD, facecolor=look.head, edgecolor=look.line, linewidth=look.scale)
    )
    keys = sum("PK" in entry.mark for entry in entries)
    axes.add_patch(
        Rectangle((left + 0.5, top + _HEAD), width - 1, keys * _ROW, facecolor=look.key, linewidth=0)
    )
    font: dict[str, Any] = {"family": "DejaVu Sans Mono", "va": "center", "parse_math": False}
    name, rows = printable(_title(table)).rsplit("  ", 1)
    middle, small = top + _HEAD / 2, (FONT - 2) * look.scale
    axes.text(
        left + _INSIDE, middle, name, color=look.head_ink, fontsize=FONT * look.scale, weight="bold", **font
    )
    axes.text(
        left + width - _INSIDE,
        middle,
        rows,
        color=look.head_ink,
        fontsize=(FONT - 1.5) * look.scale,
        ha="right",
        **font,
    )
    for number, entry in enumerate(entries):
        y = top + _HEAD + (number + 0.5) * _ROW
        bold = "bold" if "PK" in entry.mark else "normal"
        axes.text(left + _INSIDE, y, entry.mark, color=look.ink, fontsize=small, **font)
        axes.text(
            left + _INSIDE + 7 * _LETTER - 8,
            y,
            printable(entry.name),
            color=look.ink,
            fontsize=FONT * look.scale,
            weight=bold,
            **font,
        )
        axes.text(
            left + width - _INSIDE,
            y,
            printable(entry.type),
            color=look.line,
            fontsize=small,
            ha="right",
            **font,
        )


def _draw_line(axes: Axes, points: Sequence[tuple[float, float]], link: DrawnLink, look: Look) -> None:
    """Draw a line with a crow's foot at the many end, a bar at the one end, a ring where none is allowed."""
    style: dict[str, Any] = {"color": look.line, "linewidth": 1.1 * look.scale, "solid_capstyle": "round"}
    axes.plot(*zip(*points, strict=True), **style)
    (x, y), away = points[0], 1 if points[1][0] > points[0][0] else -1
    if not link.cardinality.single:
        for spread in (-4.5, 0, 4.5):
            axes.plot([x + away * _FOOT, x], [y, y + spread], **style)
    else:
        axes.plot([x + away * 5, x + away * 5], [y - 4.5, y + 4.5], **style)
    (x, y), away = points[-1], 1 if points[-2][0] > points[-1][0] else -1
    axes.plot([x + away * 5, x + away * 5], [y - 4.5, y + 4.5], **style)
    if link.cardinality.optional:
        ring: dict[str, Any] = {
            "markersize": 6 * look.scale,
            "markerfacecolor": look.paper,
            "markeredgecolor": look.line,
        }
        axes.plot([x + away * 12], [y], marker="o", **ring)
    else:
        axes.plot([x + away * 9, x + away * 9], [y - 4.5, y + 4.5], **style)
