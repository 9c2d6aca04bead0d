"""Several designs of one thing side by side: what each costs, what it repeats, and what it cannot store."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pravix.design.by_hand import HandTable
from pravix.design.critique import reviewed
from pravix.theory.closure import closure
from pravix.theory.cover import canonical_cover
from pravix.theory.dependency import Dependency, in_order, written_in_order
from pravix.wording import joined


@dataclass(frozen=True)
class DesignSummary:
    """One design: its tables, columns and references, what it repeats, and rows that it cannot hold."""

    name: str
    tables: int
    columns: int
    joins: int
    repeated: tuple[str, ...]
    cannot_store: tuple[str, ...]


def compared(designs: Mapping[str, Sequence[HandTable]]) -> list[DesignSummary]:
    """Return the account of each design. Columns of one name count as one thing in all of them.

    A design cannot store two rows that agree on a determinant of its rules and not on the dependent; that is
    told where another design has both columns and no such rule. Cost: that of a cover for each design.
    """
    return [
        DesignSummary(
            name=name,
            tables=len(tables),
            columns=sum(len(table.columns) for table in tables),
            joins=sum(len(table.references) for table in tables),
            repeated=tuple(_repeated(tables)),
            cannot_store=tuple(_cannot_store(name, designs)),
        )
        for name, tables in designs.items()
    ]


def _repeated(tables: Sequence[HandTable]) -> list[str]:
    """Return the rules by which a table repeats facts, and the columns outside keys that two tables have."""
    found = []
    for table in tables:
        found += [f"{table.name}: {reason.partition(': ')[0]}" for reason in reviewed(table).reasons]
    homes: dict[str, list[str]] = {}
    for table in tables:
        referring = {name for link in table.references for name in link.columns}
        for name in table.names:
            if name not in table.primary_key and name not in referring:
                homes.setdefault(name, []).append(table.name)
    found += [f"{name} in {joined(places)}" for name, places in homes.items() if len(places) > 1]
    return found


def _rules(tables: Sequence[HandTable]) -> tuple[Dependency, ...]:
    return tuple(rule for table in tables for rule in table.all_rules)


def _cannot_store(name: str, designs: Mapping[str, Sequence[HandTable]]) -> list[str]:
    told = []
    own = canonical_cover(_rules(designs[name]))
    for other, tables in designs.items():
        if other == name:
            continue
        columns = [column for table in tables for column in table.names]
        theirs = _rules(tables)
        for rule in own:
            known = rule.columns <= set(columns)
            if known and rule.dependent not in closure(rule.determinant, theirs):
                told.append(_example(rule, list(dict.fromkeys(columns)), other))
    return list(dict.fromkeys(told))


def _example(rule: Dependency, order: Sequence[str], other: str) -> str:
    """Return two made-up rows that the rule forbids, as a sentence."""
    same = joined([f"{name} 1" for name in in_order(rule.determinant, order)]) or "anything"
    written = written_in_order(rule, order)
    return f"{same} with both {rule.dependent} 1 and {rule.dependent} 2 ({written}; {other} can)"
