"""Figures as PNG, SVG and PDF files, written whole or not at all."""

from __future__ import annotations

import logging
import warnings
from pathlib import Path
from typing import TYPE_CHECKING
from unicodedata import east_asian_width

from pravix.errors import InputError
from pravix.wording import printable
from pravix.writing import write_file

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_LAST_RESORT = "Last Resort"
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
    _find_letters(figure)
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


def _find_letters(figure: Figure) -> None:
    """Let texts take letters that their font lacks, as those of Chinese, from other fonts of this machine."""
    from matplotlib import font_manager
    from matplotlib.text import Text

    texts: list[Text] = [one for one in figure.findobj(Text) if isinstance(one, Text)]
    own = font_manager.get_font(font_manager.findfont("DejaVu Sans Mono")).get_charmap()
    lacking = {ord(mark) for text in texts for mark in text.get_text() if mark.isprintable()} - own.keys()
    others = []
    for entry in font_manager.fontManager.ttflist if lacking else ():
        if entry.style != "normal" or entry.name in others or _LAST_RESORT in entry.name:
            continue
        there = lacking & font_manager.get_font(entry.fname).get_charmap().keys()
        others += [entry.name] if there else []
        lacking -= there
        if not lacking:
            break
    if others:
        logging.getLogger(font_manager.__name__).setLevel(logging.ERROR)  # Not all have bold letters.
        for text in texts:
            text.set_fontfamily([*text.get_fontfamily(), *others])


def width_of(text: str) -> int:
    """Return how many letters of an even font are as wide as a text: those of Chinese take two places."""
    return sum(2 if east_asian_width(mark) in "WF" else 1 for mark in text)
