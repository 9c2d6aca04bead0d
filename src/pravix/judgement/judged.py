"""What was judged of some rows, whatever they are rows of."""

from __future__ import annotations

from typing import Protocol

from pravix.judgement.decisions import Confidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import NearDependency
from pravix.relation.relation import Relation


class Judged(Protocol):
    """Rows with what was judged of them: those of a file, or the parts of one of its lists or families."""

    @property
    def relation(self) -> Relation:
        """The rows."""
        ...

    @property
    def judgement(self) -> Judgement:
        """The standings of their rules."""
        ...

    @property
    def near(self) -> tuple[NearDependency, ...]:
        """Their rules that hold but for a few rows."""
        ...

    @property
    def confidence(self) -> Confidence:
        """How sure the judgement is."""
        ...
