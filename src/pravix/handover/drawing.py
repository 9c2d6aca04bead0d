"""Figures as PNG and SVG files, written whole or not at all."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from pravix.errors import InputError
from pravix.writing import write_file

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_SUFFIXES = (".png", ".svg")


def check_figure_path(path: str) -> None:
    """Raise InputError where a file is neither PNG nor SVG."""
    if Path(path).suffix.lower() not in _SUFFIXES:
        raise InputError(f"{path} is neither PNG nor SVG", "Give a file that ends in .png or .svg.")


def save_figure(figure: Figure, path: str, dpi: float = 120, title: str = "") -> None:
    """Draw a figure into a file under another name, then rename it. Raises InputError where it cannot be."""
    check_figure_path(path)
    colour = figure.get_facecolor()
    told: dict[str, Any] = {"metadata": {"Title": title}} if title else {}
    write_file(Path(path), lambda made: figure.savefig(made, dpi=dpi, facecolor=colour, **told))
