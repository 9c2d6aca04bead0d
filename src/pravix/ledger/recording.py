"""Writing into the ledger: answers and wishes are added, and everything else stays as it was typed."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.items import AoT

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.declaration import Declaration, declaration
from pravix.ledger.key_decisions import KeyDecision, Says
from pravix.ledger.ledger import Decision
from pravix.ledger.meanings import Meaning
from pravix.ledger.wishes import Arrangement, alike
from pravix.locking import sole_user
from pravix.sources.reading import KEPT_WISHES, Reading
from pravix.theory.dependency import parse_dependencies, written_dependency
from pravix.writing import write_text

_HEAD = "Decisions about this file, kept by Pravix. Edit them by hand as you like; comments stay."


def record(
    path: str,
    answers: Iterable[Answer] = (),
    reading: Reading | None = None,
    decisions: Iterable[Decision] = (),
    key_decisions: Iterable[KeyDecision] = (),
    policies: Mapping[str, str] | None = None,
    arrangements: Iterable[Arrangement] = (),
    meanings: Iterable[Meaning] = (),
    declarations: Iterable[Declaration] = (),
) -> Change:
    """Add answers, decisions and wishes of every kind to the ledger at ``path``; return what that changed.

    An earlier entry about the same finding, rule or arrangement is replaced where it stands; a
    patch is named as seen from the ledger's folder. Comments and order are kept. The file is written
    under another name and renamed. The ledger must have been read without an error. Several processes may
    record at once: each waits for the one before it.
    """
    with changing(path) as place:
        text = place.read_text(encoding="utf-8")
        document = tomlkit.parse(text)
        if not text:
            document.add(tomlkit.comment(_HEAD))
        if reading is not None:
            _set_reading(document, reading, os.path.dirname(path) or ".")
        for answer in answers:
            _set_answer(document, answer)
        for declared in declarations:
            _set_declaration(document, declared)
        for decision in decisions:
            _set_decision(document, decision)
        for said in key_decisions:
            _set_key_decision(document, said)
        for key, value in (policies or {}).items():
            if "design" not in document:
                document.add("design", tomlkit.table())
            document["design"][key] = value
        for wish in arrangements:
            _set_arrangement(document, wish)
        for meaning in meanings:
            _set_meaning(document, meaning)
        written = tomlkit.dumps(document)
        write_text(place, [written])
    return Change(path, text, written)


@dataclass(frozen=True)
class Change:
    """What was recorded: the text of the ledger at ``path`` before and after it."""

    path: str
    before: str
    after: str

    def undo(self) -> None:
        """Take it back. Raises InputError where the ledger was changed again meanwhile."""
        with changing(self.path) as place:
            if place.read_text(encoding="utf-8") != self.after:
                raise InputError(
                    f"the ledger {self.path} was changed by another meanwhile",
                    "Take the answer back there by hand.",
                )
            if self.before:
                write_text(place, [self.before])
            else:
                place.unlink()


@contextmanager
def changing(path: str) -> Iterator[Path]:
    """Give the file of a ledger, links followed, to be changed by nobody else in the block."""
    place = Path(os.path.realpath(path))
    if place.exists() and not place.is_file():
        raise InputError(f"the ledger {path} is no file", "Name another with --ledger FILE.")
    try:
        with sole_user(place):
            yield place
    except OSError as error:
        raise InputError(f"the ledger {path} cannot be written: {error.strerror}") from None


def _set_reading(document: Any, reading: Reading, folder: str) -> None:
    wished = {key: getattr(reading, key) for key in KEPT_WISHES if getattr(reading, key) not in (None, False)}
    for key, value in wished.items():
        if isinstance(value, tuple):
            wished[key] = "-".join(map(str, dict.fromkeys(value))) if KEPT_WISHES[key] is str else list(value)
    if "patch" in wished:
        wished["patch"] = _patch_path(wished["patch"], folder)
    if wished and "reading" not in document:
        document.add("reading", tomlkit.table())
    for key, value in wished.items():
        document["reading"][key] = value


def _patch_path(path: str, folder: str) -> str:
    """Return the path of a patch as the ledger names it: as seen from its folder, or from the user's home."""
    return path if path.startswith("~") else os.path.relpath(path, folder)


