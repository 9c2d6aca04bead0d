"""What a command needs before it can answer: the source read, searched, judged and designed."""

from __future__ import annotations

import os
from dataclasses import dataclass, field, replace
from functools import cached_property

from pravix.atomic.repair import Repaired, repaired
from pravix.cli.progress import Progress
from pravix.design.build import designed
from pravix.design.model import Design
from pravix.discovery.discovered import Blanks, Discovery
from pravix.discovery.levelwise import discover
from pravix.judgement.judge import WEIGHED_TO, Judgement, judge
from pravix.ledger.ledger import Ledger, default_path, read_ledger
from pravix.relation.relation import Relation
from pravix.sources.account import Source
from pravix.sources.read import read_source
from pravix.sources.reading import Reading


@dataclass(frozen=True)
class Analysis:
    """One source with the options of a command; every part is worked out when it is first asked for.

    ``largest`` limits the determinants and keys searched; None searches all sizes. ``unrepaired`` leaves
    the answers to findings unapplied.
    """

    path: str
    reading: Reading = field(default_factory=Reading)
    ledger_path: str | None = None
    blanks: str = Blanks.EQUAL.value
    largest: int | None = WEIGHED_TO
    unrepaired: bool = False

    @cached_property
    def ledger(self) -> Ledger:
        """The analyst's decisions."""
        return read_ledger(self.ledger_path or default_path(self.path))

    @cached_property
    def source(self) -> Source:
        """The source, read as the options say, and else as the ledger says."""
        return read_source(self.path, self.reading.with_defaults(self._recorded_reading()))

    def _recorded_reading(self) -> Reading:
        """The wishes of the ledger; a patch is named there as seen from the ledger's folder."""
        wishes, path = self.ledger.reading, self.ledger_path or default_path(self.path)
        if wishes.patch is None or path is None:
            return wishes
        return replace(wishes, patch=os.path.join(os.path.dirname(path), wishes.patch))

    @cached_property
    def repaired(self) -> Repaired:
        """The rows with the repairs that the ledger asks for."""
        answers = () if self.unrepaired else self.ledger.answers
        return repaired(self.source.relation, answers, self.ledger.name)

    @property
    def relation(self) -> Relation:
        """The rows to analyse."""
        return self.repaired.relation

    @cached_property
    def discovery(self) -> Discovery:
        """The minimal dependencies and keys of the rows."""
        with Progress() as progress:
            return discover(self.relation, Blanks(self.blanks), self.largest, progress=progress)

    @cached_property
    def judgement(self) -> Judgement:
        """The standings of the rules."""
        ledger, relation = self.ledger, self.relation
        ledger.check_columns(relation.names, self.source.account.name)
        return judge(relation, self.discovery, ledger.accepted, ledger.rejected, self.repaired.opaque)

    @cached_property
    def design(self) -> Design:
        """The tables in third normal form."""
        return designed(self.repaired, self.judgement)
