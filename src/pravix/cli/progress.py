"""Progress on standard error, shown when work takes longer than a moment."""

from __future__ import annotations

import time
from types import TracebackType

from rich.console import Console
from rich.status import Status

_QUIET_SECONDS = 1.5


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
        self._status.update(f"{doing} ({steps})")

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._status is not None:
            self._status.stop()
