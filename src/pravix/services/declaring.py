"""Declarations: read from texts, tried on the rows, recorded, and taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

from pravix.analysis import Analysis
from pravix.first_normal_form.declaration import Declaration, declaration
from pravix.ledger.ledger import Ledger
from pravix.ledger.recording import record
from pravix.ledger.wishes import Arrangement
from pravix.ledger.withdrawing import take_back
from pravix.services.arranging import arranged, arrangement
from pravix.services.keeping import ledger_of

_Analysis = TypeVar("_Analysis", bound=Analysis)

_SAME = "same"


def declared(analysis: _Analysis, texts: Sequence[str], why: str = "") -> _Analysis:
    """Return the analysis with declarations. Raises InputError where one does not fit the rows."""
    made, wishes = _read(texts, why)
    tried = analysis.with_ledger(_with(analysis.ledger, made))
    _check(tried)
    return arranged(tried, {}, wishes) if wishes else tried


def record_declared(analysis: _Analysis, texts: Sequence[str], why: str = "") -> _Analysis:
    """Record declarations and return the analysis with them. Raises InputError, with nothing recorded."""
    path = ledger_of(analysis)
    tried = declared(analysis, texts, why)
    made, wishes = _read(texts, why)
    record(path, declarations=made, arrangements=wishes)
    return tried


def take_back_declared(analysis: Analysis, texts: Sequence[str]) -> list[str]:
    """Take declarations about columns back; return what was taken back. Raises InputError."""
    return take_back(ledger_of(analysis), ["declare"], texts)


def _read(texts: Sequence[str], why: str) -> tuple[list[Declaration], list[Arrangement]]:
    """Return declarations, and the wishes of those that say that two columns are the same kind of thing."""
    same = [text.partition(":")[2] for text in texts if text.partition(":")[0].strip() == _SAME]
    others = [text for text in texts if text.partition(":")[0].strip() != _SAME]
    return [declaration(text, why) for text in others], [arrangement(_SAME, text, why) for text in same]


def _with(ledger: Ledger, made: Sequence[Declaration]) -> Ledger:
    said = {(one.says, frozenset(one.columns)) for one in made}
    kept = [one for one in ledger.declarations if (one.says, frozenset(one.columns)) not in said]
    return replace(ledger, declarations=(*kept, *made))


def _check(analysis: Analysis) -> None:
    """Raise InputError where the repairs that were declared cannot be made."""
    _ = analysis.repaired