def _set_answer(document: Any, answer: Answer) -> None:
    entry = {"finding": answer.finding, "answer": answer.answer, "name": answer.name, "why": answer.why}
    filled = {key: value for key, value in entry.items() if value}
    repairs = _entries(document, "repair")
    for known in repairs:
        if known.get("finding") == answer.finding:
            known.update(filled)
            return
    _append(repairs, filled)


def _set_declaration(document: Any, declared: Declaration) -> None:
    """Add a declaration, in the place of one that says the same thing of the same columns."""
    entry = {"text": declared.text, "why": declared.why}
    filled = {key: value for key, value in entry.items() if value}
    entries = _entries(document, "declare")
    for known in entries:
        other = declaration(str(known["text"]))
        if (other.says, set(other.columns)) == (declared.says, set(declared.columns)):
            known.update(filled)
            return
    _append(entries, filled)


def _set_decision(document: Any, decision: Decision) -> None:
    """Add a decision, or put it in the place of an earlier one; a rule among several is taken out there."""
    entry = {
        "rule": str(decision.rule),
        "standing": "accepted" if decision.accepted else "rejected",
        "why": decision.why,
        "on": decision.on,
        "by": decision.by,
        "rows": decision.rows,
        "fingerprint": decision.fingerprint,
    }
    filled = {key: value for key, value in entry.items() if value not in ("", None)}
    decisions = _entries(document, "decision")
    for known in decisions:
        rules = parse_dependencies(known["rule"])
        if decision.rule not in rules:
            continue
        others = [rule for rule in rules if rule != decision.rule]
        if not others:
            for key in entry:
                known.pop(key, None) if key not in filled else known.update({key: filled[key]})
            return
        known["rule"] = written_dependency(
            sorted(decision.rule.determinant), [rule.dependent for rule in others]
        )
    _append(decisions, filled)


def _set_key_decision(document: Any, made: KeyDecision) -> None:
    """Add a decision about a key in the place of those that it replaces."""
    entry = {
        "columns": list(made.columns),
        "says": made.says.value,
        "why": made.why,
        "on": made.on,
        "by": made.by,
    }
    decisions = _entries(document, "key")
    earlier = [KeyDecision(tuple(known["columns"]), Says(known["says"])) for known in decisions]
    for place in reversed([place for place, known in enumerate(earlier) if made.replaces(known)]):
        del decisions[place]
    _append(decisions, {key: value for key, value in entry.items() if value not in ("", None)})


def _set_arrangement(document: Any, wish: Arrangement) -> None:
    """Add an arrangement, or put it in the place of one that answers the same question."""
    told = {key: value for key, value in asdict(wish).items() if value and key != "place"}
    entry = told | {"columns": list(wish.columns)}
    arrangements = _entries(document, "arrange")
    for known in arrangements:
        texts = {key: str(value) for key, value in known.items() if key in ("do", "check")}
        if alike(Arrangement(**texts, columns=tuple(known["columns"])), wish):
            for key in [key for key in known if key not in entry]:
                known.remove(key)
            known.update(entry)
            return
    _append(arrangements, entry)


def _set_meaning(document: Any, meaning: Meaning) -> None:
    entry = {key: value for key, value in asdict(meaning).items() if value}
    meanings = _entries(document, "meaning")
    for known in meanings:
        if tuple(str(known.get(key, "")) for key in ("table", "column", "value")) == meaning.about:
            known["text"] = meaning.text
            return
    _append(meanings, {key: entry[key] for key in ("table", "column", "value", "text") if key in entry})


def _append(entries: AoT, entry: Mapping[str, Any]) -> None:
    table = tomlkit.table()
    table.update(entry)
    entries.append(table)


def _entries(document: Any, kind: str) -> AoT:
    """Return the entries of a kind, begun where there is none."""
    entries = document.get(kind)
    if not isinstance(entries, AoT):
        entries = tomlkit.aot()
        document.append(kind, entries)
    return entries
