"""A design told in other names of its tables."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from pravix.design.model import Design, Proof, Step
from pravix.design.restyle import renamed


def with_table_names(design: Design, names: Mapping[str, str]) -> Design:
    """Return a design whose tables have other names, given by their own; nothing is worked out anew."""
    columns = {table.name: {name: name for name in table.column_names} for table in design.tables}
    return replace(
        design,
        tables=renamed(design.tables, names, columns),
        whole=replace(design.whole, main=names[design.main]),
        parts=tuple(replace(part, main=names[part.main]) for part in design.parts),
        steps=tuple(step_named(step, names) for step in design.steps),
        untaken=tuple(step_named(step, names) for step in design.untaken),
        proof=proof_named(design.proof, names),
        conflicts=tuple(replace(one, one=names[one.one], other=names[one.other]) for one in design.conflicts),
        remarks=tuple(replace(remark, table=names[remark.table]) for remark in design.remarks),
    )


def step_named(step: Step, names: Mapping[str, str]) -> Step:
    """Return a step with other names of its tables; a table that was put back has none."""
    to_table = names.get(step.to_table, step.to_table)
    return replace(step, from_table=names.get(step.from_table, step.from_table), to_table=to_table)


def proof_named(proof: Proof, names: Mapping[str, str]) -> Proof:
    """Return a proof with other names of the tables that it speaks of."""

    def places(found: Sequence[tuple[str, int]]) -> tuple[tuple[str, int], ...]:
        return tuple((names[identity], row) for identity, row in found)

    return replace(
        proof,
        below_third=tuple(names[identity] for identity in proof.below_third),
        wished_below=tuple(names[identity] for identity in proof.wished_below),
        broken_links=places(proof.broken_links),
        broken_roles=places(proof.broken_roles),
        broken_numbers=places(proof.broken_numbers),
    )
