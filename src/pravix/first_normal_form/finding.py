"""A finding: what was found where, how sure, what a repair would do, and the question to ask."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.first_normal_form.repair import Repair
from pravix.theory.dependency import written_names


@dataclass(frozen=True)
class Topic:
    """What a finding is about: its ``name``, the ``heading`` above its findings, and what is looked for."""

    name: str
    heading: str
    sought: str


@dataclass(frozen=True)
class Finding:
    """One finding.

    ``columns`` are those it is about. ``told`` says what was found, with counts and examples; ``sure``
    how sure that is, from 0 to 1. ``rows`` are the row numbers that show it, or that speak against it
    where ``told`` says so. ``question`` and ``answers`` are what the analyst is asked; the first answer
    is the proposal, and there are none where nothing is to be decided. ``preview`` is what a table
    would look like after the repair: names, then a few rows. ``repair`` is what an answer other than
    ``keep`` does; None where some cells must be corrected first.
    """

    topic: Topic
    columns: tuple[str, ...]
    told: str
    sure: float
    rows: tuple[int, ...] = ()
    question: str = ""
    answers: tuple[str, ...] = ()
    preview: tuple[tuple[str, ...], ...] = ()
    repair: Repair | None = None

    @property
    def id(self) -> str:
        """The name by which a ledger or an option refers to it: the topic, and columns as in a rule."""
        return f"{self.topic.name}: {written_names(self.columns)}"


def certainty(sure: float) -> str:
    """Return how sure a finding is, in a word."""
    return "certain" if sure >= 0.95 else "likely" if sure >= 0.75 else "possible"
