"""Draw what was stated against what was found: a reliability figure.

Source: A. H. Murphy and R. L. Winkler, "Reliability of subjective probability forecasts of precipitation and
temperature", JRSS C 26(1), 1977.
"""

from __future__ import annotations

from collections.abc import Sequence

import matplotlib

matplotlib.use("Agg")
from matplotlib import pyplot

_INK, _PAPER, _LINE = "#22313a", "#fffdf7", "#9a4a1c"
_AREA = 5.0


def drawn(bins: Sequence[tuple[float, float, int]], path: str) -> None:
    """Write the figure of bins (stated, found, how many tables) to an SVG or PNG file."""
    figure, axes = pyplot.subplots(figsize=(6.4, 5.2), facecolor=_PAPER)
    axes.set_facecolor(_PAPER)
    axes.plot([0, 1], [0, 1], color=_INK, linewidth=0.8, linestyle="--", label="as stated")
    stated, found = [one for one, _, _ in bins], [one for _, one, _ in bins]
    areas = [_AREA * number for _, _, number in bins]
    axes.scatter(stated, found, areas, color=_LINE, alpha=0.75, linewidths=0, label="as found")
    for place, (told, right, number) in enumerate(bins):
        above = (0, 6 + number**0.5 + 12 * (place % 2))
        axes.annotate(
            f"{number:,}", (told, right), textcoords="offset points", xytext=above, ha="center", color=_INK
        )
    axes.set_xlabel("confidence stated for a table")
    axes.set_ylabel("share of these tables that were right")
    axes.set_xlim(0, 1.02)
    axes.set_ylim(0, 1.15)
    axes.set_title("The numbers, and the areas, say how many tables a point stands for", fontsize=10)
    axes.legend(loc="lower right", frameon=False)
    figure.tight_layout()
    figure.savefig(path, metadata={"Date": None} if path.endswith(".svg") else None)
    pyplot.close(figure)
