"""What a command works with: an analysis with progress and a word about the search on standard error."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import click

from pravix.analysis import Analysis
from pravix.cli.progress import in_background
from pravix.discovery.discovered import Discovery, Progress
from pravix.wording import counted


@dataclass(frozen=True)
class CommandAnalysis(Analysis):
    """One source with the options of a command. ``verbose`` says on standard error how it was searched."""

    verbose: bool = False

    def worked(self, work: Callable[[Progress], Discovery]) -> Discovery:
        """Do the long work of a search in the background, so that an interruption is heard."""
        found: Discovery = in_background(work)
        if self.verbose:
            relation = self.relation
            size = f"{counted(relation.row_count, 'row')}, {counted(len(relation.columns), 'column')}"
            click.echo(f"searched {size}: {found.plan}", err=True)
        return found
