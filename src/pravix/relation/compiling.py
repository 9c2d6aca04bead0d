"""Compiling the inner loops: Numba, with the machine code kept where the user may write."""

from __future__ import annotations

from collections.abc import Callable
from typing import ParamSpec, TypeVar

import numba

_P = ParamSpec("_P")
_R = TypeVar("_R")


def compiled(function: Callable[_P, _R]) -> Callable[_P, _R]:
    """Compile a function when it is first called, for the types it is called with.

    The machine code is kept beside the package, or else in the user's cache folder; where neither can
    be written it is made anew in every process. The global interpreter lock is let go while it runs.
    """
    try:
        made: Callable[_P, _R] = numba.njit(cache=True, nogil=True)(function)
    except RuntimeError:
        made = numba.njit(nogil=True)(function)
    return made
