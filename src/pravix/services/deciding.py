"""Decisions about rules and keys: made, checked, recorded, and taken back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Generic, TypeVar

from pravix.analysis import Analysis
from pravix.design.restyle import identifying
from pravix.errors import InputError
from pravix.judgement.decisions import Kind
from pravix.judgement.questions import Choice
from pravix.ledger.key_decisions import KeyDecision, Says, check_in_rows
from pravix.ledger.ledger import Decision, Ledger
from pravix.ledger.recording import Change, record
from pravix.ledger.wishes import Arrangement
from pravix.ledger.withdrawing import take_back
from pravix.relation.fingerprint import fingerprint
from pravix.services.arranging import arranged
from pravix.services.keeping import ledger_of
from pravix.theory.dependency import Dependency, DependencyTextError, parse_columns, parse_dependencies

_Analysis = TypeVar("_Analysis", bound=Analysis)

Given = tuple[Dependency, bool]
"""A rule, and whether it is accepted."""

Said = tuple[tuple[str, ...], Says]
"""Columns, and what is said of them as a key."""


def parsed_rules(texts: Iterable[str]) -> list[Dependency]:
    """Return the rules that texts like ``a, b -> c`` say. Raises InputError."""
    try:
        return [rule for text in texts for rule in parse_dependencies(text)]
    except DependencyTextError as error:
        raise InputError(str(error), 'Write it like this: --accept "a, b -> c"') from None


def parsed_keys(texts: Iterable[str], says: Says) -> list[Said]:
    """Return what texts like ``a, c`` say of a key. Raises InputError."""
    try:
        return [(parse_columns(text), says) for text in texts]
    except DependencyTextError as error:
        option = says.value.replace(" ", "-")
        raise InputError(str(error), f'Write it like this: --{option} "a, c"') from None


def chosen(question: Choice, place: int | None) -> list[Said]:
    """Return what an answer to a question with choices says: one of them, or (None) that none is a key."""
    if place is None:
        return [(columns, Says.NOT_KEY) for columns in question.choices]
    says = Says.KEY if question.kind is Kind.KEY else Says.REFER_BY
    return [(question.choices[place], says)]


def decided(
    analysis: Analysis, given: Sequence[Given], said: Sequence[Said] = (), why: str = "", by: str = ""
) -> Ledger:
    """Return the ledger with decisions made today on these rows.

    Raises InputError where one names no column or contradicts the others or the rows.
    """
    relation, source = analysis.relation, analysis.source.account.name
    mark, today = fingerprint(relation), date.today()
    made = [Decision(rule, accepted, why, "", today, by, relation.total, mark) for rule, accepted in given]
    keys = [KeyDecision(columns, says, why, "", today, by) for columns, says in said]
    ledger = analysis.ledger.with_decisions(made).with_key_decisions(keys)
    ledger.check(analysis.names, source)
    check_in_rows(ledger.key_decisions, relation, source)
    return ledger


class Deciding(Generic[_Analysis]):
    """The analysis as it stands after the answers so far, and the ledger that each of them goes to."""

    def __init__(self, analysis: _Analysis, why: str, by: str) -> None:
        self.analysis = analysis
        self.why = why
        self._by = by
        self._changes: list[Change] = []

    def decide(self, given: Sequence[Given], said: Sequence[Said] = ()) -> None:
        """Record decisions; none where one names no column or contradicts the others or the rows."""
        ledger = decided(self.analysis, given, said, self.why, self._by)
        made = [one for one in ledger.decisions if (one.rule, one.accepted) in given]
        keys = [one for one in ledger.key_decisions if (one.columns, one.says) in said]
        self._changes.append(record(ledger_of(self.analysis), decisions=made, key_decisions=keys))
        self.analysis = self.analysis.decided_anew()

    def idle(self, said: Sequence[Said]) -> list[tuple[str, ...]]:
        """Return the columns that others are to refer by, though no table of the design is known by them and
        nothing is believed to follow from them.
        """
        wished = [columns for columns, says in said if says is Says.REFER_BY]
        if not wished:
            return []
        known = {one for table in self.analysis.design.tables for one in identifying(table)}
        known |= {rule.determinant for rule in self.analysis.judgement.trusted}
        return [columns for columns in wished if frozenset(columns) not in known]

    def arrange(self, wish: Arrangement) -> None:
        """Record that two columns hold one kind of thing, or do not; InputError where that cannot be."""
        arranged(self.analysis, {}, [wish])
        self._changes.append(record(ledger_of(self.analysis), arrangements=[wish]))
        self.analysis = self.analysis.decided_anew()

    def take_back(self, texts: Sequence[str]) -> list[str]:
        """Take decisions about rules and keys back; return what was taken back, in words."""
        gone = take_back(ledger_of(self.analysis), ["decision", "key"], texts)
        self.analysis = self.analysis.decided_anew()
        return gone

    def back(self) -> bool:
        """Take the last answer back; False where there is none."""
        if not self._changes:
            return False
        self._changes.pop().undo()
        self.analysis = self.analysis.decided_anew()
        return True
