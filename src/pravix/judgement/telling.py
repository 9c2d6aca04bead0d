"""Why a rule is believed or doubted, in one sentence with the numbers of the file."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.judgement.evidence import Evidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.recoding import TIMES
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.use import Use
from pravix.judgement.weights import WEIGHED_TO
from pravix.theory.dependency import in_order
from pravix.wording import counted, joined

_DOUBTED = (
    Use.MEASURE,
    Use.PROSE,
    Use.MOMENT,
    Use.PERIOD,
    Use.NUMBER,
    Use.MARK,
)


def reason(judged: JudgedRule, judgement: Judgement, header: Sequence[str]) -> str:
    """Return why a rule has its standing, as one sentence without a full stop."""
    if judged.standing is Standing.ACCEPTED:
        return "the ledger accepts it"
    if judged.standing is Standing.REJECTED:
        return "the ledger rejects it"
    if judged.rule.determinant == judgement.row_key:
        return "no two rows agree on the key"
    determinant, evidence = in_order(judged.rule.determinant, header), judged.evidence
    if not determinant:
        return f"{judged.rule.dependent} is the same in every row, which tells nothing about the next row"
    believed = judged.standing is Standing.BELIEVED
    if believed and judged.rule not in judgement.trusted:
        return "it follows from other believed rules"
    if evidence is None and believed:
        return f"{judged.rule.dependent} is the same in every row, and its name goes with {determinant[0]}"
    if evidence is None:
        return _unweighed(determinant, judged, judgement)
    if evidence.tests == 0:
        if believed:
            return "in these rows each goes with exactly one of the other, and their names share a noun"
        return f"never tested: no {_named(determinant)} comes again with a new {_observed(evidence) or 'row'}"
    told = f"held all {counted(evidence.tests, 'time')} that {_named(determinant)} came again"
    if evidence.observed:
        told += f" among {evidence.observations:,} different {_observed(evidence)}"
    if believed:
        return told
    if against := _kind_against(determinant, judgement):
        return f"{told}, but {against}"
    weak = [
        f"{name} is {judgement.uses[name].told}" for name in determinant if judgement.uses[name] in _DOUBTED
    ]
    return f"{told}, which may well be a coincidence" + (f"; {joined(weak)}" if weak else "")


def _named(determinant: Sequence[str]) -> str:
    if len(determinant) == 1:
        return determinant[0]
    return f"the {'pair' if len(determinant) == 2 else 'combination'} {', '.join(determinant)}"


def _observed(evidence: Evidence) -> str:
    return joined(evidence.observed)


def _kind_against(determinant: Sequence[str], judgement: Judgement) -> str:
    """Return why what a determinant holds decides against it; empty where it does not."""
    uses = judgement.uses
    measures = [name for name in determinant if uses[name] in (Use.MEASURE, Use.PROSE)]
    if measures:
        told = joined([f"{name} is {uses[name].told}" for name in measures])
        return f"{told}, and that hardly ever determines anything"
    if all(uses[name] in TIMES for name in determinant):
        return f"{joined(determinant)} tells when, not what, and that hardly ever determines anything"
    return ""


def _unweighed(determinant: Sequence[str], judged: JudgedRule, judgement: Judgement) -> str:
    uses, dependent = judgement.uses, judged.rule.dependent
    if len(determinant) > WEIGHED_TO:
        return f"a combination of {len(determinant)} columns is seldom a rule and was not weighed"
    if told := _kind_against(determinant, judgement):
        return told
    if judged.rule not in judgement.keyless:
        kinds = joined([f"{name} is {uses[name].told}" for name in determinant])
        return f"it was not weighed: {kinds}"
    if len(determinant) == 1:
        return f"{determinant[0]} is blank in rows where {dependent} is not, so it cannot be its key"
    return f"a part of {joined(determinant)} is blank where {dependent} is not, so they cannot be its key"
