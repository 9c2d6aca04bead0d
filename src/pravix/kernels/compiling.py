"""How the inner loops become machine code: beforehand, when a wheel is built, or else by Numba when called.

A wheel holds the machine code of every loop (``hatch_build.py`` makes it), which is there at once and needs
neither Numba nor a compiler; on Intel's architecture a processor with AVX2. Where it is missing, as in a
checkout or where the wheel was built without a compiler, Numba compiles each loop when it is first called,
and keeps the code beside the package or in the user's cache folder, if it may write to one.
"""

from __future__ import annotations

import platform
import re
from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from types import ModuleType
from typing import ParamSpec, TypeVar

_P = ParamSpec("_P")
_R = TypeVar("_R")

BEFOREHAND = "_machine_code"
"""The name of the module of machine code, in this package."""

_KINDS = {"W": "uint64", "N": "int64", "C": "int32", "B": "uint8", "F": "boolean"}
_ARRAY = re.compile(r"(\w+)\[(:,)?::1\]")


@dataclass(frozen=True)
class Loop:
    """A loop for arguments of certain types, as the module of machine code is to hold it."""

    name: str
    signature: str
    function: Callable[..., object]


LOOPS: list[Loop] = []
"""The loops that were not found compiled, in the order in which they were met."""


def _found() -> ModuleType | None:
    """Return the module of machine code; None where there is none, or the processor cannot run it."""
    try:
        found = import_module(f"{__package__}.{BEFOREHAND}")
        has = import_module("numpy._core._multiarray_umath").__cpu_features__
    except (ImportError, AttributeError):
        return None
    of_intel = platform.machine().lower() in ("x86_64", "amd64")
    return found if not of_intel or (has.get("AVX2") and has.get("FMA3")) else None


MACHINE_CODE = _found()
"""The module of machine code; None where there is none."""


def compiled(*signatures: str) -> Callable[[Callable[_P, _R]], Callable[_P, _R]]:
    """Make machine code of a function, for each signature: the result's type and those of the arguments.

    In these, W, N, C, B and F are arrays of words (64 bits), numbers (64 bits), codes (32 bits), bytes and
    flags, with the number of their dimensions; arrays are contiguous. Called with others, a function compiled
    beforehand raises TypeError. The global interpreter lock is let go while it runs.
    """

    def made(function: Callable[_P, _R]) -> Callable[_P, _R]:
        name = f"{function.__module__.rpartition('.')[2]}_{function.__name__}"
        whole = [re.sub(r"\b([WNCBF])([12])\b", _array, one) for one in signatures]
        if MACHINE_CODE is None:
            LOOPS.extend(Loop(f"{name}_{n}", one, function) for n, one in enumerate(whole))
            return _by_numba(function)
        forms = [(_arrays(one), getattr(MACHINE_CODE, f"{name}_{n}")) for n, one in enumerate(whole)]

        def called(*arguments: _P.args, **named: _P.kwargs) -> _R:
            for arrays, run in forms:
                if all(
                    arguments[place].dtype == kind  # type: ignore[attr-defined]
                    and arguments[place].flags.c_contiguous  # type: ignore[attr-defined]
                    for place, kind in arrays
                ):
                    result: _R = run(*arguments)
                    return result
            raise TypeError(f"{name} is not compiled for such arrays")

        return called

    return made


def inlined(function: Callable[_P, _R]) -> Callable[_P, _R]:
    """Mark a function that only loops call; it becomes a part of them."""
    return function if MACHINE_CODE is not None else _by_numba(function)


def _by_numba(function: Callable[_P, _R]) -> Callable[_P, _R]:
    import numba

    try:
        made: Callable[_P, _R] = numba.njit(cache=True, nogil=True)(function)
    except RuntimeError:
        made = numba.njit(nogil=True)(function)
    return made


def _array(short: re.Match[str]) -> str:
    return f"{_KINDS[short[1]]}[{':,' if short[2] == '2' else ''}::1]"


def _arrays(signature: str) -> list[tuple[int, str]]:
    """Return which arguments are arrays, and of what."""
    arguments = re.findall(r"\w+(?:\[[^]]*\])?", signature[signature.rindex("(") + 1 :])
    found = [(place, _ARRAY.fullmatch(one)) for place, one in enumerate(arguments)]
    return [(place, one[1].replace("boolean", "bool")) for place, one in found if one]
