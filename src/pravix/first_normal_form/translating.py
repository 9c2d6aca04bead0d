"""Rules about columns that a repair took away, told of what came in their place."""

from __future__ import annotations

from collections.abc import Collection

from pravix.first_normal_form.families import SplitFamily
from pravix.first_normal_form.parts import PartNames, part_names
from pravix.first_normal_form.repair import Repaired
from pravix.theory.dependency import Dependency


def translated(rules: Collection[Dependency], repaired: Repaired) -> tuple[Dependency, ...]:
    """Return rules as they are told of repaired rows: none about what left without anything in its place.

    What was said of the members of a numbered family at one position is said of every part: that
    ``part1_no`` fixes ``part1_name`` of ``part_no`` and ``part_name``. A member that something else fixes is
    fixed with its family.
    """
    here = {*repaired.relation.names, *(name for one in part_names(repaired) for name in one.columns)}
    found = [told for rule in rules for told in ([rule] if rule.columns <= here else _told(rule, repaired))]
    return tuple(dict.fromkeys(rule for rule in found if rule.columns <= here and not rule.trivial))


def _told(rule: Dependency, repaired: Repaired) -> list[Dependency]:
    of_parts = [one for names in part_names(repaired) if (one := _of_part(rule, names)) is not None]
    if of_parts:
        return of_parts
    became = {name: repair.arriving for repair in repaired.repairs for name in repair.leaving}
    determinant = frozenset(one for name in rule.determinant for one in became.get(name, (name,)) or (name,))
    return [Dependency(determinant, one) for one in became.get(rule.dependent, (rule.dependent,))]


def _of_part(rule: Dependency, names: PartNames) -> Dependency | None:
    """Return a rule about members of one position as one about parts; None for any other."""
    if not isinstance(names.bundle, SplitFamily):
        return None
    for row in names.bundle.of.members:
        facts = {member: fact for member, fact in zip(row, names.facts, strict=True) if member}
        if rule.columns <= set(facts):
            return Dependency(frozenset(facts[name] for name in rule.determinant), facts[rule.dependent])
    return None
