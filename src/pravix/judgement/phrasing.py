"""Questions in plain words: what the rows show, what is asked, and what each answer would do."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.judgement.decisions import Kind
from pravix.judgement.questions import Choice, Open, Question
from pravix.relation.relation import Relation
from pravix.relation.words import noun
from pravix.wording import counted, joined, verbatim

_ROWS_NAMED = 5


def open_text(question: Open, rows: int) -> str:
    """Return an open question of any kind with what the ``rows`` of the file show."""
    return choice_text(question) if isinstance(question, Choice) else question_text(question, rows)


def question_text(question: Question, rows: int) -> str:
    """Return a question with what speaks for the rule in the ``rows`` of the file."""
    determinant, dependents = _named(question.determinant), joined(question.dependents)
    if question.near is not None:
        return _near_text(question)
    evidence = question.evidence
    one = len(question.dependents) == 1
    if evidence is None or evidence.tests == 0:
        shown = f"No {determinant} comes again with anything new, so the {rows:,} rows cannot tell."
    else:
        among = f"Among the {evidence.observations:,} different {joined(evidence.observed)}"
        where = among if evidence.observed else f"In the {rows:,} rows"
        goes = f"goes with one {dependents}" if one else f"goes with one value each of {dependents}"
        again = counted(evidence.tests, "time")
        shown = f"{where} each {determinant} {goes}; a {determinant} came again {again}."
    if question.link and one:
        return f"{shown} Can one {_plain(question.determinant)} ever belong to two different {dependents}?"
    different = (
        f"two different {dependents}"
        if one
        else f"two different values of {joined(question.dependents, 'or')}"
    )
    return f"{shown} Could one {determinant} ever have {different}?"


def _near_text(question: Question) -> str:
    near, determinant, dependent = question.near, _named(question.determinant), question.dependents[0]
    assert near is not None
    first = near.odd[0]
    rows = counted(near.exceptions, "row")
    mistakes = "is that row a mistake" if near.exceptions == 1 else "are those rows mistakes"
    now, instead = verbatim(first.now), verbatim(first.instead)
    return (
        f"Each {determinant} has one {dependent}, but for {rows}: row {first.row} has {now} where the others "
        f"have {instead}. Is it a rule that {determinant} decides {dependent}, and {mistakes}?"
    )


def answer_effect(question: Question, accepted: bool) -> str:
    """Return what an answer would do to the tables."""
    keys = question.if_accepted if accepted else question.if_rejected
    sizes = question.rows_accepted if accepted else question.rows_rejected
    by_key: dict[tuple[tuple[str, ...], int], list[str]] = {}
    for name, key, size in zip(question.dependents, keys, sizes, strict=True):
        by_key.setdefault((key, size), []).append(name)
    told = "; ".join(_kept(names, key, size) for (key, size), names in by_key.items())
    if accepted and question.near is not None:
        named = question.near.rows[:_ROWS_NAMED]
        more = " ..." if question.near.exceptions > len(named) else ""
        told += f". The rows that break it ({', '.join(map(str, named))}{more}) "
        told += "must be corrected first: pravix repair --write-patch"
    return told


def _kept(names: Sequence[str], key: Sequence[str], size: int) -> str:
    if not key:
        are = "is one" if len(names) == 1 else "are some"
        return f"{joined(names)} {are} of the columns that tell rows apart"
    stored = "is stored once" if len(names) == 1 else "are stored once"
    return f"{joined(names)} {stored} for each {_named(key)} ({counted(size, 'row')})"


def example_lines(question: Question, relation: Relation) -> list[list[str]]:
    """Return the header and two possible rows if it is a coincidence; empty where there are none."""
    example = question.example
    if example is None:
        return []
    asked = {*question.determinant, *question.dependents}
    others = [name for name in relation.names if name not in asked][:4]
    names = [name for name in relation.names if name in asked or name in others]
    return [names, [example.first[name] for name in names], [example.second[name] for name in names]]


def _named(columns: Sequence[str]) -> str:
    return columns[0] if len(columns) == 1 else f"combination of {joined(columns)}"


def _plain(columns: Sequence[str]) -> str:
    """Return what a key stands for: ``apiary_no`` is spoken of as apiary."""
    return " ".join(noun(columns[0])) if len(columns) == 1 else _named(columns)


def choice_text(question: Choice) -> str:
    """Return a question about a key, or about what others refer by, with what the rows show."""
    sets = [f"({', '.join(choice)})" if len(choice) > 1 else choice[0] for choice in question.choices]
    told = joined(sets, "or")
    if question.kind is Kind.KEY:
        if len(question.choices) == 1:
            return f"No two rows agree on {told}. Does it identify a row, next month too?"
        return f"No two rows agree on {told}. Which of them identifies a row, next month too?"
    values = counted(question.values[0], "different value")
    return f"In these rows {told} go one to one: {values} each. Which of them should other tables refer by?"


def choice_effect(question: Choice, number: int) -> str:
    """Return what the choice with a number would do to the tables."""
    columns = joined(question.choices[number])
    if question.kind is Kind.KEY:
        return f"a row is known by {columns}; two rows with the same {columns} are then a mistake"
    return f"other tables hold {columns}"
