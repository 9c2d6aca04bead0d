"""How the columns of a made-up schema are called: several styles, and one that says nothing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from random import Random

from vocabulary import WORDS_IN


@dataclass(frozen=True)
class Label:
    """What a column is about: a noun, the word for what is told of it, and its role."""

    noun: str
    word: str
    role: str = ""

    def as_role(self, role: str) -> Label:
        """Return the column in a role; one that has a role keeps it."""
        return self if self.role or not role else replace(self, role=role)


Names = dict[Label, str]
Style = Callable[[Sequence[Label], Random], Names]

_IDENTIFYING = ("no", "id", "code", "name", "")


def _parts(labels: Sequence[Label], rng: Random) -> dict[Label, list[str]]:
    """Return the words of each name; most descriptions go without their noun where that is clear."""
    short = rng.random() < 0.6
    bare = [(label.role, label.word) for label in labels]
    result = {}
    for label in labels:
        words = [label.role, label.noun, *label.word.split("_")]
        clear = bare.count((label.role, label.word)) == 1 and label.word not in _IDENTIFYING
        if clear and (short if rng.random() < 0.8 else not short):
            words.remove(label.noun)
        result[label] = [word for word in words if word]
    return result


def _distinct(names: Names) -> Names:
    taken: set[str] = set()
    result = {}
    for label, name in names.items():
        number = 2
        free = name
        while free.lower() in taken:
            free, number = f"{name}{number}", number + 1
        taken.add(free.lower())
        result[label] = free
    return result


def _joined(write: Callable[[list[str]], str]) -> Style:
    def style(labels: Sequence[Label], rng: Random) -> Names:
        return _distinct({label: write(words) for label, words in _parts(labels, rng).items()})

    return style


def _abbreviated(words: list[str]) -> str:
    return "_".join(
        word if len(word) < 5 else (word[0] + "".join(c for c in word[1:] if c not in "aeiou"))[:4]
        for word in words
    )


def _numbered(labels: Sequence[Label], rng: Random) -> Names:
    return {label: f"c{number}" for number, label in enumerate(labels, 1)}


def _translated(labels: Sequence[Label], rng: Random) -> Names:
    """Names in one of six languages, as far as the words are known in it."""
    language = rng.choice(sorted(WORDS_IN))
    known = WORDS_IN[language]
    write = rng.choice(("_".join, lambda words: "".join(word.capitalize() for word in words)))
    parts = _parts(labels, rng).items()
    return _distinct({label: write([known.get(word, word) for word in words]) for label, words in parts})


STYLES: dict[str, Style] = {
    "snake": _joined("_".join),
    "pascal": _joined(lambda words: "".join(word.capitalize() for word in words)),
    "camel": _joined(lambda words: words[0] + "".join(word.capitalize() for word in words[1:])),
    "spaced": _joined(lambda words: " ".join(word.capitalize() for word in words)),
    "capitals": _joined(lambda words: "_".join(words).upper()),
    "abbreviated": _joined(_abbreviated),
    "glued": _joined("".join),
    "translated": _translated,
    "numbered": _numbered,
}
