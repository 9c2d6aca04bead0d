"""The ledger: how the source is read, what is repaired, which rules hold; the analyst's decisions.

A ledger is TOML::

    [reading]
    header = "4"
    fill = ["keeper_no"]

    [[repair]]
    finding = "list: forage"
    answer = "split"

    [[decision]]
    rule = "drum_no -> honey_code"
    standing = "accepted"
    why = "a drum is filled once"
"""

from __future__ import annotations

import os
import tomllib
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pravix.atomic.answer import Answer
from pravix.errors import InputError
from pravix.sources.arriving import STANDARD_INPUT
from pravix.sources.database import is_url
from pravix.sources.reading import Reading
from pravix.theory.dependency import Dependency, DependencyTextError, parse_dependencies
from pravix.wording import shortened

_STANDINGS = ("accepted", "rejected")
_DECISION_KEYS = frozenset({"rule", "standing", "why"})
_REPAIR_KEYS = frozenset({"finding", "answer", "name", "why"})
_READING_TYPES: dict[str, type] = {
    "encoding": str,
    "delimiter": str,
    "sheet": str,
    "header": str,
    "last_row": int,
    "fill": list,
    "number_names": bool,
    "patch": str,
}


@dataclass(frozen=True)
class Decision:
    """One decision about one rule, with its reason (which may be empty) and its place in the ledger."""

    rule: Dependency
    accepted: bool
    why: str
    place: str


@dataclass(frozen=True)
class Ledger:
    """The wishes about reading, the answers to findings and the decisions, in the order of the file."""

    name: str = "the ledger"
    reading: Reading = field(default_factory=Reading)
    answers: tuple[Answer, ...] = ()
    decisions: tuple[Decision, ...] = ()

    @property
    def accepted(self) -> tuple[Dependency, ...]:
        """The accepted rules."""
        return tuple(decision.rule for decision in self.decisions if decision.accepted)

    @property
    def rejected(self) -> tuple[Dependency, ...]:
        """The rejected rules."""
        return tuple(decision.rule for decision in self.decisions if not decision.accepted)

    def check_columns(self, columns: Collection[str], source: str) -> None:
        """Raise InputError where a rule names a column that the source does not have."""
        for decision in self.decisions:
            for column in sorted(decision.rule.columns):
                if column not in columns:
                    raise InputError(
                        f"{decision.place}: {source} has no column {shortened(column)}",
                        "Use the names of the header.",
                    )


def default_path(source: str) -> str | None:
    """Return where the ledger of a source stands by default: STEM.ledger.toml beside it."""
    if source == STANDARD_INPUT or is_url(source):
        return None
    path = Path(source)
    if not path.name:
        return None
    return str(path.with_name(path.name.split(".")[0] + ".ledger.toml"))


def parsed_header(text: str) -> tuple[int, int]:
    """Return the first and the last header row of ``4`` or ``4-5``; ValueError for anything else."""
    first, _, last = text.partition("-")
    return int(first), int(last or first)


def read_ledger(path: str | None) -> Ledger:
    """Read a ledger; a missing file is an empty one.

    Raises InputError, with the place in the file, where the text is not TOML, an entry is unknown or of
    the wrong kind, a rule cannot be read, or one rule is both accepted and rejected.
    """
    if path is None:
        return Ledger()
    name = os.path.basename(path)
    try:
        with open(path, "rb") as file:
            content = tomllib.load(file)
    except FileNotFoundError:
        return Ledger(name)
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"{name} is not a TOML file: {error}", "Mend that line of the ledger.") from None
    except OSError as error:
        raise InputError(f"the ledger {path} cannot be read: {error.strerror}") from None
    for key, kind in (("decision", list), ("repair", list), ("reading", dict)):
        if not isinstance(content.get(key, kind()), kind):
            raise _unknown(name, key)
    for key in content:
        if key not in ("decision", "repair", "reading"):
            raise _unknown(name, key)
    return Ledger(
        name,
        _reading(content.get("reading", {}), name),
        tuple(_answer(entry, f"{name}, repair {n}") for n, entry in enumerate(content.get("repair", []), 1)),
        _decisions(content.get("decision", []), name),
    )


def _unknown(name: str, key: str) -> InputError:
    return InputError(
        f"{name}: unknown entry {shortened(key)}", "Write [reading], [[repair]] and [[decision]] entries."
    )


def _reading(entry: Mapping[str, Any], name: str) -> Reading:
    wishes: dict[str, Any] = {}
    for key, value in entry.items():
        kind = _READING_TYPES.get(key)
        if kind is None or not isinstance(value, kind):
            raise InputError(
                f"{name}, reading: {shortened(key)} is unknown or of the wrong kind",
                f"Known are {', '.join(_READING_TYPES)}.",
            )
        wishes[key] = tuple(str(column) for column in entry[key]) if kind is list else value
    if "header" in wishes:
        try:
            wishes["header"] = parsed_header(wishes["header"])
        except ValueError:
            raise InputError(f'{name}, reading: header must be a row like "4" or "4-5"') from None
    return Reading(**wishes)


def _answer(entry: Any, place: str) -> Answer:
    texts = isinstance(entry, dict) and all(isinstance(value, str) for value in entry.values())
    if not texts or set(entry) - _REPAIR_KEYS or not {"finding", "answer"} <= set(entry):
        raise InputError(f"{place}: write finding, answer and, if you like, name and why")
    return Answer(entry["finding"], entry["answer"], entry.get("name", ""), entry.get("why", ""))


def _decisions(entries: list[Any], name: str) -> tuple[Decision, ...]:
    decisions: dict[Dependency, Decision] = {}
    for number, entry in enumerate(entries, 1):
        for decision in _decision(entry, f"{name}, decision {number}"):
            earlier = decisions.get(decision.rule)
            if earlier and earlier.accepted != decision.accepted:
                raise InputError(
                    f"{decision.place}: {decision.rule} is both accepted and rejected",
                    "Keep one of the two decisions.",
                )
            decisions[decision.rule] = decision
    return tuple(decisions.values())


def _decision(entry: Any, place: str) -> list[Decision]:
    if not isinstance(entry, dict) or set(entry) - _DECISION_KEYS or not isinstance(entry.get("rule"), str):
        example = 'For example: rule = "a, b -> c"'
        raise InputError(f"{place}: write rule, standing and, if you like, why", example)
    if entry.get("standing") not in _STANDINGS:
        example = 'For example: standing = "accepted"'
        raise InputError(f"{place}: the standing must be accepted or rejected", example)
    try:
        rules = parse_dependencies(entry["rule"])
    except DependencyTextError as error:
        raise InputError(f"{place}: {error}") from None
    accepted, why = entry["standing"] == "accepted", str(entry.get("why", ""))
    return [Decision(rule, accepted, why, place) for rule in rules if not rule.trivial]
