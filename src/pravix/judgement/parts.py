"""The parts of lists and families judged: rows like any other, searched and weighed as the file's own are."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from functools import cached_property

from pravix.discovery.discovered import Discovery
from pravix.discovery.search import discover
from pravix.first_normal_form.parts import PartRows, part_names, part_rows
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.decisions import Confidence
from pravix.judgement.judge import judge
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import NearDependency, near_dependencies
from pravix.judgement.outline import Outlines
from pravix.judgement.weights import WEIGHED_TO
from pravix.ledger.said import Said
from pravix.relation.numbering import numbered
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency

Search = Callable[[Relation], Discovery]
"""How the rows of parts are searched."""


@dataclass(frozen=True, eq=False)
class JudgedPart:
    """The parts of a bundle with their judgement."""

    rows: PartRows
    judgement: Judgement

    @property
    def relation(self) -> Relation:
        """The parts, a row for each."""
        return self.rows.relation

    @cached_property
    def near(self) -> tuple[NearDependency, ...]:
        """The rules of the parts that hold but for a few of them."""
        return near_dependencies(self.relation, self.judgement)

    @cached_property
    def confidence(self) -> Confidence:
        """How sure their judgement is."""
        return Confidence(self.relation, self.judgement, self.near)

    def knows(self, columns: Collection[str]) -> bool:
        """Whether columns belong to the parts, and not all of them to what these are parts of."""
        return set(columns) <= set(self.relation.names) and not set(columns) <= set(self.rows.owner)


def _searched(relation: Relation) -> Discovery:
    return discover(relation, largest=WEIGHED_TO)


def judged_parts(
    repaired: Repaired,
    judgement: Judgement,
    accepted: Collection[Dependency] = (),
    rejected: Collection[Dependency] = (),
    search: Search = _searched,
) -> tuple[JudgedPart, ...]:
    """Return the parts of every bundle of a repaired file, judged; ``judgement`` is that of the file.

    A part is known by what it is a part of and its position. Of the decisions those count that are about
    parts. Cost: that of ``search`` and ``judge`` for each bundle.
    """
    if not repaired.bundles:
        return ()
    owners = Outlines(judgement).now.tables
    whole = repaired.relation if judgement.row_key is not None else numbered(repaired.relation)
    found = []
    for names in part_names(repaired):
        column = names.bundle.column
        key = next((one.key for one in owners if column in one.columns - one.key), frozenset[str]())
        owner = [name for name in whole.names if name in key or ("" in key and name not in judgement.uses)]
        rows = part_rows(whole, names, owner)
        found.append(_judged(rows, accepted, rejected, search))
    return tuple(found)


def _judged(
    rows: PartRows, accepted: Collection[Dependency], rejected: Collection[Dependency], search: Search
) -> JudgedPart:
    relation = rows.relation

    def own(rules: Collection[Dependency]) -> Sequence[Dependency]:
        return [
            rule
            for rule in rules
            if rule.columns <= set(relation.names) and not rule.columns <= set(rows.owner)
        ]

    said = Said(key=frozenset(rows.key))
    return JudgedPart(rows, judge(relation, search(relation), own(accepted), own(rejected), said=said))
