"""What column names say: their words in any naming style, and the nouns that they share."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from pravix.relation.lexicon import IDENTIFIER_WORDS, LABEL_WORDS, MOMENT_WORDS

_UMLAUTS = str.maketrans({"ä": "ae", "ö": "oe", "ü": "ue", "ß": "ss"})
_WORD = re.compile(r"[^\W\d_]?[^\W\d_A-Z]+|[A-Z]+(?![a-z])|[A-Z][a-z]*|\d+")


def words(name: str) -> list[str]:
    """Return the words of a name in small letters: ``FromDepotName`` gives from, depot, name.

    Accents are left out, and German umlauts written in two letters.
    """
    return list(_words(name))


@lru_cache(maxsize=20_000)
def _words(name: str) -> tuple[str, ...]:
    return tuple(_plain(word.lower()) for word in _WORD.findall(name))


def _plain(word: str) -> str:
    if word.isascii():
        return word
    spelled = unicodedata.normalize("NFKD", word.translate(_UMLAUTS))
    return "".join(mark for mark in spelled if not unicodedata.combining(mark))


def cut_words(name: str, start: int, count: int) -> str:
    """Return a name without some of its words, spelled as it was: ``from_depot`` without from is depot."""
    spans = [match.span() for match in _WORD.finditer(name)]
    if start + count < len(spans):
        before, after = name[: spans[start][0]], name[spans[start + count][0] :]
        glued = before and before[-1].isalnum()
        return before + (name[spans[start + count - 1][1] : spans[start + count][0]] if glued else "") + after
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
    """Return whether all words of the noun of ``one`` stand in ``other``: drum_no and drum_kind.

    A column that is called a name or a code, and of nothing, has no noun.
    """
    wanted = set(noun(one))
    return bool(wanted - IDENTIFIER_WORDS - LABEL_WORDS) and wanted <= set(words(other))
