"""How work that takes long tells what it is doing."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[str, int], None]
"""Told what is being done, and how many steps or rows of it are done; 0 where nobody counts."""


def silent(doing: str, done: int) -> None:
    """Report no progress."""
