"""Hashes of texts, all at once.

The hash of a text is a polynomial of its letters (J. L. Carter and M. N. Wegman, "Universal classes of hash
functions", JCSS 18(2), 1979), stirred by the finaliser of G. L. Steele, D. Lea and C. H. Flood, "Fast
splittable pseudorandom number generators", OOPSLA 2014.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from pravix.kernels.mixing import LAST_SHIFT, MULTIPLIER, STIRRING
from pravix.relation.texts import Texts

_AT_ONCE = 20_000


def text_hashes(texts: Sequence[str]) -> NDArray[np.uint64]:
    """Return a hash of each text. Linear in the letters."""
    parts = (_hashes(texts[start : start + _AT_ONCE]) for start in range(0, len(texts), _AT_ONCE))
    return stirred(np.concatenate([np.zeros(0, np.uint64), *parts]))


def _hashes(texts: Sequence[str]) -> NDArray[np.uint64]:
    """Return the polynomials of some texts."""
    letters, bounds = _letters(texts)
    sizes = np.diff(bounds)
    places = np.arange(len(letters)) - np.repeat(bounds[:-1] - bounds[0], sizes)
    powers = np.cumprod(np.full(int(sizes.max(initial=0)) + 1, MULTIPLIER))
    sums = np.concatenate((np.zeros(1, np.uint64), np.cumsum((letters + np.uint64(1)) * powers[places])))
    bounds = bounds - bounds[0]
    found: NDArray[np.uint64] = sums[bounds[1:]] - sums[bounds[:-1]]
    return found


def _letters(texts: Sequence[str]) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
    """Return the bytes of texts, and where those of each begin and the last end."""
    if isinstance(texts, Texts):
        return texts.data[texts.bounds[0] : texts.bounds[-1]], texts.bounds
    encoded = [text.encode(errors="surrogatepass") for text in texts]
    bounds = np.cumsum([0, *map(len, encoded)], dtype=np.int64)
    return np.frombuffer(b"".join(encoded), dtype=np.uint8), bounds


def stirred(found: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Return hashes of which each bit depends on all bits of those given, in the same memory."""
    for shift, factor in STIRRING:
        found ^= found >> shift
        found *= factor
    found ^= found >> LAST_SHIFT
    return found
