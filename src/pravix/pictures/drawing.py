"""Figures as PNG, SVG and PDF files, written whole or not at all."""

from __future__ import annotations

import warnings
from pathlib import Path
from typing import TYPE_CHECKING

from pravix.errors import InputError
from pravix.wording import printable
from pravix.writing import write_file

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_SUFFIXES = (".png", ".svg", ".pdf")


def check_figure_path(path: str) -> None:
    """Raise InputError where a file is neither PNG, SVG nor PDF."""
    if Path(path).suffix.lower() not in _SUFFIXES:
        raise InputError(
            f"{path} is neither PNG, SVG nor PDF", "Give a file that ends in .png, .svg or .pdf."
        )


def save_figure(figure: Figure, path: str, dpi: float = 120, title: str = "") -> None:
    """Draw a figure into a file under another name, then rename it. Raises InputError where it cannot be."""
    check_figure_path(path)
    colour = figure.get_facecolor()
    told: dict[str, str | None] = {"Title": printable(title)} if title else {}
    if path.lower().endswith(".svg"):
        told["Date"] = None  # The same design gives the same file.
    if path.lower().endswith(".pdf"):
        told["CreationDate"] = None

    def draw(made: Path) -> None:
        with warnings.catch_warnings():
            warnings.filterwarnings("ignore", "Glyph .* missing from font")
            figure.savefig(made, dpi=dpi, facecolor=colour, metadata=told)

    write_file(Path(path), draw)
