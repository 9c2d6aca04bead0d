"""Answers to findings: found by a column, tried, and recorded."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.analysis import Analysis
from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.repairing import repaired
from pravix.ledger.recording import record
from pravix.ledger.withdrawing import take_back
from pravix.services.keeping import ledger_of
from pravix.sources.reading import Reading
from pravix.wording import joined, shortened


def answer_about(found: Sequence[Finding], column: str, answer: str, name: str = "", why: str = "") -> Answer:
    """Return an answer to the finding about a column that allows it. Raises InputError where none does."""
    about = [finding for finding in found if column in finding.columns and finding.answers]
    allowing = [finding for finding in about if answer in finding.answers]
    if allowing:
        repair = allowing[0].repair
        namable = repair is not None and repair.namable and repair.answer == answer
        return Answer(allowing[0].id, answer, name if namable else "", why)
    if about:
        raise InputError(
            f"{about[0].id} cannot be answered with {answer}: {about[0].told}",
            f"Possible: {joined(about[0].answers, 'or')}. Cells can be corrected with --patch.",
        )
    raise InputError(
        f"nothing is to be decided about {shortened(column)}", "pravix survey shows the findings."
    )


def with_answers(analysis: Analysis, given: Sequence[Answer]) -> tuple[Answer, ...]:
    """Return the answers of the ledger with those given, when all can be carried out. Raises InputError."""
    answers = {answer.finding: answer for answer in (*analysis.ledger.answers, *given)}
    repaired(analysis.source.relation, answers.values(), "the answers")
    return tuple(answers.values())


def take_back_answers(analysis: Analysis, columns: Sequence[str]) -> list[str]:
    """Take the answers about columns back; return what was taken back, in words. Raises InputError."""
    return take_back(ledger_of(analysis), ["repair"], columns)


def record_answers(analysis: Analysis, given: Sequence[Answer], reading: Reading) -> str:
    """Record answers and wishes about reading; return the ledger's path. Raises InputError, nothing done."""
    path = ledger_of(analysis)
    with_answers(analysis, given)
    record(path, given, reading)
    return path
