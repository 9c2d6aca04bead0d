"""What a command works with: an analysis that shows its progress."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from pravix.analysis import Analysis
from pravix.cli.progress import in_background
from pravix.discovery.discovered import Discovery, Progress


@dataclass(frozen=True)
class CommandAnalysis(Analysis):
    """One source with the options of a command."""

    def worked(self, work: Callable[[Progress], Discovery]) -> Discovery:
        """Do the long work of a search in the background, so that an interruption is heard."""
        found: Discovery = in_background(work)
        return found
