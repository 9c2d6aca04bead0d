"""Sets of columns as whole numbers, one bit a column."""

from __future__ import annotations

import numpy as np

_FEW = 30


def bit_places(number: int) -> list[int]:
    """Return the places of the bits of a whole number that is not negative, the lowest first."""
    if number.bit_count() > _FEW:
        octets = np.frombuffer(number.to_bytes((number.bit_length() + 7) // 8, "little"), np.uint8)
        return np.flatnonzero(np.unpackbits(octets, bitorder="little")).tolist()
    found = []
    while number:
        low = number & -number
        found.append(low.bit_length() - 1)
        number ^= low
    return found
