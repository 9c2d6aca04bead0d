"""Texts read letter by letter; see ``pravix.sources.coding``."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bounds, Bytes, Flags, Keys
from pravix.kernels.compiling import compiled

_MINUS, _ZERO, _NINE = 45, 48, 57
_MOST_DIGITS = 18


@compiled("void(B1,N1,N1,F1)")
def plain_numbers(data: Bytes, bounds: Bounds, numbers: Keys, plain: Flags) -> None:
    """Fill in the whole numbers that texts stand for, and which texts do: those that no other one stands for.

    A number has up to 18 digits and no leading zeros, and zero no sign. Others get the number 0.
    """
    for text in range(len(bounds) - 1):
        first, stop = bounds[text], bounds[text + 1]
        numbers[text], plain[text] = 0, False
        negative = first < stop and data[first] == _MINUS
        if negative:
            first += 1
        zero = first < stop and data[first] == _ZERO
        if first == stop or stop - first > _MOST_DIGITS or (zero and (negative or stop - first > 1)):
            continue
        number, fits = np.int64(0), True
        for place in range(first, stop):
            digit = data[place]
            fits = fits and _ZERO <= digit <= _NINE
            number = number * 10 + np.int64(digit) - _ZERO
        if fits:
            numbers[text], plain[text] = -number if negative else number, True
