"""What the analyst answered to a finding."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Answer:
    """The analyst's answer to one finding; ``name`` is what a new column is to be called."""

    finding: str
    answer: str
    name: str = ""
    why: str = ""
