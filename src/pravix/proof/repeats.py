"""Which hashes come more than once among any number of them, in little memory."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from pravix.temporary import let_go, temporary_folder

_AT_ONCE = 4_000_000
_BITS = 64

Hashes = NDArray[np.uint64]


class Repeats:
    """Takes hashes, and tells which came again; once they are many they wait in a temporary file."""

    def __init__(self) -> None:
        self._waiting: list[Hashes] = []
        self._count = 0
        self._folder = ""

    def add(self, hashes: Hashes) -> None:
        """Take some hashes."""
        self._waiting.append(hashes)
        self._count += len(hashes)
        if sum(map(len, self._waiting)) > _AT_ONCE:
            self._folder = self._folder or temporary_folder()
            with self._file.open("ab") as file:
                for some in self._waiting:
                    file.write(some.tobytes())
            self._waiting = []

    def found(self) -> Hashes:
        """Return the hashes that came more than once; to be asked for once.

        Cost: sorting them, in parts of some million each.
        """
        parts = 1 << max(0, (self._count - 1) // _AT_ONCE).bit_length()
        again = [np.zeros(0, np.uint64)]
        for part in range(parts):
            some = np.sort(np.concatenate([hashes[_part(hashes, parts) == part] for hashes in self._all()]))
            again.append(some[1:][some[1:] == some[:-1]])
        if self._folder:
            let_go(self._folder)
        return np.unique(np.concatenate(again))

    @property
    def _file(self) -> Path:
        return Path(self._folder, "hashes")

    def _all(self) -> Iterator[Hashes]:
        yield np.zeros(0, np.uint64)
        yield from self._waiting
        if self._folder:
            with self._file.open("rb") as file:
                while data := file.read(8 * _AT_ONCE):
                    yield np.frombuffer(data, np.uint64)


def _part(hashes: Hashes, parts: int) -> Hashes:
    """Return the part to which each hash belongs: its first bits."""
    bits = parts.bit_length() - 1
    return hashes >> np.uint64(_BITS - bits) if bits else np.zeros_like(hashes)
