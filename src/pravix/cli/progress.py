"""Progress on standard error, shown when work takes longer than a moment."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from types import TracebackType
from typing import TypeVar

from rich.console import Console
from rich.status import Status

_QUIET_SECONDS = 1.5

_T = TypeVar("_T")


def in_background(work: Callable[[Progress], _T], meanwhile: Callable[[], object] | None = None) -> _T:
    """Do long work in a thread of its own, so that the main one hears an interruption at once.

    ``meanwhile`` is done here. An interrupted thread is left to end with the process. What the work raises is
    raised here.
    """
    results: list[_T] = []
    errors: list[BaseException] = []

    def run() -> None:
        try:
            results.append(work(progress))
        except BaseException as error:
            errors.append(error)

    with Progress() as progress:
        thread = threading.Thread(target=run, daemon=True)
        thread.start()
        if meanwhile is not None:
            meanwhile()
        while thread.is_alive():
            thread.join(0.05)
    if errors:
        raise errors[0]
    return results[0]


class Progress:
    """A context that can be handed to the core as its progress callback."""

    def __init__(self) -> None:
        self._console = Console(stderr=True)
        self._started = time.monotonic()
        self._status: Status | None = None

    def __enter__(self) -> Progress:
        return self

    def __call__(self, doing: str, steps: int) -> None:
        """Show what is being done and how many steps of it are done."""
        if not self._console.is_terminal or time.monotonic() - self._started < _QUIET_SECONDS:
            return
        if self._status is None:
            self._status = self._console.status("")
            self._status.start()
        self._status.update(f"{doing} ({steps:,})" if steps else doing)

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._status is not None:
            self._status.stop()
