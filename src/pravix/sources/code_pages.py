"""Which one-byte code page a Latin text was written in: told by the letters that its languages use.

Every code page reads every byte as something. In the right one the letters beyond ASCII are those of a
language, and a capital does not stand after a small letter.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from itertools import islice

WESTERN = "cp1252"
"""The code page that is taken where others fit no better."""

_ALPHABETS = {
    "cp1252": (
        "àâçéèêëîïôœæûùüÿ",  # French
        "áéíñóúüªº",  # Spanish
        "ãõáéíóúâêôçàü",  # Portuguese
        "äöüßé",  # German
        "åäöéü",  # Swedish, Finnish
        "æøåéü",  # Danish, Norwegian
        "àèéìòùî",  # Italian
        "ëïéèöüá",  # Dutch
        "áéíóúýðþæö",  # Icelandic
        "àçèéíïòóúü",  # Catalan
    ),
    "cp1250": (
        "ąćęłńóśźż",  # Polish
        "áčďéěíňóřšťúůýž",  # Czech
        "áäčďéíĺľňóôŕšťúýž",  # Slovak
        "áéíóöőúüű",  # Hungarian
        "ăâîşţ",  # Romanian
        "čćđšž",  # Slovene, Croatian
    ),
    "cp1254": ("çğıiöşüâî",),  # Turkish
    "cp1257": ("āčēģīķļņšūž", "ąčęėįšųūž", "äõöüšž"),  # Latvian, Lithuanian, Estonian
}
_ALPHABETS["mac_roman"] = _ALPHABETS["cp850"] = _ALPHABETS["cp1252"]
_ORDER = ("cp1252", "cp1250", "cp1254", "cp1257", "mac_roman", "cp850")
_NAMES = {
    "cp1252": "Windows-1252 (Western)",
    "cp1250": "Windows-1250 (Central European)",
    "cp1254": "Windows-1254 (Turkish)",
    "cp1257": "Windows-1257 (Baltic)",
    "mac_roman": "Mac Roman",
    "cp850": "DOS 850",
}
_MARKS = frozenset("°€£§²³½¼¾·«»“”„‘’‚–—…™®©µ×ºª¿¡ ")
_BETWEEN_LETTERS = frozenset("’·–")
_PIECE = re.compile(rb"[A-Za-z]{0,12}[\x80-\xff][A-Za-z\x80-\xff]*")
_MOST_PIECES = 20_000
_SEVERAL_LANGUAGES = 0.9
_BETTER = 0.05
_ENOUGH = 0.75
_LATIN = 0.7
"""At most this share of the letters in words that have any is beyond ASCII, in a Latin text."""


@dataclass(frozen=True)
class Guess:
    """The likeliest code page, and another with a word that it would read otherwise (both empty for none)."""

    codec: str
    example: str = ""
    other: str = ""
    otherwise: str = ""

    def __str__(self) -> str:
        name = code_page_name(self.codec)
        if not self.other:
            return f"the encoding is a guess: {name}"
        return (
            f"the encoding is a guess: {name}, as in {self.example}; "
            f"{code_page_name(self.other)} would read {self.otherwise} (--encoding {self.other})"
        )


def code_page_name(codec: str) -> str:
    """Return what people call a code page."""
    return _NAMES.get(codec, codec)


def latin_code_page(data: bytes) -> Guess | None:
    """Return the code page of a Latin text; None where it is likely none. Linear in the bytes."""
    pieces = Counter(found[0] for found in islice(_PIECE.finditer(data), _MOST_PIECES))
    if not pieces or not _is_latin(pieces):
        return None
    scores = {codec: _score(pieces, codec) for codec in _ORDER}
    best = max(_ORDER, key=lambda codec: scores[codec])
    if scores[WESTERN] >= scores[best] - _BETTER:
        best = WESTERN
    if scores[best] < _ENOUGH:
        return None
    others = sorted((codec for codec in _ORDER if codec != best), key=lambda codec: -scores[codec])
    for other in others:
        for piece, _ in pieces.most_common():
            here, there = _read(piece, best), _read(piece, other)
            if here and there and here != there and len(here) > 2:
                return Guess(best, here, other, there)
    return Guess(best)


def _read(piece: bytes, codec: str) -> str:
    try:
        return piece.decode(codec)
    except UnicodeDecodeError:
        return ""


def _is_latin(pieces: Counter[bytes]) -> bool:
    letters = beyond = 0
    for piece, count in pieces.items():
        if len(piece) > 1:
            letters += count * len(piece)
            beyond += count * sum(byte > 127 for byte in piece)
    return beyond <= _LATIN * letters


def _score(pieces: Counter[bytes], codec: str) -> float:
    """Return how well the marks beyond ASCII fit: 1 where all are letters of one language in their places."""
    total = sum(count * sum(byte > 127 for byte in piece) for piece, count in pieces.items())
    alphabets = [set(alphabet) for alphabet in _ALPHABETS[codec]]
    fitting: Counter[str] = Counter()
    marks = 0.0
    for piece, count in pieces.items():
        text = _read(piece, codec)
        for place, mark in enumerate(text):
            if mark.isascii():
                continue
            before, after = text[place - 1 : place], text[place + 1 : place + 2]
            if mark.isalpha():
                if not (mark.isupper() and before.islower()):
                    fitting[mark.lower().removesuffix("\u0307")] += count
            elif mark in _MARKS and (mark in _BETWEEN_LETTERS or not (before.isalpha() and after.isalpha())):
                marks += _SEVERAL_LANGUAGES * count
    one = max(sum(fitting[mark] for mark in alphabet) for alphabet in alphabets)
    several = sum(fitting[mark] for mark in set().union(*alphabets))
    return (max(one, _SEVERAL_LANGUAGES * several) + marks) / total
