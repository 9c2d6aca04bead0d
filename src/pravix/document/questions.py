"""The open questions as JSON can hold them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pravix.document.source import source_document
from pravix.judgement.phrasing import answer_effect, choice_effect, choice_text, question_text
from pravix.judgement.questions import Choice, Open, Question
from pravix.judgement.review import Review
from pravix.relation.relation import Relation


def questions_document(
    relation: Relation, questions: Sequence[Open], reviews: Sequence[Review]
) -> dict[str, Any]:
    """Return the open questions, most decisive first, and the decisions to look at again."""
    return {
        "format": "pravix.questions",
        "version": 1,
        "source": source_document(relation),
        "questions": [
            _choice(question) if isinstance(question, Choice) else _question(question, relation)
            for question in questions
        ],
        "look_again": [
            {
                "rule": str(review.decision.rule),
                "standing": "accepted" if review.decision.accepted else "rejected",
                "decided_on_rows": review.decision.rows,
                "rows": list(review.rows),
            }
            for review in reviews
        ],
    }


def _question(question: Question, relation: Relation) -> dict[str, Any]:
    document: dict[str, Any] = {
        "id": question.id,
        "kind": "rule",
        "determinant": list(question.determinant),
        "dependents": list(question.dependents),
        "text": question_text(question, relation.row_count),
        "if_accepted": answer_effect(question, True),
        "if_rejected": answer_effect(question, False),
    }
    if question.near is not None:
        document["exceptions"] = question.near.rows
    if question.example is not None:
        document["possible_if_rejected"] = [question.example.first, question.example.second]
    return document


def _choice(question: Choice) -> dict[str, Any]:
    return {
        "id": question.id,
        "kind": question.kind.value,
        "choices": [list(choice) for choice in question.choices],
        "text": choice_text(question),
        "if_chosen": [choice_effect(question, number) for number in range(len(question.choices))],
    }
