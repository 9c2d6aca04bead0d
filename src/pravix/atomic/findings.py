"""All findings of a relation, the worst first."""

from __future__ import annotations

from pravix.atomic.compounds import find_compounds
from pravix.atomic.computed import find_computed
from pravix.atomic.families import find_families
from pravix.atomic.finding import Finding, Topic
from pravix.atomic.flags import find_one_facts
from pravix.atomic.lists import find_lists
from pravix.atomic.oddities import find_oddities
from pravix.atomic.spellings import find_spellings
from pravix.relation.relation import Relation


def findings(relation: Relation) -> list[Finding]:
    """Return what stands in the way of first normal form, in the order of the topics."""
    found = [
        *find_lists(relation),
        *find_families(relation),
        *find_one_facts(relation),
        *find_computed(relation),
        *find_spellings(relation),
        *find_compounds(relation),
        *find_oddities(relation),
    ]
    order = list(Topic)
    place = {name: number for number, name in enumerate(relation.names)}
    return sorted(found, key=lambda finding: (order.index(finding.topic), place[finding.columns[0]]))
