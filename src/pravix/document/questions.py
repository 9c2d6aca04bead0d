"""The open questions as a document."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from msgspec import UNSET

from pravix.design.model import Doubt
from pravix.document.story import (
    KeyQuestion,
    QuestionDocument,
    ReferenceQuestion,
    RuleQuestion,
    SameQuestion,
)
from pravix.judgement.decisions import Kind
from pravix.judgement.phrasing import answer_effect, choice_effect, choice_text, question_text
from pravix.judgement.questions import Choice, Open, Question
from pravix.relation.relation import Relation
from pravix.wording import joined


def question_documents(
    rows: Callable[[Iterable[str]], Relation], questions: Sequence[Open]
) -> tuple[QuestionDocument, ...]:
    """Return the open questions, in their order; ``rows`` gives those that hold the columns of one."""
    return tuple(
        _choice(question) if isinstance(question, Choice) else _question(question, rows(question.columns))
        for question in questions
    )


def same_documents(doubts: Sequence[Doubt]) -> tuple[SameQuestion, ...]:
    """Return the questions whether two groups of columns are the same kind of thing."""
    return tuple(
        SameQuestion(
            id=doubt.id,
            groups=(doubt.one, doubt.other),
            text=doubt.question,
            if_same=f"{joined(doubt.one)} refers to what {joined(doubt.other)} identifies",
            if_different="each stays as it is, and neither refers to the other",
        )
        for doubt in doubts
    )


def _question(question: Question, relation: Relation) -> RuleQuestion:
    near, example = question.near, question.example
    return RuleQuestion(
        id=question.id,
        determinant=question.determinant,
        dependents=question.dependents,
        text=question_text(question, relation.total),
        if_accepted=answer_effect(question, True),
        if_rejected=answer_effect(question, False),
        exceptions=tuple(near.rows) if near is not None else UNSET,
        possible_if_rejected=(example.first, example.second) if example is not None else UNSET,
    )


def _choice(question: Choice) -> KeyQuestion | ReferenceQuestion:
    asked = KeyQuestion if question.kind is Kind.KEY else ReferenceQuestion
    return asked(
        id=question.id,
        choices=question.choices,
        text=choice_text(question),
        if_chosen=tuple(choice_effect(question, number) for number in range(len(question.choices))),
    )
