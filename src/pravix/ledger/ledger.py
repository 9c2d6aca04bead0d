"""The ledger: how the source is read, what is repaired, which rules hold; the analyst's decisions.

A ledger is TOML::

    [reading]
    header = "4"
    fill = ["keeper_no"]

    [[repair]]
    finding = "list: forage"
    answer = "split"

    [[declare]]
    text = "list: tools = ;"

    [[decision]]
    rule = "drum_no -> honey_code"
    standing = "accepted"
    why = "a drum is filled once"
    on = 2026-05-04
    by = "Ida"
    rows = 412
    fingerprint = "9f1c2a7b40de66a1"
"""

from __future__ import annotations

import errno
import os
import re
import tomllib
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.declaration import EXAMPLE, Declaration, declaration
from pravix.ledger.key_decisions import (
    KeyDecision,
    check_key_decisions,
    parsed_key_decisions,
    said_of,
    with_added,
)
from pravix.ledger.meanings import Meaning, parsed_meanings
from pravix.ledger.said import Said
from pravix.ledger.wishes import Wishes, parsed_wishes
from pravix.sources.arriving import STANDARD_INPUT
from pravix.sources.connecting import is_url
from pravix.sources.reading import KEPT_WISHES, Reading
from pravix.theory.closure import derivation
from pravix.theory.dependency import Dependency, DependencyTextError, parse_dependencies
from pravix.wording import meant, shortened

_ENTRIES: dict[str, type] = {
    "reading": dict,
    "design": dict,
    "repair": list,
    "declare": list,
    "decision": list,
    "key": list,
    "arrange": list,
    "meaning": list,
    "synonyms": dict,
}
_LISTS = [name for name, kind in _ENTRIES.items() if kind is list]
_STANDINGS = ("accepted", "rejected")
_DECISION_TYPES: dict[str, type] = {
    "rule": str,
    "standing": str,
    "why": str,
    "on": date,
    "by": str,
    "rows": int,
    "fingerprint": str,
}
_SPOKEN = {str: "a text in quotes", int: "a whole number", date: "a date like 2026-05-04"}
_LISTED: dict[type, str] = {str: "texts in quotes", int: "row numbers"}
_REPAIR_KEYS = frozenset({"finding", "answer", "name", "why"})


@dataclass(frozen=True)
class Decision:
    """One decision about one rule, with its reason (which may be empty) and its place in the ledger.

    ``on`` is the date, ``by`` who decided; ``rows`` and ``fingerprint`` tell which rows the decision was
    made on. All of these may be missing where the ledger was written by hand.
    """

    rule: Dependency
    accepted: bool
    why: str = ""
    place: str = ""
    on: date | None = None
    by: str = ""
    rows: int | None = None
    fingerprint: str = ""


