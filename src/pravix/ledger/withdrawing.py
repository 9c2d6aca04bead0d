"""Entries of the ledger taken back: what was answered, decided or wished counts no more."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import tomlkit

from pravix.errors import InputError
from pravix.first_normal_form.declaration import declaration
from pravix.ledger.recording import changing
from pravix.ledger.wishes import POLICIES
from pravix.theory.dependency import (
    ARROWS,
    DependencyTextError,
    parse_columns,
    parse_dependencies,
    written_dependency,
)
from pravix.wording import joined, shortened
from pravix.writing import write_text

Entry = Mapping[str, Any]


def take_back(path: str, kinds: Sequence[str], texts: Sequence[str]) -> list[str]:
    """Take entries of some kinds (``decision``, ``arrange``, ``repair``, ...) out of a ledger.

    A text names a rule, the columns of a wish or of a key, a policy, or a column of a finding. Return what
    was taken out, in words. Raises InputError, with nothing changed, for a text that no entry is about.
    """
    with changing(path) as place:
        document = tomlkit.parse(place.read_text(encoding="utf-8"))
        told = [one for text in texts for one in _taken(document, kinds, text, path)]
        write_text(place, [tomlkit.dumps(document)])
    return told


def _taken(document: Any, kinds: Sequence[str], text: str, path: str) -> list[str]:
    told: list[str] = []
    if "arrange" in kinds and text in POLICIES and text in document.get("design", {}):
        told.append(f"{text} {document['design'].pop(text)}")
    about = _about(text)
    for kind in kinds:
        entries = document.get(kind, [])
        for place in reversed(range(len(entries))):
            if kind == "decision":
                told += _of_rule(entries, place, text)
            elif about(entries[place]):
                told.append(_words(entries[place]))
                del entries[place]
        if kind in document and not entries:
            document.remove(kind)
    if not told:
        there = [_words(entry) for kind in kinds for entry in document.get(kind, [])]
        known = joined([shortened(one, 60) for one in there[:8]], "and") or "nothing of that kind"
        raise InputError(f"nothing in {path} is about {shortened(text)}", f"There is {known}.")
    return told


def _about(text: str) -> Callable[[Entry], bool]:
    """Return what says whether an entry is about the columns of a text, or a finding about one of them."""
    try:
        columns = set(parse_columns(text))
    except DependencyTextError:
        columns = {text}

    def is_about(entry: Entry) -> bool:
        if "finding" in entry:
            names = entry["finding"].partition(":")[2]
            return entry["finding"] == text or bool(columns & set(parse_columns(names)))
        if "text" in entry:
            return entry["text"] == text or columns <= set(declaration(entry["text"]).columns)
        return set(entry.get("columns", ())) == columns

    return is_about


def _of_rule(entries: Any, place: int, text: str) -> list[str]:
    """Take a rule out of a decision; the decision goes with its last rule."""
    if not any(arrow in text for arrow in ARROWS):
        return []
    gone, rules = parse_dependencies(text), parse_dependencies(entries[place]["rule"])
    left = [rule for rule in rules if rule not in gone]
    if len(left) == len(rules):
        return []
    told = f"{entries[place]['standing']} {text}"
    if left:
        dependents = [rule.dependent for rule in left]
        entries[place]["rule"] = written_dependency(sorted(left[0].determinant), dependents)
    else:
        del entries[place]
    return [told]


def _words(entry: Entry) -> str:
    if "finding" in entry:
        return f"{entry['finding']}: {entry['answer']}"
    if "text" in entry:
        return str(entry["text"])
    if "rule" in entry:
        return f"{entry['standing']} {entry['rule']}"
    return f"{entry.get('do') or entry.get('says', '')} {', '.join(entry.get('columns', ()))}"
