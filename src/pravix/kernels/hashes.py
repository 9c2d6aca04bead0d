"""Hashes combined and made row by row and text by text; see ``pravix.document.row_hashes``."""

from __future__ import annotations

import numpy as np

from pravix.kernels.arrays import Bounds, Bytes, Codes, Words
from pravix.kernels.compiling import compiled, inlined
from pravix.kernels.mixing import LAST_SHIFT, MULTIPLIER, STIRRING

_MULTIPLIER, _LAST = MULTIPLIER, LAST_SHIFT
(_SHIFT, _FACTOR), (_NEXT_SHIFT, _NEXT_FACTOR) = STIRRING
_WORD = 8


@inlined
def _stirred(number: np.uint64) -> np.uint64:
    number = (number ^ (number >> _SHIFT)) * _FACTOR
    number = (number ^ (number >> _NEXT_SHIFT)) * _NEXT_FACTOR
    return number ^ (number >> _LAST)


@compiled("void(W2,W2,C1)")
def fold(found: Words, hashes: Words, codes: Codes) -> None:
    """Add a column to the hashes of rows: a step of the polynomial, with the hash of each row's code."""
    for row in range(len(codes)):
        code = codes[row]
        for lane in range(found.shape[1]):
            found[row, lane] = found[row, lane] * _MULTIPLIER + hashes[code, lane]


@compiled("void(B1,N1,int64,W1,W2)")
def short_texts(data: Bytes, bounds: Bounds, words: int, seeds: Words, found: Words) -> None:
    """Stir the first letters of each text into its hashes, one for each seed: so many words of eight letters,
    filled up with zeros.
    """
    for text in range(len(bounds) - 1):
        stop = bounds[text + 1]
        for word in range(words):
            start = bounds[text] + word * _WORD
            letters = np.uint64(0)
            for place in range(min(_WORD, stop - start)):
                letters |= np.uint64(data[start + place]) << np.uint64(8 * place)
            for lane in range(len(seeds)):
                found[text, lane] = _stirred(found[text, lane] ^ letters ^ seeds[lane])
