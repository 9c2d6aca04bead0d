"""Whether the rows of a file agree with a design made by hand: its rules, and the columns it asks for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pravix.design.by_hand import HandTable
from pravix.discovery.exceptions import exceptions
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, written_in_order
from pravix.wording import counted, joined

_NAMED = 5


@dataclass(frozen=True)
class Agreement:
    """What the rows say of one rule: the numbers of the fewest rows to take out so that it holds."""

    table: str
    rule: Dependency
    broken: tuple[int, ...]
    text: str


def agreements(tables: Sequence[HandTable], relation: Relation) -> tuple[list[Agreement], list[str]]:
    """Return what the rows say of each rule whose columns they have, and the columns that they lack.

    n log n in the rows for each rule.
    """
    found: dict[Dependency, Agreement] = {}
    lacking: list[str] = []
    for table in tables:
        lacking += [f"{table.name}.{name}" for name in table.names if name not in relation.names]
        for rule in table.all_rules:
            if rule in found or not rule.columns <= set(relation.names):
                continue
            broken = tuple(relation.row_numbers[exceptions(relation, rule)].tolist())
            written = written_in_order(rule, table.names)
            text = f"{written} holds in all {counted(relation.row_count, 'row')}"
            if broken:
                rows = joined([str(number) for number in broken[:_NAMED]])
                more = f" and {len(broken) - _NAMED} more" if len(broken) > _NAMED else ""
                text = f"{written} is broken by {counted(len(broken), 'row')}: {rows}{more}"
            found[rule] = Agreement(table.name, rule, broken, text)
    return list(found.values()), lacking
