"""Decisions that were made on other rows, held against the rows of today."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from pravix.discovery.exceptions import exceptions
from pravix.ledger.ledger import Decision
from pravix.relation.relation import Relation


@dataclass(frozen=True)
class Review:
    """A decision to look at again: the rows of today, by number, that break its rule; there may be none."""

    decision: Decision
    rows: tuple[int, ...]


def to_review(relation: Relation, decisions: Iterable[Decision], mark: str) -> tuple[Review, ...]:
    """Return the decisions made on other rows than those with the fingerprint ``mark``, that need a look.

    An accepted rule needs one where rows break it now. A rejected one needs one where no row does: if the
    rows that spoke against it are gone, it may be a rule after all. n log n in the rows for each.
    """
    found = []
    for decision in decisions:
        if decision.fingerprint in ("", mark):
            continue
        rows = tuple(relation.row_numbers[exceptions(relation, decision.rule)].tolist())
        if decision.accepted == bool(rows):
            found.append(Review(decision, rows))
    return tuple(found)
