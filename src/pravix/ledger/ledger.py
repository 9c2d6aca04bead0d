"""The ledger: which rules the analyst accepted or rejected, and why.

A ledger is TOML, one table a decision::

    [[decision]]
    rule = "drum_no -> honey_code"
    standing = "accepted"
    why = "a drum is filled once"
"""

from __future__ import annotations

import os
import tomllib
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pravix.errors import InputError
from pravix.theory.dependency import Dependency, DependencyTextError, parse_dependencies
from pravix.wording import shortened

_STANDINGS = ("accepted", "rejected")
_KEYS = frozenset({"rule", "standing", "why"})


@dataclass(frozen=True)
class Decision:
    """One decision about one rule, with its reason (which may be empty)."""

    rule: Dependency
    accepted: bool
    why: str


@dataclass(frozen=True)
class Ledger:
    """The decisions in the order of the file."""

    decisions: tuple[Decision, ...] = ()

    @property
    def accepted(self) -> tuple[Dependency, ...]:
        """The accepted rules."""
        return tuple(decision.rule for decision in self.decisions if decision.accepted)

    @property
    def rejected(self) -> tuple[Dependency, ...]:
        """The rejected rules."""
        return tuple(decision.rule for decision in self.decisions if not decision.accepted)


def default_path(source: str) -> str:
    """Return where the ledger of a source file stands by default: STEM.ledger.toml beside it."""
    path = Path(source)
    return str(path.with_name(path.name.split(".")[0] + ".ledger.toml"))


def read_ledger(path: str, columns: Collection[str], source: str) -> Ledger:
    """Read a ledger whose rules speak of ``columns``, those of the file called ``source``.

    A missing file is an empty ledger. Raises InputError, with the place in the file, where the text is
    not TOML, a key is unknown, a rule cannot be read or names a column that is not there, or one rule
    is both accepted and rejected.
    """
    name = os.path.basename(path)
    try:
        with open(path, "rb") as file:
            content = tomllib.load(file)
    except FileNotFoundError:
        return Ledger()
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"{name} is not a TOML file: {error}", "Mend that line of the ledger.") from None
    except OSError as error:
        raise InputError(f"the ledger {path} cannot be read: {error.strerror}") from None
    entries = content.get("decision", [])
    if set(content) - {"decision"} or not isinstance(entries, list):
        unknown = sorted(set(content) - {"decision"}) or ["decision"]
        raise InputError(
            f"{name}: unknown entry {shortened(unknown[0])}", "Write each decision under a line [[decision]]."
        )
    decisions: dict[Dependency, Decision] = {}
    for number, entry in enumerate(entries, 1):
        for decision in _decisions(entry, f"{name}, decision {number}", columns, source):
            earlier = decisions.get(decision.rule)
            if earlier and earlier.accepted != decision.accepted:
                raise InputError(
                    f"{name}, decision {number}: {decision.rule} is both accepted and rejected",
                    "Keep one of the two decisions.",
                )
            decisions[decision.rule] = decision
    return Ledger(tuple(decisions.values()))


def _decisions(
    entry: Mapping[str, Any] | Any, place: str, columns: Collection[str], source: str
) -> list[Decision]:
    if not isinstance(entry, dict) or set(entry) - _KEYS or not isinstance(entry.get("rule"), str):
        raise InputError(
            f"{place}: write rule, standing and, if you like, why", 'For example: rule = "a, b -> c"'
        )
    if entry.get("standing") not in _STANDINGS:
        raise InputError(
            f"{place}: the standing must be accepted or rejected", 'For example: standing = "accepted"'
        )
    try:
        rules = parse_dependencies(entry["rule"])
    except DependencyTextError as error:
        raise InputError(f"{place}: {error}") from None
    for rule in rules:
        for column in sorted(rule.columns):
            if column not in columns:
                raise InputError(
                    f"{place}: {source} has no column {shortened(column)}", "Use the names of the header."
                )
    accepted = entry["standing"] == "accepted"
    return [Decision(rule, accepted, str(entry.get("why", ""))) for rule in rules if not rule.trivial]
