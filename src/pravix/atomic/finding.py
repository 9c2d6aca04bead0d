"""A finding: what was found where, how sure, what a repair would do, and the question to ask."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from pravix.theory.dependency import written_names


class Topic(Enum):
    """What a finding is about, in the order in which findings are shown: the worst first."""

    LIST = "list"
    FAMILY = "family"
    ONE_FACT = "one fact"
    COMPUTED = "computed"
    AGEING = "ageing"
    SPELLING = "spelling"
    COMPOUND = "compound"
    CODES = "codes"
    SAYS_NOTHING = "says nothing"


HEADINGS = {
    Topic.LIST: "Lists in a cell",
    Topic.FAMILY: "Numbered families of columns",
    Topic.ONE_FACT: "One fact over several yes/no columns",
    Topic.COMPUTED: "Columns that others compute",
    Topic.AGEING: "Values that age with the calendar",
    Topic.SPELLING: "Values typed several ways",
    Topic.COMPOUND: "Several facts in one value",
    Topic.CODES: "Codes whose meaning is not in the file",
    Topic.SAYS_NOTHING: "Columns that say nothing",
}


@dataclass(frozen=True)
class Finding:
    """One finding.

    ``columns`` are those it is about. ``told`` says what was found, with counts and examples; ``sure``
    how sure that is, from 0 to 1. ``rows`` are the row numbers that show it, or that speak against it
    where ``told`` says so. ``question`` and ``answers`` are what the analyst is asked; the first answer
    is the proposal, and there are none where nothing is to be decided. ``preview`` is what a table
    would look like after the repair: names, then a few rows.
    """

    topic: Topic
    columns: tuple[str, ...]
    told: str
    sure: float
    rows: tuple[int, ...] = ()
    question: str = ""
    answers: tuple[str, ...] = ()
    preview: tuple[tuple[str, ...], ...] = ()

    @property
    def id(self) -> str:
        """The name by which a ledger or an option refers to this finding."""
        return finding_id(self.topic, self.columns)


def finding_id(topic: Topic, columns: Sequence[str]) -> str:
    """Return ``topic: columns``, with the columns written as in a dependency."""
    return f"{topic.value}: {written_names(columns)}"


def certainty(sure: float) -> str:
    """Return how sure a finding is, in a word."""
    return "certain" if sure >= 0.95 else "likely" if sure >= 0.75 else "possible"
