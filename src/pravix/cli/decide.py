"""The command that asks the open questions and records the decisions in the ledger."""

from __future__ import annotations

import getpass
from collections.abc import Callable, Iterable, Sequence

import click

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import (
    blanks_option,
    json_option,
    ledger_option,
    reading_options,
    source_argument,
)
from pravix.cli.show import Screen, print_json
from pravix.cli.show_rows import show_odd_cells, show_rows
from pravix.design.model import Doubt
from pravix.document.questions import question_documents, same_documents
from pravix.document.source import source_document
from pravix.judgement.decisions import Kind
from pravix.judgement.phrasing import answer_effect, choice_effect, example_lines, open_text
from pravix.judgement.questions import Choice, Open, Question
from pravix.judgement.review import Review
from pravix.ledger.key_decisions import Says
from pravix.ledger.wishes import Arrangement
from pravix.relation.relation import Relation
from pravix.services.deciding import Deciding, chosen, parsed_keys, parsed_rules
from pravix.sources.reading import Reading
from pravix.theory.dependency import Dependency, written_in_order, written_names
from pravix.wording import counted

_RULE, _COINCIDENCE, _EACH, _UNSURE, _SHOW, _BACK, _STOP = (
    "rule",
    "coincidence",
    "each",
    "unsure",
    "show",
    "back",
    "stop",
)
_NONE, _SAME, _DIFFERENT = "none", "same", "different"
_ROWS_NAMED = 5

_Session = Deciding[CommandAnalysis]


