"""Which words of sentences about a design are covered by its tables and columns: plain matching of stems.

There is no model of language here: words are cut to the singular, common words are left out, and synonyms are
those that the analyst wrote down. What is not covered may be a verb; the reader sees at a glance.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pravix.design.by_hand import HandTable
from pravix.relation.lexicon import IDENTIFIER_WORDS
from pravix.relation.words import words
from pravix.wording import singular

_WORD = re.compile(r"[^\W\d_]+")
_COMMON = frozenset(
    """
    a about after all also an and any are as at be been before between both but by can could did do does
    each either every few for from given had has have how if in into is it its last least list lists
    many may more most must need needs new no not of on one only or other out over own per said same see
    shall she should show shows since so some such than that the their them then there these they this
    those to two under until up us use used want wants was we were what when where which while who whose
    why will with within without would you your he her his him i me my our first second third times time
    keep keeps know knows find finds tell tells
    """.split()
)


@dataclass(frozen=True)
class Coverage:
    """The words of all sentences: where each covered one is found, those that are nowhere with their lines.

    ``needless`` are the tables that no sentence needs.
    """

    covered: Mapping[str, tuple[str, ...]]
    missing: Mapping[str, tuple[int, ...]]
    needless: tuple[str, ...]


def coverage(sentences: str, tables: Sequence[HandTable], synonyms: Mapping[str, str]) -> Coverage:
    """Return which words of sentences (a text, one a line) are covered. Linear in both."""
    places: dict[str, list[str]] = {}
    for table in tables:
        for word in _stems(table.name):
            places.setdefault(word, []).append(table.name)
        for name in table.names:
            for word in set(_stems(name)) - IDENTIFIER_WORDS:
                places.setdefault(word, []).append(f"{table.name}.{name}")
    alike = {singular(word.lower()): _stems(other) for word, other in synonyms.items()}
    covered: dict[str, tuple[str, ...]] = {}
    missing: dict[str, list[int]] = {}
    for number, line in enumerate(sentences.splitlines(), 1):
        for word in _WORD.findall(line.partition("#")[0]):
            stem = singular(word.lower())
            if word.lower() in _COMMON or stem in _COMMON or len(stem) < 2:
                continue
            found = [place for one in (stem, *alike.get(stem, ())) for place in places.get(one, ())]
            if found:
                covered[stem] = tuple(dict.fromkeys(found))
            else:
                missing.setdefault(stem, []).append(number)
    needed = {place.partition(".")[0] for found in covered.values() for place in found}
    return Coverage(
        covered,
        {word: tuple(dict.fromkeys(lines)) for word, lines in missing.items()},
        tuple(table.name for table in tables if table.name not in needed),
    )


def _stems(name: str) -> list[str]:
    return [singular(word) for word in words(name)]
