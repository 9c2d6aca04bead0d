"""Writing into the ledger: answers and wishes are added, and everything else stays as it was typed."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.items import AoT

from pravix.atomic.answer import Answer
from pravix.errors import InputError
from pravix.sources.reading import Reading

_HEAD = "Decisions about this file, kept by Pravix. Edit them by hand as you like; comments stay."


def record(path: str, answers: Iterable[Answer], reading: Reading | None = None) -> None:
    """Add answers to findings, and wishes about reading, to the ledger at ``path``.

    An earlier answer to the same finding is replaced where it stands; a patch is named as seen from the
    ledger's folder. Comments and order are kept. The
    file is written under another name and renamed. The ledger must have been read without an error.
    """
    try:
        document = tomlkit.parse(Path(path).read_text(encoding="utf-8"))
    except FileNotFoundError:
        document = tomlkit.document()
        document.add(tomlkit.comment(_HEAD))
    except OSError as error:
        raise InputError(f"the ledger {path} cannot be read: {error.strerror}") from None
    if reading is not None:
        _set_reading(document, reading, os.path.dirname(path) or ".")
    for answer in answers:
        _set_answer(document, answer)
    _write(path, tomlkit.dumps(document))


def _set_reading(document: Any, reading: Reading, folder: str) -> None:
    wishes = {
        "encoding": reading.encoding,
        "delimiter": reading.delimiter,
        "sheet": reading.sheet,
        "header": None if reading.header is None else "-".join(map(str, dict.fromkeys(reading.header))),
        "last_row": reading.last_row,
        "fill": None if reading.fill is None else list(reading.fill),
        "number_names": reading.number_names or None,
        "patch": None if reading.patch is None else os.path.relpath(reading.patch, folder),
    }
    wished = {key: value for key, value in wishes.items() if value is not None}
    if wished and "reading" not in document:
        document.add("reading", tomlkit.table())
    for key, value in wished.items():
        document["reading"][key] = value


def _set_answer(document: Any, answer: Answer) -> None:
    entry = {"finding": answer.finding, "answer": answer.answer, "name": answer.name, "why": answer.why}
    filled = {key: value for key, value in entry.items() if value}
    repairs = document.get("repair")
    if not isinstance(repairs, AoT):
        repairs = tomlkit.aot()
        document.append("repair", repairs)
    for known in repairs:
        if known.get("finding") == answer.finding:
            known.update(filled)
            return
    table = tomlkit.table()
    table.update(filled)
    repairs.append(table)


def _write(path: str, text: str) -> None:
    folder = os.path.dirname(os.path.abspath(path))
    try:
        handle, made = tempfile.mkstemp(prefix=".ledger-", dir=folder)
        with os.fdopen(handle, "w", encoding="utf-8", newline="") as file:
            file.write(text)
        os.replace(made, path)
    except OSError as error:
        raise InputError(f"the ledger {path} cannot be written: {error.strerror}") from None
