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


def drawn(bins: Sequence[tuple[float, float, int]], path: str) -> None:
    """Write the figure of bins (stated, found, how many tables) to an SVG or PNG file."""
    figure, axes = pyplot.subplots(figsize=(6.4, 5.2), facecolor=_PAPER)
    axes.set_facecolor(_PAPER)
    axes.plot([0, 1], [0, 1], color=_INK, linewidth=0.8, linestyle="--", label="as stated")
    stated, found = [one for one, _, _ in bins], [one for _, one, _ in bins]
    axes.plot(stated, found, color=_LINE, marker="o", label="as found")
    for told, right, number in bins:
        beside = (4, -14) if (told, right, number) == bins[-1] else (-4, 8)
        axes.annotate(
            f"{number:,}", (told, right), textcoords="offset points", xytext=beside, ha="right", color=_INK
        )
    axes.set_xlabel("confidence stated for a table")
    axes.set_ylabel("share of these tables that were right")
    axes.set_xlim(0, 1.02)
    axes.set_ylim(0, 1.05)
    axes.set_title("The numbers say how many tables a point stands for", fontsize=10)
    axes.legend(loc="upper left", frameon=False)
    figure.tight_layout()
    figure.savefig(path, metadata={"Date": None} if path.endswith(".svg") else None)
    pyplot.close(figure)
