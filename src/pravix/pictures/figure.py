"""The figure of a survey: each column as a bar of different, repeated and blank cells."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pravix.pictures.drawing import check_figure_path, save_figure
from pravix.relation.profile import ColumnProfile
from pravix.wording import shortened

_PARTS = (
    ("different values", "#1f5a7a", ""),
    ("repeated values", "#e3b04b", "///"),
    ("blanks", "#ffffff", "..."),
)


def write_survey_figure(profiles: Sequence[ColumnProfile], title: str, path: str) -> None:
    """Draw the columns as bars into a PNG or SVG file.

    The parts of a bar are told apart by hatching as well as by colour. Raises InputError where the file
    is neither PNG nor SVG or cannot be written.
    """
    check_figure_path(path)
    from matplotlib.figure import Figure

    figure = Figure(figsize=(9.0, 1.4 + 0.27 * len(profiles)), layout="constrained")
    axes = figure.add_subplot()
    names = [shortened(found.name, 30) for found in profiles]
    places = range(len(profiles))
    left = [0] * len(profiles)
    counts = ([f.distinct for f in profiles], [f.repeats for f in profiles], [f.blanks for f in profiles])
    for (label, colour, hatch), widths in zip(_PARTS, counts, strict=True):
        look: dict[str, Any] = {"color": colour, "hatch": hatch, "edgecolor": "#333333", "linewidth": 0.6}
        axes.barh(places, widths, left=left, label=label, height=0.72, **look)
        left = [one + other for one, other in zip(left, widths, strict=True)]
    axes.set_yticks(places, names)
    axes.set_ylim(len(profiles) - 0.4, -0.6)
    axes.set_xlim(0, max(left, default=1))
    axes.set_xlabel("cells")
    axes.set_title(f"What the columns of {shortened(title)} hold", loc="left", pad=30)
    axes.legend(loc="lower left", bbox_to_anchor=(0, 1.0), ncols=3, frameon=False, borderaxespad=0.2)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    save_figure(figure, path)
