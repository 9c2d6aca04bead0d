"""The encoding of a text, found from its bytes."""

from __future__ import annotations

import codecs
from dataclasses import dataclass

from pravix.errors import InputError
from pravix.sources.code_pages import WESTERN, Guess, code_page_name, latin_code_page

_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig", "UTF-8"),
    (codecs.BOM_UTF16_LE, "utf-16", "UTF-16"),
    (codecs.BOM_UTF16_BE, "utf-16", "UTF-16"),
)
_GUESSED = ["cp1252", "cp1250", "cp1251", "cp1253", "cp1254", "cp437", "mac_roman", "shift_jis", "gb18030"]
_GUESSING_BYTES = 1 << 18


@dataclass(frozen=True)
class Decoded:
    """The bytes of a text as UTF-8, the name of its encoding, and a note where that was a guess."""

    data: bytes
    encoding: str
    note: str = ""

    @property
    def notes(self) -> tuple[str, ...]:
        """The note, if there is one."""
        return (self.note,) if self.note else ()


def as_utf8(data: bytes, name: str, encoding: str | None = None) -> Decoded:
    """Return the bytes of a text file as UTF-8 without a mark, and the name of its encoding.

    ``encoding`` decides where it is given; then a byte order mark; then zero bytes at every second
    place (UTF-16 without a mark); then UTF-8 if the bytes are that; then the likeliest of the common
    one-byte and East Asian encodings: that is a guess, and says so. Raises InputError where the bytes are
    not text.
    """
    if encoding is not None:
        return Decoded(_decoded(data, encoding, name), encoding)
    for mark, codec, label in _MARKS:
        if data.startswith(mark):
            return Decoded(_decoded(data, codec, name), label)
    if b"\0" in data:
        wide = _unmarked_utf16(data)
        if wide is None:
            raise _not_text(name, "it holds zero bytes")
        return Decoded(_decoded(data, wide, name), "UTF-16")
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return _guessed(data, name)
    return Decoded(data, "UTF-8")


def _unmarked_utf16(data: bytes) -> str | None:
    """Return the byte order of UTF-16 without a mark, told by where the zero bytes of plain letters are."""
    even, odd = data[0:4096:2].count(0), data[1:4096:2].count(0)
    most = len(data[0:4096:2]) * 0.6
    if odd > most and even == 0:
        return "utf-16-le"
    return "utf-16-be" if even > most and odd == 0 else None


def _decoded(data: bytes, codec: str, name: str) -> bytes:
    try:
        return data.decode(codec).encode()
    except LookupError:
        raise InputError(f"there is no encoding {codec}", "Try utf-8, utf-16 or cp1252.") from None
    except UnicodeDecodeError as error:
        raise _not_text(name, f"it is not {codec} at byte {error.start}") from None
    except UnicodeEncodeError as error:
        raise _not_text(name, f"it holds half of a character at character {error.start}") from None


def _guessed(data: bytes, name: str) -> Decoded:
    guess = latin_code_page(data)
    if guess is None:
        from charset_normalizer import from_bytes

        best = from_bytes(data[:_GUESSING_BYTES], cp_isolation=_GUESSED).best()
        if best is None:
            raise _not_text(name, "its bytes fit no known encoding")
        fitting = (common for common in _GUESSED if common in best.could_be_from_charset)
        guess = Guess(next(fitting, best.encoding))
    try:
        return Decoded(_decoded(data, guess.codec, name), code_page_name(guess.codec), str(guess))
    except InputError:
        if guess.codec != WESTERN:
            raise
        told = f"the encoding is a guess: {code_page_name('latin_1')}"
        return Decoded(_decoded(data, "latin_1", name), "latin_1", told)


def _not_text(name: str, reason: str) -> InputError:
    return InputError(
        f"{name} is not a text file: {reason}", "Give a CSV file saved as UTF-8, or a workbook."
    )
