"""The encoding of a file, found from its bytes."""

from __future__ import annotations

import codecs

from pravix.errors import InputError

_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig", "UTF-8"),
    (codecs.BOM_UTF16_LE, "utf-16", "UTF-16"),
    (codecs.BOM_UTF16_BE, "utf-16", "UTF-16"),
)
_GUESSED = ["cp1252", "cp1250", "cp1251", "cp1253", "cp1254", "cp437", "mac_roman", "shift_jis", "gb18030"]
_GUESSING_BYTES = 1 << 18


def as_utf8(data: bytes, name: str) -> tuple[bytes, str]:
    """Return the bytes of a text file as UTF-8 without a mark, and the name of its encoding.

    A byte order mark decides; then UTF-8 if the bytes are that; then the likeliest of the common
    one-byte and East Asian encodings. Raises InputError where the bytes are not text.
    """
    for mark, codec, label in _MARKS:
        if data.startswith(mark):
            try:
                return data.decode(codec).encode(), label
            except UnicodeDecodeError as error:
                raise _not_text(
                    name, f"it is marked as {label} but breaks off or errs at byte {error.start}"
                ) from None
    if b"\0" in data:
        raise _not_text(name, "it holds zero bytes")
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return _guessed(data, name)
    return data, "UTF-8"


def _guessed(data: bytes, name: str) -> tuple[bytes, str]:
    from charset_normalizer import from_bytes

    best = from_bytes(data[:_GUESSING_BYTES], cp_isolation=_GUESSED).best()
    if best is None:
        raise _not_text(name, "its bytes fit no known encoding")
    encoding = next((common for common in _GUESSED if common in best.could_be_from_charset), best.encoding)
    try:
        return data.decode(encoding).encode(), encoding
    except UnicodeDecodeError as error:
        raise _not_text(name, f"it looks like {encoding} but errs at byte {error.start}") from None


def _not_text(name: str, reason: str) -> InputError:
    return InputError(f"{name} is not a text file: {reason}", "Give a CSV file, saved as UTF-8.")
