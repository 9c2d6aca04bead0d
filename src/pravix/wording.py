"""Small pieces of English that every message needs: counts with their nouns, and lists."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from functools import cache
from itertools import chain, count
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import inflect


def counted(number: int, noun: str, plural: str = "") -> str:
    """Return a number with its noun; the plural is given where it is no plain -s.

    >>> counted(1, "row"), counted(1204, "row")
    ('1 row', '1,204 rows')
    """
    return f"{number:,} {noun if number == 1 else plural or noun + 's'}"


def joined(words: Sequence[str], last: str = "and") -> str:
    """Return words as a list in a sentence.

    >>> joined(["a"]), joined(["a", "b", "c"]), joined(["a", "b"], "or")
    ('a', 'a, b and c', 'a or b')
    """
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {last} {words[-1]}"


class _Visible(dict[int, str]):
    """What is shown for each mark that a terminal obeys instead of showing it."""

    def __missing__(self, code: int) -> str:
        mark = chr(code)
        shown = mark
        if _OBEYED.fullmatch(mark):
            shown = chr(_PICTURES + code) if code < _FIRST_SHOWN else "\N{REPLACEMENT CHARACTER}"
        self[code] = shown
        return shown


_OBEYED = re.compile(
    r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u200b\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff\ud800-\udfff]"
)
_PICTURES, _FIRST_SHOWN = 0x2400, 0x20
_VISIBLE = _Visible()


def printable(text: str) -> str:
    """Return a text that a terminal shows and never obeys: for each control character a visible mark.

    Line ends and tabs stay. The length is the same.
    """
    return text if text.isprintable() else text.translate(_VISIBLE)


def verbatim(text: str, width: int = 40) -> str:
    """Return a cell on one line with its spaces as they are, cut where it is long; ``a blank`` for none."""
    line = "".join(mark if mark.isprintable() else " " for mark in text)
    return (line if len(line) <= width else line[: width - 1] + "…") if text else "a blank"


def shortened(text: str, width: int = 40) -> str:
    """Return a text on one line, cut with an ellipsis where it is longer than ``width``."""
    line = " ".join(text.split())
    return line if len(line) <= width else line[: width - 1] + "…"


def unused(
    wanted: str, taken: Callable[[str], bool], numbered: Callable[[int], str] | None = None, first: int = 2
) -> str:
    """Return a name that is not ``taken``: the one wanted, or the first numbered, from ``first`` on.

    ``numbered`` gives the name with a number; where there is none it stands behind a low line.
    """
    made = numbered or (lambda number: f"{wanted}_{number}")
    return next(name for name in chain([wanted], map(made, count(first))) if not taken(name))


_SINGULAR_ENDINGS = ("sis", "us", "ss")
_SHORTEST_TURNED = 4


@cache
def singular(word: str) -> str:
    """Return an English word in the singular, any other word as it is."""
    if not word.isascii() or len(word) < _SHORTEST_TURNED or word.endswith(_SINGULAR_ENDINGS):
        return word
    return str(_inflecting().singular_noun(word) or word)


@cache
def plural(word: str) -> str:
    """Return an English word, given in the singular, in the plural; of two letters it is an abbreviation."""
    if len(word) < _SHORTEST_TURNED - 1:
        return f"{word}s"
    return str(_inflecting().plural_noun(word))


@cache
def _inflecting() -> inflect.engine:
    """Return what knows the plurals: its functions as they are written, for having them check the types of
    what they are given, as they ask for, takes seconds.
    """
    import typeguard

    checked = typeguard.typechecked
    vars(typeguard)["typechecked"] = lambda function: function
    try:
        import inflect
    finally:
        vars(typeguard)["typechecked"] = checked
    return inflect.engine()


def meant(wrong: str, known: Iterable[str]) -> str:
    """Return a question that names what was perhaps meant, and a space; empty where nothing is alike."""
    from difflib import get_close_matches

    by_small = {name.lower(): name for name in known}
    alike = get_close_matches(wrong.lower(), by_small, n=2)
    return f"Did you mean {' or '.join(shortened(by_small[name]) for name in alike)}? " if alike else ""
