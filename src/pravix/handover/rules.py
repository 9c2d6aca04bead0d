"""Rules with their standing and evidence, and the rows that break one, as JSON can hold them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pravix.discovery.exceptions import exceptions
from pravix.judgement.judge import Judgement
from pravix.judgement.standing import JudgedRule
from pravix.judgement.telling import reason
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, in_order


def rule_document(judged: JudgedRule, judgement: Judgement, header: Sequence[str]) -> dict[str, Any]:
    """Return a judged rule; ``evidence`` always says why, with numbers where the rule was weighed."""
    evidence: dict[str, Any] = {"why": reason(judged, judgement, header)}
    if judged.evidence is not None and judged.weighing is not None:
        evidence |= {
            "observed_by": list(judged.evidence.observed),
            "observations": judged.evidence.observations,
            "values": judged.evidence.values,
            "tests": judged.evidence.tests,
            "example_rows": list(judged.evidence.example or ()),
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
        "evidence": evidence,
    }


def exception_document(relation: Relation, rule: Dependency) -> dict[str, Any]:
    """Return an accepted rule with the rows, by number, that break it; there may be none."""
    rows = relation.row_numbers[exceptions(relation, rule)].tolist()
    return {
        "determinant": in_order(rule.determinant, relation.names),
        "dependent": rule.dependent,
        "standing": "accepted",
        "exceptions": len(rows),
        "rows": rows,
    }
