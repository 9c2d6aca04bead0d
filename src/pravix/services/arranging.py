"""Wishes about a design: read from texts, tried, and recorded."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TypeVar

from pravix.analysis import Analysis
from pravix.design.model import Design
from pravix.design.restyle import identifying
from pravix.design.telling import proof_lines
from pravix.design.typed import said_type
from pravix.errors import InputError
from pravix.ledger.recording import record
from pravix.ledger.wishes import Arrangement, checked_arrangement
from pravix.ledger.withdrawing import take_back
from pravix.services.keeping import ledger_of
from pravix.theory.dependency import DependencyTextError, parse_columns
from pravix.wording import joined

_Analysis = TypeVar("_Analysis", bound=Analysis)


def arrangement(do: str, text: str, why: str = "") -> Arrangement:
    """Return the wish that a text says.

    It is ``KEY=NAME`` to ``name`` a table, ``COLUMN=NAME`` to ``rename`` a column, ``COLUMN=TYPE`` to say its
    ``type``, ``COLUMNS=NAME`` or
    ``COLUMNS`` to set them ``apart``, ``COLUMN:CHECK`` for a ``check``, ``COLUMNS:on_delete RULE`` for a
    ``link``, and ``COLUMNS`` for ``together``, ``list``, ``table``, ``key``, ``same`` and ``different``.
    Raises InputError.
    """
    made = _READERS.get(do, _plain)(do, text)
    return checked_arrangement(replace(made, why=why))


def arranged(
    analysis: _Analysis, policies: Mapping[str, str | None], made: Sequence[Arrangement]
) -> _Analysis:
    """Return the analysis with wishes.

    Raises InputError where one cannot be carried out, or where the proof fails that held before.
    """
    wishes = analysis.ledger.wishes.with_policies(policies).with_arrangements(tuple(made))
    tried = analysis.with_ledger(replace(analysis.ledger, wishes=wishes))
    for wish in made:
        _check_named(tried.design, wish)
    _check_effects(analysis, tried, made)
    failing = [text for holds, text in proof_lines(tried.design) if not holds]
    if failing and analysis.design.proof.holds:
        raise InputError(
            f"with these wishes the design does not prove: {failing[0]}",
            "Nothing was recorded: wish otherwise.",
        )
    return tried


def _check_named(design: Design, wish: Arrangement) -> None:
    """Raise InputError where a wish names a table that there is not."""
    keys = [key for table in design.tables for key in identifying(table)]
    if wish.do == "name" and frozenset(wish.columns) not in keys:
        told = joined([", ".join(sorted(key)) for key in keys if key], "or")
        raise InputError(f"no table has the key {', '.join(wish.columns)}", f"The keys are {told}.")


def _check_effects(before: Analysis, tried: Analysis, made: Sequence[Arrangement]) -> None:
    """Raise InputError where the design is with a wish what it is without it."""
    known = before.ledger.wishes.arrangements
    for wish in made:
        if any(replace(old, place="", why="") == replace(wish, why="") for old in known):
            continue
        others = tuple(one for one in tried.ledger.wishes.arrangements if one != wish)
        wishes = replace(tried.ledger.wishes, arrangements=others)
        without = tried.with_ledger(replace(tried.ledger, wishes=wishes))
        try:
            same = _outcome(without.design) == _outcome(tried.design)
        except InputError:
            continue  # The other wishes need this one.
        if same:
            raise InputError(
                f"{wish.do} {joined(wish.columns)} changes nothing: the design is so without it",
                "Nothing was recorded. pravix arrange SOURCE lists what can be had otherwise.",
            )


def _outcome(design: Design) -> object:
    """Return what a design comes to, to be compared: its tables without their rows, and what is in doubt."""
    tables = [
        (one.name, one.columns, one.keys, one.foreign_keys, one.checks, one.roles) for one in design.tables
    ]
    return tables, design.doubts


def record_wishes(analysis: _Analysis, policies: Mapping[str, str], made: Sequence[Arrangement]) -> _Analysis:
    """Record wishes and return the analysis with them. Raises InputError, with nothing recorded."""
    path = ledger_of(analysis)
    tried = arranged(analysis, dict(policies), made)
    record(path, policies=policies, arrangements=made)
    return tried


def take_back_wishes(analysis: Analysis, texts: Sequence[str]) -> list[str]:
    """Take wishes about columns, or policies, back; return them in words. Raises InputError."""
    return take_back(ledger_of(analysis), ["arrange"], texts)


def _columns(text: str) -> tuple[str, ...]:
    try:
        return parse_columns(text)
    except DependencyTextError as error:
        raise InputError(f"{text}: {error}", 'Write columns like this: "from_depot, from_town"') from None


def _plain(do: str, text: str) -> Arrangement:
    return Arrangement(do, _columns(text))


def _named(do: str, text: str) -> Arrangement:
    columns, mark, name = text.partition("=")
    if not mark or not name.strip():
        raise InputError(f"--name {text}: no name", 'Write it like this: --name "honey_code=honey kind"')
    return Arrangement(do, _columns(columns), name=name.strip())


def _renamed(do: str, text: str) -> Arrangement:
    column, mark, name = text.partition("=")
    if not mark or not name.strip():
        raise InputError(f"--rename {text}: no name", 'Write it like this: --rename "to_town=town"')
    return Arrangement(do, _columns(column), name=name.strip())


def _typed(do: str, text: str) -> Arrangement:
    column, mark, told = text.partition("=")
    if not mark:
        raise InputError(f"--type {text}: no type", 'Write it like this: --type "price=decimal(8,2)"')
    said_type(told)
    return Arrangement(do, _columns(column), type=told.strip().lower())


def _apart(do: str, text: str) -> Arrangement:
    columns, _, name = text.partition("=")
    return Arrangement(do, _columns(columns), name=name.strip())


def _check(do: str, text: str) -> Arrangement:
    column, _, check = text.rpartition(":")
    return Arrangement(do, _columns(column), check=check.strip())


def _link(do: str, text: str) -> Arrangement:
    columns, _, rule = text.rpartition(":")
    event, _, action = rule.strip().partition(" ")
    if event not in ("on_delete", "on_update"):
        raise InputError(f"--link {text}: no rule", 'Write it like this: "keeper_no: on_delete cascade"')
    rules = {event: action.strip()}
    return Arrangement(do, _columns(columns), **rules)


_READERS = {
    "name": _named,
    "rename": _renamed,
    "apart": _apart,
    "check": _check,
    "link": _link,
    "type": _typed,
}
