"""What a command needs before it can answer: the source read, searched, judged and designed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from pravix.cli.progress import Progress
from pravix.design.build import designed
from pravix.design.model import Design
from pravix.discovery.discovered import Blanks, Discovery
from pravix.discovery.levelwise import discover
from pravix.judgement.judge import WEIGHED_TO, Judgement, judge
from pravix.ledger.ledger import Ledger, default_path, read_ledger
from pravix.relation.relation import Relation
from pravix.sources.account import Source
from pravix.sources.delimited import read_delimited


@dataclass(frozen=True)
class Analysis:
    """One source with the options of a command; every part is worked out when it is first asked for.

    ``largest`` limits the determinants and keys searched; None searches all sizes.
    """

    path: str
    ledger_path: str | None = None
    blanks: str = Blanks.EQUAL.value
    largest: int | None = WEIGHED_TO

    @cached_property
    def source(self) -> Source:
        """The file, read."""
        return read_delimited(self.path)

    @property
    def relation(self) -> Relation:
        """The rows of the file."""
        return self.source.relation

    @cached_property
    def ledger(self) -> Ledger:
        """The analyst's decisions."""
        path = self.ledger_path or default_path(self.path)
        return read_ledger(path, self.relation.names, self.source.account.name)

    @cached_property
    def discovery(self) -> Discovery:
        """The minimal dependencies and keys of the rows."""
        with Progress() as progress:
            return discover(self.relation, Blanks(self.blanks), self.largest, progress=progress)

    @cached_property
    def judgement(self) -> Judgement:
        """The standings of the rules."""
        ledger = self.ledger
        return judge(self.relation, self.discovery, ledger.accepted, ledger.rejected)

    @cached_property
    def design(self) -> Design:
        """The tables in third normal form."""
        return designed(self.relation, self.judgement)
