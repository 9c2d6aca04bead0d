"""The bytes of a file: from a path, from standard input, unpacked where they are packed."""

from __future__ import annotations

import bz2
import gzip
import io
import os
import sys
import zlib
from collections.abc import Callable
from typing import Any

from pravix.errors import InputError
from pravix.sources.connecting import is_url, shown_url

STANDARD_INPUT = "-"
MOST_BYTES = 4 << 30
"""The most bytes that a compressed file may unpack to."""

_CHUNK = 1 << 20
_BZIP2_BLOCK = b"\x31\x41\x59\x26\x53\x59"


def display_name(path: str) -> str:
    """Return the name of a source in messages; nothing secret of a URL."""
    if is_url(path):
        return shown_url(path)
    if path == STANDARD_INPUT:
        return "standard input"
    return os.path.basename(path).encode(errors="surrogateescape").decode(errors="replace")


def bytes_of(path: str) -> bytes:
    """Return the content of a file, or of standard input for ``-``; gzip, bzip2 and zip are unpacked.

    Raises InputError where the file is missing, a folder, unreadable, a broken archive, or one that
    unpacks to more than ``MOST_BYTES``.
    """
    if path == STANDARD_INPUT:
        data = sys.stdin.buffer.read()
    else:
        check_readable(path)
        try:
            with open(path, "rb") as file:
                data = file.read()
        except OSError as error:
            raise InputError(f"{path} cannot be read: {error.strerror}") from None
    return _unpacked(data, display_name(path))


def check_readable(path: str) -> None:
    """Raise InputError where a path is no file."""
    if os.path.isdir(path):
        raise InputError(f"{path} is a folder, not a file", "Give one of the files in it.")
    if not os.path.exists(path):
        raise InputError(f"there is no file {path}", "Check the name and the folder.")


def _unpacked(data: bytes, name: str) -> bytes:
    """Return what is packed with gzip or bzip2, or the one file in a zip archive; other data as they are."""
    if data[:2] == b"\x1f\x8b":
        return _chunks(lambda: gzip.GzipFile(fileobj=io.BytesIO(data)), name, "gzip")
    if data[:3] == b"BZh" and data[4:10] == _BZIP2_BLOCK:
        return _chunks(lambda: bz2.BZ2File(io.BytesIO(data)), name, "bzip2")
    if data[:4] in (b"PK\x03\x04", b"PK\x05\x06"):
        return _of_zip(data, name)
    return data


def _of_zip(data: bytes, name: str) -> bytes:
    import zipfile

    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        files = [
            one for one in archive.infolist() if not one.is_dir() and not one.filename.startswith("__MACOSX/")
        ]
    except zipfile.BadZipFile:
        raise InputError(f"{name} is a broken zip file", "Pack or copy it again.") from None
    if len(files) != 1:
        raise InputError(
            f"{name} holds {len(files)} files, and one is read", "Unpack it, and give one of them."
        )
    if files[0].flag_bits & 1:
        raise InputError(f"{name} is locked with a password", "Unpack it first.")
    return _chunks(lambda: archive.open(files[0]), name, "zip")


def _chunks(opened: Callable[[], Any], name: str, kind: str) -> bytes:
    """Unpack chunk by chunk, so that a small archive of something huge is refused early."""
    import zipfile

    parts = []
    size = 0
    try:
        with opened() as archive:
            while chunk := archive.read(_CHUNK):
                size += len(chunk)
                if size > MOST_BYTES:
                    raise InputError(
                        f"{name} unpacks to more than {MOST_BYTES >> 30} GiB", "Unpack it and split it."
                    )
                parts.append(chunk)
    except (OSError, EOFError, zlib.error, zipfile.BadZipFile, NotImplementedError):
        raise InputError(f"{name} is a broken {kind} file", "Pack or copy it again.") from None
    return b"".join(parts)
