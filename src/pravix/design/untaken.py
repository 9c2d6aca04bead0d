"""Steps that the analyst wishes not to take: facts kept together, or every transitive one (2NF).

A table that such a step would make is put back into the table that it is split from. What that keeps
repeated, and which anomaly it keeps alive, is told by the step itself.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from pravix.design.drafting import Draft, widened
from pravix.design.model import Step
from pravix.errors import InputError
from pravix.ledger.wishes import Wishes
from pravix.relation.relation import Relation
from pravix.theory.normal_forms import Breach
from pravix.wording import joined


def untaken_steps(steps: Sequence[Step], wishes: Wishes) -> tuple[Step, ...]:
    """Return the steps that are wished not to be taken.

    Raises InputError where facts are to be kept together that no step moves.
    """
    by_determinant = {frozenset(step.determinant): step for step in steps}
    untaken = {}
    for wish in wishes.of("together"):
        step = by_determinant.get(frozenset(wish.columns))
        if step is None:
            known = joined([", ".join(other.determinant) for other in steps if other.determinant], "or")
            raise InputError(
                f"{wish.place or 'together'}: no step moves facts about {joined(wish.columns)}",
                f"Steps move facts about {known}." if known else "The design has no steps.",
            )
        untaken[step.to_table] = step
    for wish in wishes.of("list"):
        step = by_determinant.get(frozenset(wish.columns))
        if step is not None:
            untaken[step.to_table] = step
    if wishes.until == "2nf":
        untaken |= {step.to_table: step for step in steps if step.breach is not Breach.PARTIAL}
    return tuple(step for step in steps if step.to_table in untaken)


def put_back(
    drafts: Mapping[str, Draft], untaken: Sequence[Step], relation: Relation
) -> tuple[list[Draft], list[tuple[str, ...]]]:
    """Return the drafts with untaken tables inside those they were split from, and the keys of the latter.

    ``drafts`` are by the name of their table. A table may go into one that is put back itself.
    """
    parents = {step.to_table: step.from_table for step in untaken}
    columns: dict[str, set[str]] = {}
    for name in parents:
        home = name
        while home in parents:
            home = parents[home]
        columns.setdefault(home, set()).update(drafts[name].rows.names)
    kept = [
        widened(draft, columns[name], relation) if name in columns else draft
        for name, draft in drafts.items()
        if name not in parents
    ]
    return kept, [drafts[name].keys[0] for name in columns]
