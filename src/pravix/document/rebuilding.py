"""How the repaired columns of the file are built again from the tables, as data for any database."""

from __future__ import annotations

from typing import Any

from pravix.atomic.families import Family
from pravix.atomic.repair import Bundle
from pravix.design.model import Design, Table


def rebuild_document(design: Design) -> list[dict[str, Any]]:
    """Return an entry for each column of the file that no table holds as it is, in an order that works.

    ``kind`` is ``list`` or ``family`` (from a child table), ``flag``, ``compound`` or ``computed``.
    """
    repaired = design.repaired
    found = []
    for bundle in repaired.bundles:
        child = next(
            table
            for table in design.tables
            if table.made_from is not None and table.made_from.columns == bundle.sources
        )
        found += _from_child(bundle, child)
    for compound in repaired.split:
        found.append(
            {
                "column": compound.column,
                "kind": "compound",
                "columns": list(compound.names),
                "between": compound.between,
            }
        )
    for merged in repaired.merged:
        found += [
            {
                "column": truth.column,
                "kind": "flag",
                "columns": [merged.name],
                "value": truth.column,
                "yes": truth.yes,
                "no": truth.no,
            }
            for truth in merged.fact.truths
        ]
    known = {*design.relation.names, *(entry["column"] for entry in found)}
    waiting = list(repaired.computed)
    while waiting:
        formula = next(one for one in waiting if set(one.columns) <= known)
        waiting.remove(formula)
        known.add(formula.target)
        found.append(
            {
                "column": formula.target,
                "kind": "computed",
                "columns": list(formula.columns),
                "operation": formula.operation,
                "scale": formula.scale,
                "rounding": formula.rounding,
                "trimmed": formula.trimmed,
                "start": formula.start,
                "end": formula.end,
                "between": formula.between,
            }
        )
    return found


def _from_child(bundle: Bundle, child: Table) -> list[dict[str, Any]]:
    """Return how the columns of a bundle come back from its child table."""
    own = [column.name for column in child.columns]
    key = len(child.foreign_keys[0].columns) if child.foreign_keys else 0
    surrogate = [child.surrogate] if child.surrogate else []
    position, *facts = [name for name in own if name not in surrogate][key:]
    if not isinstance(bundle.of, Family):
        separator = bundle.of.separator
        entry = {"kind": "list", "table": child.name, "fact": facts[0], "position": position}
        mark = bundle.of.mark
        return [
            {"column": bundle.column, "bundle": bundle.column, **entry, "separator": separator, "mark": mark}
        ]
    return [
        {
            "column": name,
            "kind": "family",
            "bundle": bundle.column,
            "table": child.name,
            "fact": facts[place],
            "position": position,
            "at": number,
        }
        for number, row in zip(bundle.of.positions, bundle.of.members, strict=True)
        for place, name in enumerate(row)
        if name
    ]
