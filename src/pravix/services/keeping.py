"""Where answers are kept."""

from __future__ import annotations

from pravix.analysis import Analysis
from pravix.errors import InputError
from pravix.ledger.ledger import Ledger
from pravix.ledger.recording import record
from pravix.ledger.wishes import POLICIES
from pravix.sources.reading import Reading


def ledger_of(analysis: Analysis) -> str:
    """Return the path of the ledger that answers go to. Raises InputError where there is no place for one."""
    path = analysis.ledger_file
    if path is None:
        raise InputError("the source has no place beside it for a ledger", "Name one: --ledger FILE.")
    return path


def record_new(path: str, before: Ledger, after: Ledger, reading: Reading) -> None:
    """Record in the ledger at ``path`` what ``after`` says and ``before``, which is there, does not.

    ``reading`` is what was wished about reading, kept as well where anything was.
    """
    policies = {key: getattr(after.wishes, key) for key in POLICIES}
    record(
        path,
        answers=[one for one in after.answers if one not in before.answers],
        declarations=[one for one in after.declarations if one not in before.declarations],
        decisions=[one for one in after.decisions if one not in before.decisions],
        key_decisions=[one for one in after.key_decisions if one not in before.key_decisions],
        policies={key: value for key, value in policies.items() if value != getattr(before.wishes, key)},
        arrangements=[one for one in after.wishes.arrangements if one not in before.wishes.arrangements],
        reading=reading if reading != Reading() else None,
        meanings=[one for one in after.meanings if one not in before.meanings],
    )