@helped.command("decide")
@source_argument
@reading_options
@blanks_option
@click.option("--accept", multiple=True, metavar="RULE", help='Accept a rule: "a, b -> c". May be repeated.')
@click.option(
    "--reject", multiple=True, metavar="RULE", help="Reject a rule: it is a coincidence. May be repeated."
)
@click.option("--key", "keys", multiple=True, metavar="COLUMNS", help='"a, c" identifies a row of the file.')
@click.option("--not-key", "not_keys", multiple=True, metavar="COLUMNS", help='"d" does not identify a row.')
@click.option("--refer-by", multiple=True, metavar="COLUMNS", help='Other tables refer by "a".')
@click.option(
    "--take-back", multiple=True, metavar="WHAT", help="Take a decision about a rule or a key back."
)
@click.option("--why", default="", metavar="TEXT", help="The reason for these decisions.")
@click.option("--by", metavar="NAME", help="Who decides.  [default: the name of this account]")
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    blanks: str,
    accept: tuple[str, ...],
    reject: tuple[str, ...],
    keys: tuple[str, ...],
    not_keys: tuple[str, ...],
    refer_by: tuple[str, ...],
    take_back: tuple[str, ...],
    why: str,
    by: str | None,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Ask the questions that the rows cannot settle and whose answers change the tables.

    The most decisive comes first. Every answer is recorded in the ledger at once, so that you can leave at
    any time. Where an answer is given by an option, nothing is asked.
    """
    given = [(rule, True) for rule in parsed_rules(accept)] + [(rule, False) for rule in parsed_rules(reject)]
    said = [
        *parsed_keys(keys, Says.KEY),
        *parsed_keys(not_keys, Says.NOT_KEY),
        *parsed_keys(refer_by, Says.REFER_BY),
    ]
    analysis = CommandAnalysis(source, reading, ledger, blanks)
    session = Deciding(analysis, why, _account() if by is None else by)
    gone = session.take_back(take_back) if take_back else []
    if given or said:
        session.decide(given, said)
    if as_json:
        print_json(_document(session))
    elif given or said or gone:
        _show_given(Screen(), session, given, said, gone)
    else:
        _ask_all(Screen(), session)


def _document(session: _Session) -> dict[str, object]:
    return {
        "format": "pravix.questions",
        "version": 1,
        "source": source_document(session.analysis.relation),
        "questions": [
            *question_documents(_rows(session), session.analysis.questions),
            *same_documents(session.analysis.doubts),
        ],
        "look_again": [
            {
                "rule": str(review.decision.rule),
                "standing": "accepted" if review.decision.accepted else "rejected",
                "decided_on_rows": review.decision.rows,
                "rows": review.rows,
            }
            for review in session.analysis.reviews
        ],
    }


def _rows(session: _Session) -> Callable[[Iterable[str]], Relation]:
    return lambda columns: session.analysis.rows_of(columns).relation


def _account() -> str:
    try:
        return getpass.getuser()
    except (OSError, KeyError):
        return ""


def _show_given(
    screen: Screen,
    session: _Session,
    given: Sequence[tuple[Dependency, bool]],
    said: Sequence[tuple[tuple[str, ...], Says]],
    gone: Sequence[str],
) -> None:
    names = session.analysis.names
    for told in gone:
        screen.line(f"taken back: {told}")
    for rule, accepted in given:
        screen.line(f"{'accepted' if accepted else 'rejected'}: {written_in_order(rule, names)}")
    for columns, says in said:
        screen.line(f"{says.value}: {written_names(columns)}")
    for columns in session.idle(said):
        told = f"No table is known by {written_names(columns)} yet"
        screen.line(f"{told}: nothing is believed to follow from it.")
    screen.line(f"Recorded in {session.analysis.ledger_file}.")
    left = len(session.analysis.questions) + len(session.analysis.doubts)
    screen.line(f"{counted(left, 'question')} left." if left else "No question is left.")


def _ask_all(screen: Screen, session: _Session) -> None:
    """Ask one question after the other until none is left, or the analyst stops."""
    screen.line(str(session.analysis.source.account))
    for review in session.analysis.reviews:
        _show_review(screen, review)
    answered, passed = 0, set[str]()
    while todo := [question for question in _open(session) if question.id not in passed]:
        screen.line()
        screen.note(f"{counted(len(todo), 'open question')}")
        question = todo[0]
        answer = _ask(screen, session, question)
        if answer == _STOP:
            break
        if answer == _UNSURE:
            passed.add(question.id)
        elif answer == _BACK:
            passed.clear()
            answered -= session.back()
        elif isinstance(question, Doubt):
            session.arrange(Arrangement(answer, (*question.one, *question.other), why=session.why))
            answered += 1
        elif isinstance(question, Choice):
            session.decide([], chosen(question, None if answer == _NONE else int(answer) - 1))
            answered += 1
        else:
            session.decide(_decisions(question, answer))
            answered += 1
    screen.line()
    if answered:
        screen.line(f"{counted(answered, 'answer')} recorded in {session.analysis.ledger_file}.")
    left = len(_open(session))
    screen.line(f"{counted(left, 'question')} left open." if left else "No question is open.")


def _open(session: _Session) -> list[Open | Doubt]:
    return [*session.analysis.questions, *session.analysis.doubts]


def _show_review(screen: Screen, review: Review) -> None:
    decision = review.decision
    made = f"{'accepted' if decision.accepted else 'rejected'}{f' on {decision.on}' if decision.on else ''}"
    if review.rows:
        named = ", ".join(map(str, review.rows[:_ROWS_NAMED]))
        now = f"{counted(len(review.rows), 'row')} of today break it (rows {named})"
    else:
        now = "no row of today breaks it"
    screen.line(f"Look again: {decision.rule} was {made} on other rows; {now}.", style="bold")


def _ask(screen: Screen, session: _Session, question: Open | Doubt) -> str:
    """Ask one question until it is answered; Ctrl-C or the end of the input stops."""
    if isinstance(question, Doubt):
        screen.line(question.question, style="bold")
        return _answer([_SAME, _DIFFERENT, _UNSURE, _BACK, _STOP])
    relation = _rows(session)(question.columns)
    screen.line(open_text(question, relation.total), style="bold")
    if isinstance(question, Choice):
        for number in range(len(question.choices)):
            screen.line(f"{number + 1}: {choice_effect(question, number)}.", indent=2)
        answers = [str(number + 1) for number in range(len(question.choices))]
        answers += [_NONE] if question.kind is Kind.KEY else []
    else:
        screen.line(f"{_RULE}: {answer_effect(question, True)}.", indent=2)
        screen.line(f"{_COINCIDENCE}: {answer_effect(question, False)}.", indent=2)
        answers = [_RULE, _COINCIDENCE, *([_EACH] if len(question.dependents) > 1 else [])]
    choices = [*answers, _UNSURE, _SHOW, _BACK, _STOP]
    while True:
        answer = _answer(choices)
        if answer != _SHOW:
            return answer
        _show_rows(screen, session, question)


def _answer(choices: Sequence[str]) -> str:
    try:
        answer: str = click.prompt("  Answer", type=click.Choice(list(choices)))
    except click.Abort:
        return _STOP
    return answer


def _decisions(question: Question, answer: str) -> list[tuple[Dependency, bool]]:
    if answer != _EACH:
        return [(rule, answer == _RULE) for rule in question.rules]
    return [(rule, click.confirm(f"  Is {rule} a rule")) for rule in question.rules]


def _show_rows(screen: Screen, session: _Session, question: Open) -> None:
    """Show rows for the rule or against it, and two that would be possible if it is a coincidence."""
    relation = _rows(session)(question.columns)
    if isinstance(question, Choice):
        screen.line("Two rows of the file:", indent=2)
        named = [name for name in relation.names if any(name in choice for choice in question.choices)]
        show_rows(screen, relation, question.rows, named)
        return
    names = [*question.determinant, *question.dependents]
    if question.near is not None:
        show_odd_cells(screen, question.near.odd)
    elif question.evidence is not None and question.evidence.example is not None:
        screen.line("Two rows of the file that agree:", indent=2)
        show_rows(screen, relation, question.evidence.example, names)
    possible = example_lines(question, relation)
    if possible:
        screen.line("Two rows that would be possible if it is a coincidence:", indent=2)
        screen.table(possible[0], possible[1:])
