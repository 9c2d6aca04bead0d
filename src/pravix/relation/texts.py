"""Many texts in one piece of memory: a dictionary of a million values without a million objects."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain, pairwise
from typing import TypeAlias, overload

import numpy as np
from numpy.typing import NDArray

Span: TypeAlias = "slice[int | None, int | None, int | None]"
"""Some places after each other."""


class Texts(Sequence[str]):
    """Texts that are made when they are asked for.

    ``data`` holds them in UTF-8 one after the other, ``bounds`` where each begins and, at last, where the
    last one ends. To go through them makes many at once, and keeps none.
    """

    def __init__(self, data: NDArray[np.uint8], bounds: NDArray[np.int64]) -> None:
        self.data = data
        self.bounds = bounds

    def __len__(self) -> int:
        return len(self.bounds) - 1

    @overload
    def __getitem__(self, place: int) -> str: ...
    @overload
    def __getitem__(self, place: Span) -> Texts: ...
    def __getitem__(self, place: int | Span) -> str | Texts:
        if not isinstance(place, slice):
            place = range(len(self))[place]
            return self._between(self.bounds[place], self.bounds[place + 1])
        start, stop, step = place.indices(len(self))
        if step != 1:
            places = np.arange(start, stop, step)
            parts = [self.data[self.bounds[one] : self.bounds[one + 1]] for one in places]
            ends = np.cumsum([0, *map(len, parts)])
            return Texts(np.concatenate([self.data[:0], *parts]), ends.astype(np.int64))
        return Texts(self.data, self.bounds[start : max(start, stop) + 1])

    def __iter__(self) -> Iterator[str]:
        parts = (self[start : start + _AT_ONCE] for start in range(0, len(self), _AT_ONCE))
        return chain.from_iterable(part._made() for part in parts)

    def _made(self) -> list[str]:
        if (self.letters == _END).any():
            return [self._between(start, stop) for start, stop in pairwise(self.bounds.tolist())]
        return self.lines.split("\n")[:-1]

    def __contains__(self, value: object) -> bool:
        return value in list(self)

    def index(self, value: str, start: int = 0, stop: int | None = None) -> int:
        """Return the first place of a value; ValueError where it is not there."""
        return list(self).index(value, start, len(self) if stop is None else stop)

    @property
    def joined(self) -> str:
        """All texts together, without anything between them."""
        return self.letters.tobytes().decode()

    @property
    def lines(self) -> str:
        """All texts together, each with the end of a line after it."""
        return self.ended("\n").joined

    def ended(self, end: str) -> Texts:
        """Return these texts, each with a letter of ASCII after it."""
        bounds = self.bounds - self.bounds[0]
        return Texts(np.insert(self.letters, bounds[1:], ord(end)), bounds + np.arange(len(bounds)))

    @property
    def lengths(self) -> NDArray[np.int64]:
        """How many characters each text has."""
        if self.letters.max(initial=0) < _BEYOND_ASCII:
            return np.diff(self.bounds)
        starts = (self.letters & 0xC0) != 0x80
        before = np.concatenate(([0], np.cumsum(starts)))
        found: NDArray[np.int64] = np.diff(before[self.bounds - self.bounds[0]])
        return found

    def plain_numbers(self) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
        """Return the whole numbers that these texts stand for, and which of them do so. Linear.

        They have up to 18 digits without leading zeros, so that no other text stands for the same. Others
        get 0.
        """
        from pravix.kernels.texts import plain_numbers

        numbers, plain = np.empty(len(self), dtype=np.int64), np.empty(len(self), dtype=np.bool_)
        plain_numbers(self.data, self.bounds, numbers, plain)
        return numbers, plain

    @property
    def letters(self) -> NDArray[np.uint8]:
        """The bytes of these texts."""
        return self.data[self.bounds[0] : self.bounds[-1]]

    def _between(self, start: int, stop: int) -> str:
        return self.data[start:stop].tobytes().decode()


_END = ord("\n")
_BEYOND_ASCII = 0x80
_AT_ONCE = 10_000
_EASILY = 10
"""To make a text alone takes about so many times as long as to make it with all others."""


def together(texts: Sequence[str]) -> str:
    """Return texts joined, without anything between them."""
    return texts.joined if isinstance(texts, Texts) else "".join(texts)


def lines(texts: Sequence[str]) -> str:
    """Return texts together, each with the end of a line after it."""
    return texts.lines if isinstance(texts, Texts) else "\n".join([*texts, ""])


def lengths(texts: Sequence[str]) -> NDArray[np.int64]:
    """Return how many characters each text has."""
    if isinstance(texts, Texts):
        return texts.lengths
    return np.fromiter(map(len, texts), dtype=np.int64, count=len(texts))


def chosen(texts: Sequence[str], places: Sequence[int]) -> list[str]:
    """Return the texts at some places."""
    many = isinstance(texts, Texts) and len(places) * _EASILY > len(texts)
    made = list(texts) if many else texts
    return [made[place] for place in places]
