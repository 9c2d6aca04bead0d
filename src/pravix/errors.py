"""The one error for input that cannot be used: one clear line, and a hint where one helps."""

from __future__ import annotations


class InputError(Exception):
    """The call or the input is unusable; nothing was changed.

    ``str(error)`` is one line that names the file, the row and the column as far as they are known;
    ``hint`` says what to do, or is empty.
    """

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.hint = hint
