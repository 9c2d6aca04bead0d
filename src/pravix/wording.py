"""Small pieces of English that every message needs: counts with their nouns, and lists."""

from __future__ import annotations

from collections.abc import Sequence


def counted(number: int, noun: str, plural: str = "") -> str:
    """Return ``1 row``, ``2 rows``, ``1,204 rows``; the plural is given where it is no plain -s."""
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


def joined(words: Sequence[str], last: str = "and") -> str:
    """Return ``a``, ``a and b``, ``a, b and c``."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {last} {words[-1]}"


def verbatim(text: str, width: int = 40) -> str:
    """Return a cell on one line with its spaces as they are, cut where it is long; ``a blank`` for none."""
    line = "".join(mark if mark.isprintable() else " " for mark in text)
    return (line if len(line) <= width else line[: width - 1] + "…") if text else "a blank"


def shortened(text: str, width: int = 40) -> str:
    """Return a text on one line, cut with an ellipsis where it is longer than ``width``."""
    line = " ".join(text.split())
    return line if len(line) <= width else line[: width - 1] + "…"
