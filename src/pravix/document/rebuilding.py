"""How the repaired columns of the file are built again from the tables, as data for any database."""

from __future__ import annotations

from pravix.atomic.families import Family
from pravix.atomic.repair import Bundle
from pravix.design.model import Design, Table
from pravix.document.model import (
    CompoundDocument,
    ComputedDocument,
    FamilyDocument,
    FlagDocument,
    FromChild,
    ListDocument,
    Rebuilt,
)


def rebuild_document(design: Design) -> tuple[Rebuilt, ...]:
    """Return an entry for each column of the file that no table holds as it is, in an order that works."""
    repaired = design.repaired
    found: list[Rebuilt] = []
    for bundle in repaired.bundles:
        child = next(
            table
            for table in design.tables
            if table.made_from is not None and table.made_from.columns == bundle.sources
        )
        found += _from_child(bundle, child)
    found += [
        CompoundDocument(column=one.column, columns=one.names, between=one.between) for one in repaired.split
    ]
    found += [
        FlagDocument(
            column=truth.column, columns=(merged.name,), value=truth.column, yes=truth.yes, no=truth.no
        )
        for merged in repaired.merged
        for truth in merged.fact.truths
    ]
    known = {*design.relation.names, *(entry.column for entry in found)}
    waiting = list(repaired.computed)
    while waiting:
        formula = next(one for one in waiting if set(one.columns) <= known)
        waiting.remove(formula)
        known.add(formula.target)
        found.append(
            ComputedDocument(
                column=formula.target,
                columns=formula.columns,
                operation=formula.operation,
                scale=formula.scale,
                rounding=formula.rounding,
                trimmed=formula.trimmed,
                start=formula.start,
                end=formula.end,
                between=formula.between,
            )
        )
    return tuple(found)


def _from_child(bundle: Bundle, child: Table) -> list[FromChild]:
    """Return how the columns of a bundle come back from its child table."""
    key = len(child.foreign_keys[0].columns) if child.foreign_keys else 0
    position, *facts = [name for name in child.column_names if name != child.surrogate][key:]
    if not isinstance(bundle.of, Family):
        return [
            ListDocument(
                column=bundle.column,
                bundle=bundle.column,
                table=child.name,
                fact=facts[0],
                position=position,
                separator=bundle.of.separator,
                mark=bundle.of.mark,
            )
        ]
    return [
        FamilyDocument(
            column=name,
            bundle=bundle.column,
            table=child.name,
            fact=facts[place],
            position=position,
            at=number,
        )
        for number, row in zip(bundle.of.positions, bundle.of.members, strict=True)
        for place, name in enumerate(row)
        if name
    ]
