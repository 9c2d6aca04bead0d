"""All kinds of findings, the worst first, and the ways in which repaired columns come back.

A new kind of finding is a module of this room and a line here; one that can be repaired a second line.
"""

from __future__ import annotations

from collections.abc import Callable, Collection

from pravix.engines.staying import Staying
from pravix.first_normal_form.ageing import AGEING, find_ageing
from pravix.first_normal_form.codes import CODES, find_codes
from pravix.first_normal_form.compounds import COMPOUND, RebuiltCompound, find_compounds
from pravix.first_normal_form.computed import COMPUTED, find_computed
from pravix.first_normal_form.families import FAMILY, RebuiltMember, find_families
from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.flags import ONE_FACT, RebuiltFlag, find_one_facts
from pravix.first_normal_form.footnotes import FOOTNOTE, find_footnotes
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.lists import LIST, RebuiltList, find_lists
from pravix.first_normal_form.moments import MOMENT, RebuiltMomentPart, find_moments
from pravix.first_normal_form.saying_nothing import SAYS_NOTHING, find_saying_nothing
from pravix.first_normal_form.spellings import SPELLING, find_spellings
from pravix.first_normal_form.words_for_nothing import NO_VALUE, find_words_for_nothing
from pravix.relation.relation import Relation
from pravix.sources.account import Source

FINDERS: dict[Topic, Callable[[Relation], list[Finding]]] = {
    LIST: find_lists,
    FAMILY: find_families,
    ONE_FACT: find_one_facts,
    COMPUTED: find_computed,
    AGEING: find_ageing,
    NO_VALUE: find_words_for_nothing,
    SPELLING: find_spellings,
    FOOTNOTE: find_footnotes,
    COMPOUND: find_compounds,
    MOMENT: find_moments,
    CODES: find_codes,
    SAYS_NOTHING: find_saying_nothing,
}
"""What finds the findings of each topic, in the order in which they are shown."""

AnyRebuilt = RebuiltList | RebuiltMember | RebuiltFlag | RebuiltCompound | RebuiltMomentPart | Formula
"""The ways in which a column of the file comes back."""


def findings(
    relation: Relation,
    progress: Callable[[str, int], None] | None = None,
    topics: Collection[str] | None = None,
) -> list[Finding]:
    """Return what stands in the way of first normal form, topic by topic; ``topics`` names those wanted."""
    found = []
    place = {name: number for number, name in enumerate(relation.names)}
    for topic, find in FINDERS.items():
        if topics is not None and topic.name not in topics:
            continue
        if progress is not None:
            progress(f"looking for {topic.sought}", 0)
        found += sorted(find(relation), key=lambda finding: place[finding.columns[0]])
    return found


def findings_of(source: Source, progress: Callable[[str, int], None] | None = None) -> list[Finding]:
    """Return what stands in the way of first normal form in a source, topic by topic.

    Of rows that stay elsewhere those drawn are looked at; what can be repaired is held against all.
    """
    found = findings(source.relation, progress)
    if not isinstance(source, Staying):
        return found
    from pravix.first_normal_form.elsewhere import held_against_all

    return [held_against_all(one, source) for one in found]
