"""The border between a design and JSON: one reader, which takes a design from anyone, and one writer."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from pathlib import Path

import msgspec

from pravix.document.entry import as_data
from pravix.document.model import DesignDocument, Document, JointDocument
from pravix.document.soundness import UnsoundError, check_sound
from pravix.errors import InputError
from pravix.wording import shortened

VERSION = 1
"""The version of the document that this program writes and reads."""

_MOST_BYTES = 1 << 28
_AGAIN = "Write the folder again: pravix decompose --out"


def read_design(path: Path, check_files: Callable[[Sequence[tuple[str, str]]], None]) -> Document:
    """Read and check the design at ``path``.

    ``check_files`` raises UnsoundError where tables, given with their files, cannot be in them. Raises
    InputError, with the place in the file, where it is no design of this version, or where what it says does
    not belong together: names that are not there, keys of no columns, a column computed from itself, files
    outside the folder. Linear in the size of the file, which is at most 256 MiB.
    """
    folder = path.parent
    try:
        content = msgspec.json.decode(read_plain(path, _MOST_BYTES))
    except OSError as error:
        raise InputError(
            f"{folder} holds no {path.name}: {error.strerror}",
            "Give a folder that pravix decompose --out wrote.",
        ) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise InputError(f"{path.name} in {folder} is not JSON: {error}", _AGAIN) from None
    try:
        document = design_of(content)
        check_sound(document)
        if not rows_are_elsewhere(document):
            check_files([(table.name, table.file) for table in document.tables])
    except (UnsoundError, msgspec.ValidationError, RecursionError) as error:
        raise InputError(f"{path.name} in {folder} is no design: {error}", _AGAIN) from None
    return document


def rows_are_elsewhere(document: Document) -> bool:
    """Whether no table of a design has a file, because the flat rows are somewhere else."""
    stay = any(part.elsewhere is not None for part in document.parts.values())
    return stay and not any(table.file for table in document.tables)


def design_of(content: object) -> Document:
    """Return the design that JSON holds. Raises UnsoundError or msgspec.ValidationError where it is none."""
    if not isinstance(content, dict) or content.get("format") != "pravix.design":
        raise UnsoundError('it does not begin with "format": "pravix.design"')
    if content.get("version") != VERSION:
        told = shortened(repr(content.get("version")))
        raise UnsoundError(f"its version is {told}, and this program reads version {VERSION}")
    if "parts" in content:
        return msgspec.convert(content, JointDocument)
    return msgspec.convert(content, DesignDocument)


def json_text(document: object) -> str:
    """Return a document as the text of a file."""
    return json.dumps(as_data(document), ensure_ascii=False, indent=1) + "\n"


def files_named(path: Path) -> list[str]:
    """Return the files of the tables in the design at ``path``, sound or not; none where it is none."""
    try:
        return [str(table["file"]) for table in json.loads(read_plain(path))["tables"]]
    except (OSError, ValueError, KeyError, TypeError, RecursionError):
        return []


def read_plain(path: Path, most: int | None = None) -> bytes:
    """Return the bytes of a file that is a file: no link, device, pipe or folder. Raises OSError."""
    handle = os.open(path, os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0))
    with os.fdopen(handle, "rb") as file:
        check_plain(path)
        if most is not None and os.fstat(handle).st_size > most:
            raise OSError(0, f"it is larger than {most >> 20} MiB")
        return file.read()


def check_plain(path: Path) -> None:
    """Raise OSError where a path is anything but a file: a link, a device, a pipe, a folder."""
    if path.is_symlink() or not path.is_file():
        raise OSError(0, "it is no plain file" if path.exists() or path.is_symlink() else "it is not there")
