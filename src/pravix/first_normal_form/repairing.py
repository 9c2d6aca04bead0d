"""The answers to findings applied to a relation."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.declaration import Declaration
from pravix.first_normal_form.declared import declared_repairs
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repair import Repair, Repaired, columns_after
from pravix.relation.relation import Column, Relation
from pravix.wording import joined, meant, shortened


def repaired(
    relation: Relation,
    answers: Iterable[Answer],
    place: str = "the ledger",
    declarations: Sequence[Declaration] = (),
) -> Repaired:
    """Return a relation after the repairs that declarations and answers ask for.

    ``place`` says for messages where the answers come from. Raises InputError where an answer names no
    finding of this relation, one that the finding does not allow, or a column name that is taken.
    """
    wanted = {answer.finding: answer for answer in answers}
    _check_declared(relation, declarations, place)
    if not wanted and not declarations:
        return Repaired(relation, relation)
    topics = {finding.partition(":")[0] for finding in wanted}
    possible = {one.id: one for one in findings(relation, topics=topics) if one.answers}
    columns = {column.name: column for column in relation.columns}
    repairs = declared_repairs(relation, declarations, place)
    for repair in repairs:
        columns = _applied(repair, repair.leaving[0], relation, columns, place)
    for finding, answer in wanted.items():
        if finding not in possible:
            told = joined([shortened(other, 60) for other in list(possible)[:8]]) or "none of its topic"
            raise InputError(f"{place}: nothing found like {shortened(finding, 60)}", f"Found: {told}.")
        if answer.answer != "keep":
            repair = _asked_for(possible[finding], answer, place)
            columns = _applied(repair, answer.finding, relation, columns, place)
            repairs.append(repair)
    return Repaired(relation, Relation(tuple(columns.values()), relation.row_numbers), tuple(repairs))


def _asked_for(finding: Finding, answer: Answer, place: str) -> Repair:
    repair = finding.repair
    if repair is None:
        raise InputError(
            f"{place}: {answer.finding} cannot be repaired before the rows that break it are corrected",
            "pravix survey names the rows; correct them with a patch.",
        )
    if answer.answer != repair.answer:
        raise InputError(
            f"{place}: the answer to {answer.finding} must be {repair.answer} or keep",
            f'For example: answer = "{repair.answer}"',
        )
    return repair.named(answer.name) if answer.name else repair


def _check_declared(relation: Relation, declarations: Sequence[Declaration], place: str) -> None:
    """Raise InputError where a declaration names a column that there is not."""
    for one in declarations:
        for name in one.columns:
            if name not in relation.names:
                raise InputError(
                    f"{one.place or place}: there is no column {shortened(name)}",
                    f"{meant(name, relation.names)}Use the names of the header.",
                )


def _applied(
    repair: Repair, about: str, relation: Relation, columns: dict[str, Column], place: str
) -> dict[str, Column]:
    for name in repair.leaving:
        if name not in columns:
            raise InputError(
                f"{place}: {about} is about {shortened(name)}, which another answer takes away",
                "Keep one of the two as it is.",
            )
    for name in repair.arriving:
        if name in columns and name not in repair.leaving:
            raise InputError(f"{place}: there is a column {shortened(name)} already", "Choose another name.")
    return columns_after(columns, repair, repair.columns(relation))
