"""Figures of what is counted: columns, what repeats, what a new file breaks, and how evidence grows.

The parts of a bar are told apart by hatching as well as by colour. All raise InputError where the file is
neither PNG, SVG nor PDF, or cannot be written.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from pravix.pictures.drawing import check_figure_path, save_figure
from pravix.relation.profile import ColumnProfile
from pravix.wording import counted, shortened

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

_LOOKS = (("#1f5a7a", ""), ("#e3b04b", "///"), ("#ffffff", "..."))
_LINES = (("#1f5a7a", "-"), ("#b8741a", "--"), ("#5b3a8c", ":"), ("#4d7c3a", "-."))


def write_survey_figure(profiles: Sequence[ColumnProfile], title: str, path: str) -> None:
    """Draw each column as a bar of different, repeated and blank cells."""
    parts = {
        "different values": [one.distinct for one in profiles],
        "repeated values": [one.repeats for one in profiles],
        "blanks": [one.blanks for one in profiles],
    }
    told = f"What the columns of {shortened(title)} hold"
    _write_bars([one.name for one in profiles], parts, "cells", told, path)


def write_repeats_figure(repeats: Sequence[tuple[str, int, int]], title: str, path: str) -> None:
    """Draw for each column how many cells repeat a value in the file, and how many in the tables.

    ``repeats`` has the column, the count in the file, and that in the tables.
    """
    before, after = sum(one[1] for one in repeats), sum(one[2] for one in repeats)
    parts = {
        "in the tables as well": [after for _, _, after in repeats],
        "in the file only": [max(0, before - after) for _, before, after in repeats],
    }
    told = f"Cells that repeat a value: {before:,} in {shortened(title)}, {after:,} in the tables"
    _write_bars([name for name, _, _ in repeats], parts, "repeated cells", told, path)


def write_findings_figure(findings: Mapping[str, Sequence[int]], rows: int, title: str, path: str) -> None:
    """Draw for each kind of finding in a new file of so many ``rows`` how many rows it concerns."""
    names = list(findings) or ["nothing was found"]
    parts = {"rows": [len(set(numbers)) for numbers in findings.values()] or [0]}
    concerned = len({number for numbers in findings.values() for number in numbers})
    told = f"{shortened(title)}: what was found in {concerned:,} of {counted(rows, 'row')}"
    _write_bars(names, parts, "rows", told, path)


def write_evidence_figure(lines: Mapping[str, Sequence[tuple[int, float]]], title: str, path: str) -> None:
    """Draw for each rule how surprising it is, in bits, that it held in the first so many rows."""
    figure, axes = _begun(f"How the rows of {shortened(title)} speak for a rule", path, 4.6)
    for place, (rule, points) in enumerate(lines.items()):
        colour, style = _LINES[place % len(_LINES)]
        rows, bits = [count for count, _ in points], [told for _, told in points]
        axes.plot(rows, bits, color=colour, linestyle=style, linewidth=2.0, label=shortened(rule, 60))
    axes.set_xlabel("rows of the file, from the first")
    axes.set_ylabel("bits: so surprising that it held by luck")
    axes.set_xlim(left=0)
    axes.set_ylim(bottom=0)
    axes.grid(visible=True, color="#dddddd", linewidth=0.6)
    axes.legend(loc="upper left", frameon=False)
    save_figure(figure, path)


def _begun(title: str, path: str, height: float, legend: bool = False) -> tuple[Figure, Axes]:
    check_figure_path(path)
    from matplotlib.figure import Figure

    figure = Figure(figsize=(9.0, height), layout="constrained")
    axes = figure.add_subplot()
    axes.set_title(title, loc="left", pad=30 if legend else 10)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    return figure, axes


def _write_bars(
    names: Sequence[str], parts: Mapping[str, Sequence[int]], unit: str, title: str, path: str
) -> None:
    from matplotlib.ticker import MaxNLocator

    figure, axes = _begun(title, path, 1.4 + 0.27 * max(len(names), 3), len(parts) > 1)
    places, left = range(len(names)), [0] * len(names)
    for (label, widths), (colour, hatch) in zip(parts.items(), _LOOKS, strict=False):
        look: dict[str, Any] = {"color": colour, "hatch": hatch, "edgecolor": "#333333", "linewidth": 0.6}
        axes.barh(places, widths, left=left, label=label, height=0.72, **look)
        left = [one + other for one, other in zip(left, widths, strict=True)]
    axes.set_yticks(places, [shortened(name, 30) for name in names])
    axes.set_ylim(len(names) - 0.4, -0.6)
    axes.set_xlim(0, 1.01 * max([1, *left]))
    axes.xaxis.set_major_locator(MaxNLocator(integer=True))
    axes.set_xlabel(unit)
    if len(parts) > 1:
        axes.legend(loc="lower left", bbox_to_anchor=(0, 1.0), ncols=3, frameon=False, borderaxespad=0.2)
    save_figure(figure, path)
