"""Rules with their standing and evidence, and the rows that break one, as documents."""

from __future__ import annotations

from collections.abc import Sequence
from math import comb

from pravix.discovery.exceptions import exceptions
from pravix.document.story import BreakChance, BrokenRule, NearDocument, NearEvidence, OddCell
from pravix.judgement.decisions import Confidence
from pravix.judgement.evidence import by_luck, held_out
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import NearDependency
from pravix.judgement.standing import JudgedRule
from pravix.judgement.telling import reason
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, in_order


def rule_document(
    judged: JudgedRule, judgement: Judgement, header: Sequence[str], confidence: Confidence
) -> dict[str, object]:
    """Return a judged rule; ``evidence`` always says why, with numbers where the rule was weighed."""
    evidence: dict[str, object] = {"why": reason(judged, judgement, header)}
    if judged.evidence is not None and judged.weighing is not None:
        estimate, bound = held_out(judged.evidence.tests)
        looked_at = comb(len(header) - 1, len(judged.rule.determinant))
        evidence |= {
            "observed_by": list(judged.evidence.observed),
            "observations": judged.evidence.observations,
            "values": judged.evidence.values,
            "tests": judged.evidence.tests,
            "example_rows": list(judged.evidence.example or ()),
            "next_row_breaks": {"estimate": _rounded(estimate), "at_most": _rounded(bound)},
            "held_by_luck": _rounded(by_luck(judged.evidence.bits, looked_at)),
            "bits": {
                "rows": round(judged.weighing.rows, 2),
                "choice": round(judged.weighing.choice, 2),
                "determinant": round(judged.weighing.determinant, 2),
                "names": round(judged.weighing.names, 2),
                "total": round(judged.weighing.total, 2),
            },
        }
    return {
        "determinant": in_order(judged.rule.determinant, header),
        "dependent": judged.rule.dependent,
        "standing": judged.standing.value,
        "confidence": _rounded(confidence.rule(judged)),
        "evidence": evidence,
    }


def _rounded(share: float) -> float:
    return float(f"{share:.3g}")


MOST_LISTED = 100
"""Of the rows that break a rule so many are listed; all are counted."""


def near_document(
    near: NearDependency, judgement: Judgement, header: Sequence[str], most: int | None = MOST_LISTED
) -> NearDocument:
    """Return a rule that holds but for a few rows, with the first cells that break it, or all."""
    estimate, bound = held_out(near.tests, near.exceptions)
    return NearDocument(
        determinant=tuple(in_order(near.rule.determinant, header)),
        dependent=near.rule.dependent,
        standing="accepted" if near.rule in judgement.accepted else "doubtful",
        exceptions=near.exceptions,
        rows=tuple(near.rows[:most]),
        cells=tuple(
            OddCell(row=cell.row, now=cell.now, instead=cell.instead, looks=cell.oddity.value)
            for cell in near.odd[:most]
        ),
        evidence=NearEvidence(
            tests=near.tests,
            bits=round(near.bits, 2),
            next_row_breaks=BreakChance(estimate=_rounded(estimate), at_most=_rounded(bound)),
        ),
    )


def exception_document(relation: Relation, rule: Dependency, most: int | None = MOST_LISTED) -> BrokenRule:
    """Return an accepted rule with the first rows, by number, that break it, or all; there may be none."""
    rows = relation.row_numbers[exceptions(relation, rule)].tolist()
    return BrokenRule(
        determinant=tuple(in_order(rule.determinant, relation.names)),
        dependent=rule.dependent,
        standing="accepted",
        exceptions=len(rows),
        rows=tuple(rows[:most]),
    )
