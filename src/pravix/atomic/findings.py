"""All findings of a relation, the worst first."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from pravix.atomic.compounds import find_compounds
from pravix.atomic.computed import find_computed
from pravix.atomic.families import find_families
from pravix.atomic.finding import Finding, Topic
from pravix.atomic.flags import find_one_facts
from pravix.atomic.lists import find_lists
from pravix.atomic.oddities import find_oddities
from pravix.atomic.spellings import find_spellings
from pravix.relation.relation import Relation

_FINDING: Sequence[tuple[str, Callable[[Relation], list[Finding]]]] = (
    ("lists", find_lists),
    ("families", find_families),
    ("yes/no columns", find_one_facts),
    ("computed columns", find_computed),
    ("spellings", find_spellings),
    ("compounds", find_compounds),
    ("oddities", find_oddities),
)


def findings(relation: Relation, progress: Callable[[str, int], None] | None = None) -> list[Finding]:
    """Return what stands in the way of first normal form, in the order of the topics."""
    found = []
    for told, find in _FINDING:
        if progress is not None:
            progress(f"looking for {told}", 0)
        found += find(relation)
    order = list(Topic)
    place = {name: number for number, name in enumerate(relation.names)}
    return sorted(found, key=lambda finding: (order.index(finding.topic), place[finding.columns[0]]))
