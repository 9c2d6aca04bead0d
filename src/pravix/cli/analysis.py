"""What a command works with: an analysis that shows its progress."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from pravix.analysis import Analysis
from pravix.cli.progress import Progress as Shown
from pravix.cli.progress import in_background
from pravix.discovery.discovered import Discovery
from pravix.progress import Progress
from pravix.sources.account import Source


@dataclass(frozen=True)
class CommandAnalysis(Analysis):
    """One source with the options of a command."""

    def worked(
        self, work: Callable[[Progress], Discovery], meanwhile: Callable[[], object] | None = None
    ) -> Discovery:
        """Do the long work of a search in the background, so that an interruption is heard."""
        found: Discovery = in_background(work, meanwhile)
        return found

    def read(self, work: Callable[[Progress], Source]) -> Source:
        """Read the source here: a wait for a background thread would be felt for a small one."""
        with Shown() as progress:
            return work(progress)
