"""The bytes of a file: from a path, from standard input, unpacked where they are gzipped."""

from __future__ import annotations

import gzip
import os
import sys
import zlib

from pravix.errors import InputError
from pravix.sources.connecting import is_url, shown_url

STANDARD_INPUT = "-"
MOST_BYTES = 4 << 30
"""The most bytes that a compressed file may unpack to."""

_CHUNK = 1 << 20


def display_name(path: str) -> str:
    """Return the name of a source in messages; nothing secret of a URL."""
    if is_url(path):
        return shown_url(path)
    if path == STANDARD_INPUT:
        return "standard input"
    return os.path.basename(path).encode(errors="surrogateescape").decode(errors="replace")


def bytes_of(path: str) -> bytes:
    """Return the content of a file, or of standard input for ``-``; gzip is unpacked.

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
    return _unpacked(data, display_name(path)) if data[:2] == b"\x1f\x8b" else data


def check_readable(path: str) -> None:
    """Raise InputError where a path is no file."""
    if os.path.isdir(path):
        raise InputError(f"{path} is a folder, not a file", "Give one of the files in it.")
    if not os.path.exists(path):
        raise InputError(f"there is no file {path}", "Check the name and the folder.")


def _unpacked(data: bytes, name: str) -> bytes:
    """Unpack chunk by chunk, so that a small archive of something huge is refused early."""
    import io

    parts = []
    size = 0
    try:
        with gzip.GzipFile(fileobj=io.BytesIO(data)) as archive:
            while chunk := archive.read(_CHUNK):
                size += len(chunk)
                if size > MOST_BYTES:
                    raise InputError(
                        f"{name} unpacks to more than {MOST_BYTES >> 30} GiB", "Unpack it and split it."
                    )
                parts.append(chunk)
    except (OSError, EOFError, zlib.error):
        raise InputError(f"{name} is a broken gzip file", "Pack or copy it again.") from None
    return b"".join(parts)