@dataclass(frozen=True)
class Ledger:
    """The wishes about reading, the answers, the decisions and the wishes about the design, in order."""

    name: str = "the ledger"
    reading: Reading = field(default_factory=Reading)
    answers: tuple[Answer, ...] = ()
    declarations: tuple[Declaration, ...] = ()
    decisions: tuple[Decision, ...] = ()
    key_decisions: tuple[KeyDecision, ...] = ()
    wishes: Wishes = field(default_factory=Wishes)
    meanings: tuple[Meaning, ...] = ()
    synonyms: Mapping[str, str] = field(default_factory=dict)

    @property
    def accepted(self) -> tuple[Dependency, ...]:
        """The accepted rules."""
        return tuple(decision.rule for decision in self.decisions if decision.accepted)

    @property
    def rejected(self) -> tuple[Dependency, ...]:
        """The rejected rules."""
        return tuple(decision.rule for decision in self.decisions if not decision.accepted)

    def with_decisions(self, made: Collection[Decision]) -> Ledger:
        """Return the ledger as it would be with decisions added; they replace earlier ones on their rules."""
        rules = {decision.rule for decision in made}
        kept = [decision for decision in self.decisions if decision.rule not in rules]
        return replace(self, decisions=(*kept, *made))

    @property
    def said(self) -> Said:
        """What was decided about keys."""
        return said_of(self.key_decisions)

    def with_key_decisions(self, made: Iterable[KeyDecision]) -> Ledger:
        """Return the ledger as it would be with decisions about keys added."""
        return replace(self, key_decisions=with_added(self.key_decisions, made))

    def check(self, columns: Collection[str], source: str) -> None:
        """Raise InputError where a rule names a column that the source lacks, or decisions contradict."""
        self.check_columns(columns, source)
        check_key_decisions(self.key_decisions, columns, source)
        self._check_consistency()

    def check_columns(self, columns: Collection[str], source: str) -> None:
        """Raise InputError where a rule names a column that the source does not have."""
        for decision in self.decisions:
            for column in sorted(decision.rule.columns):
                if column not in columns:
                    raise InputError(
                        f"{decision.place or decision.rule}: {source} has no column {shortened(column)}",
                        f"{meant(column, columns)}Use the names of the header.",
                    )

    def _check_consistency(self) -> None:
        accepted = {decision.rule: decision for decision in self.decisions if decision.accepted}
        for decision in self.decisions:
            chain = None if decision.accepted else derivation(decision.rule, accepted)
            if chain is not None:
                told = ", ".join(f"{rule}{_in(accepted[rule].place)}" for rule in chain)
                denied = f"{decision.rule} is rejected{_in(decision.place)}"
                raise InputError(
                    f"{denied}, but follows from what is accepted: {told}", "Change one of these decisions."
                )


def _in(place: str) -> str:
    return f" ({place})" if place else ""


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
        text = Path(path).read_bytes().decode("utf-8")
        content = tomllib.loads(text)
    except FileNotFoundError:
        return Ledger(name)
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"{name} is not a TOML file: {error}", "Mend that line of the ledger.") from None
    except RecursionError:
        raise InputError(f"{name} is nested too deeply", "A ledger has tables and lists of them.") from None
    except OSError as error:
        if error.errno == errno.ENAMETOOLONG:
            return Ledger(name)
        raise InputError(f"the ledger {path} cannot be read: {error.strerror}") from None
    for key, value in content.items():
        if key not in _ENTRIES or not isinstance(value, _ENTRIES[key]):
            raise _unknown(name, key)
    return Ledger(
        name,
        _reading(content.get("reading", {}), name),
        tuple(_answer(entry, f"{name}, repair {n}") for n, entry in enumerate(content.get("repair", []), 1)),
        tuple(
            _declared(entry, f"{name}, line {line_of(text, 'declare', n, 'text')}")
            for n, entry in enumerate(content.get("declare", []), 1)
        ),
        _decisions(content.get("decision", []), name, text),
        parsed_key_decisions(content, name, partial(line_of, text)),
        parsed_wishes(content, name, partial(line_of, text)),
        parsed_meanings(content, name, partial(line_of, text)),
        _synonyms(content.get("synonyms", {}), name),
    )


def _unknown(name: str, key: str) -> InputError:
    return InputError(
        f"{name}: unknown entry {shortened(key)}",
        "Write [reading], [design], [synonyms] and lists of [[" + "]], [[".join(_LISTS) + "]].",
    )


def _reading(entry: Mapping[str, Any], name: str) -> Reading:
    wishes: dict[str, Any] = {}
    for key, value in entry.items():
        kind = KEPT_WISHES.get(key)
        if kind is None or not isinstance(value, kind):
            raise InputError(
                f"{name}, reading: {shortened(key)} is unknown or of the wrong kind",
                f"Known are {', '.join(KEPT_WISHES)}.",
            )
        wishes[key] = _items(key, value, name) if isinstance(value, list) else value
    if "header" in wishes:
        try:
            wishes["header"] = parsed_header(wishes["header"])
        except ValueError:
            raise InputError(f'{name}, reading: header must be a row like "4" or "4-5"') from None
    return Reading(**wishes)


def _items(key: str, values: Sequence[Any], name: str) -> tuple[Any, ...]:
    """Return the entries of a list, all of the kind that the key wants."""
    kind = int if key == "skip" else str
    if not all(isinstance(one, kind) for one in values):
        raise InputError(f"{name}, reading: {key} must be a list of {_LISTED[kind]}")
    return tuple(values)


