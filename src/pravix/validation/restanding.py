"""The rules judged anew with the rows of two files, and what changed in their standing."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.discovery.search import discover
from pravix.document.model import DesignDocument
from pravix.judgement.judge import judge
from pravix.judgement.weights import WEIGHED_TO
from pravix.relation.relation import Relation
from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency, written_in_order
from pravix.validation.new_rows import ArrivedRows
from pravix.validation.side_by_side import SideBySide


def changed_standings(document: DesignDocument, stored: ArrivedRows, new: ArrivedRows) -> list[str]:
    """Return, in a sentence each, the rules of a design that are believed no more, and those believed now.

    Both judgements are made without the analyst's decisions: of the stored rows, and of all rows. The cost is
    that of discovery and judgement, twice.
    """
    names = tuple(name for name in stored.values.names if name in new.values.names)
    before = _trusted(stored.values.project(names))
    after = _trusted(SideBySide.of(stored, new).relation.project(names))
    used = [
        Dependency(frozenset(rule.determinant), rule.dependent)
        for rule in document.dependencies
        if {*rule.determinant, rule.dependent} <= set(names)
    ]
    told = []
    for rule in used:
        was, now = _holds(rule, before), _holds(rule, after)
        if was and not now:
            told.append(f"{written_in_order(rule, names)} was believed and is not with the new rows")
        elif now and not was:
            told.append(f"{written_in_order(rule, names)} is believed with the new rows; before it was not")
    return told


def _trusted(relation: Relation) -> tuple[Dependency, ...]:
    return judge(relation, discover(relation, largest=WEIGHED_TO)).foundation


def _holds(rule: Dependency, trusted: Sequence[Dependency]) -> bool:
    return rule.dependent in closure(rule.determinant, trusted)
