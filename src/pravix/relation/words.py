"""What column names say: their words in any naming style, and the nouns that they share."""

from __future__ import annotations

import re

IDENTIFIER_WORDS = frozenset(
    "id no nr num number code cd key ref serial plate abbr symbol tag ident identifier".split()
)
LABEL_WORDS = frozenset("name nm title label description descr desc".split())
MEASURE_WORDS = frozenset(
    "kg g t mg l ml cl m cm mm km ha pct percent eur usd gbp chf qty quantity amount weight price cost "
    "total sum count hours hrs minutes age length height width depth size area volume score rate value "
    "year temp temperature".split()
)
MOMENT_WORDS = frozenset("on at date day time when".split())

_WORD = re.compile(r"[^\W\d_]?[^\W\d_A-Z]+|[A-Z]+(?![a-z])|[A-Z][a-z]*|\d+")


def words(name: str) -> list[str]:
    """Return the words of a name in small letters: ``FromDepotName`` gives from, depot, name."""
    return [word.lower() for word in _WORD.findall(name)]


def cut_words(name: str, start: int, count: int) -> str:
    """Return a name without some of its words, spelled as it was: ``from_depot`` without from is depot."""
    spans = [match.span() for match in _WORD.finditer(name)]
    if start + count < len(spans):
        return name[: spans[start][0]] + name[spans[start + count][0] :]
    return name[: spans[start - 1][1]] if start else ""


def noun(name: str) -> list[str]:
    """Return the words of a name without a trailing word for identifiers, labels or moments.

    ``drum_no`` gives drum, ``ReadOn`` gives read. A name of one word keeps it.
    """
    found = words(name)
    while len(found) > 1 and found[-1] in IDENTIFIER_WORDS | LABEL_WORDS | MOMENT_WORDS:
        found.pop()
    return found


def share_noun(one: str, other: str) -> bool:
    """Return whether all words of the noun of ``one`` stand in ``other``: drum_no and drum_kind."""
    wanted = noun(one)
    return bool(wanted) and set(wanted) <= set(words(other))