def _synonyms(entry: Mapping[str, Any], name: str) -> Mapping[str, str]:
    for word, other in entry.items():
        if not isinstance(other, str):
            raise InputError(f"{name}, synonyms: {shortened(word)} must be a text in quotes")
    return entry


def _answer(entry: Any, place: str) -> Answer:
    texts = isinstance(entry, dict) and all(isinstance(value, str) for value in entry.values())
    if not texts or set(entry) - _REPAIR_KEYS or not {"finding", "answer"} <= set(entry):
        raise InputError(f"{place}: write finding, answer and, if you like, name and why")
    return Answer(entry["finding"], entry["answer"], entry.get("name", ""), entry.get("why", ""))


def _declared(entry: Any, place: str) -> Declaration:
    keys = {"text", "why"}
    if not isinstance(entry, dict) or set(entry) - keys or not isinstance(entry.get("text"), str):
        raise InputError(f"{place}: a declaration has a text and, if you like, a why", EXAMPLE)
    if not isinstance(entry.get("why", ""), str):
        raise InputError(f"{place}: why must be a text in quotes")
    return replace(declaration(entry["text"], entry.get("why", "")), place=place)


def _decisions(entries: list[Any], name: str, text: str) -> tuple[Decision, ...]:
    decisions: dict[Dependency, Decision] = {}
    for number, entry in enumerate(entries, 1):
        for decision in _decision(entry, name, partial(line_of, text, "decision", number)):
            earlier = decisions.get(decision.rule)
            if earlier and earlier.accepted != decision.accepted:
                raise InputError(
                    f"{decision.place}: {decision.rule} is both accepted and rejected ({earlier.place})",
                    "Keep one of the two decisions.",
                )
            decisions[decision.rule] = decision
    return tuple(decisions.values())


def _decision(entry: Any, name: str, line: Callable[[str], int]) -> list[Decision]:
    example = 'For example: rule = "a, b -> c" and standing = "accepted"'
    if not isinstance(entry, dict):
        raise InputError(f"{name}: a decision must be a [[decision]] entry", example)
    for key, kind in _DECISION_TYPES.items():
        place = f"{name}, line {line(key)}"
        if key in ("rule", "standing") and key not in entry:
            raise InputError(f"{place}: the decision has no {key}", example)
        if key in entry and type(entry[key]) is not kind:
            raise InputError(f"{place}: {key} must be {_SPOKEN[kind]}", example)
    for key in entry:
        if key not in _DECISION_TYPES:
            known = f"Known are {', '.join(_DECISION_TYPES)}."
            raise InputError(f"{name}, line {line(key)}: unknown key {shortened(key)}", known)
    if entry["standing"] not in _STANDINGS:
        raise InputError(f"{name}, line {line('standing')}: standing must be accepted or rejected", example)
    try:
        rules = parse_dependencies(entry["rule"])
    except DependencyTextError as error:
        raise InputError(f"{name}, line {line('rule')}: rule: {error}", example) from None
    more = {key: entry[key] for key in ("why", "on", "by", "rows", "fingerprint") if key in entry}
    place, accepted = f"{name}, line {line('rule')}", entry["standing"] == "accepted"
    return [Decision(rule, accepted, place=place, **more) for rule in rules if not rule.trivial]


def line_of(text: str, entry: str, number: int, key: str) -> int:
    """Return the line of a key in the ``number``-th entry of a kind, or of an entry that lacks the key."""
    seen, start = 0, 1
    for place, line in enumerate(text.splitlines(), 1):
        head = re.sub(r"[\s#].*", "", line.replace(" ", "")) if line.strip().startswith("[") else ""
        if head.startswith("["):
            if seen == number:
                break
            seen += head in (f"[[{entry}]]", f"[{entry}]")
            start = place
        elif seen == number and re.match(rf"\s*[\"']?{re.escape(key)}[\"']?\s*=", line):
            return place
    return start
