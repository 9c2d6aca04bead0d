"""Files written under another name and renamed when they are whole."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from pravix.errors import InputError


def write_text(path: Path, parts: Iterable[str]) -> None:
    """Write a text file in UTF-8. Raises InputError where it cannot be written."""
    with new_file(path) as made, made.open("w", encoding="utf-8", newline="") as file:
        file.writelines(parts)


def write_file(path: Path, fill: Callable[[Path], object]) -> None:
    """Have a file filled under another name beside ``path``, and rename it. Raises InputError as above."""
    with new_file(path) as made:
        fill(made)


@contextmanager
def new_file(path: Path) -> Iterator[Path]:
    """Give the name of a new file beside ``path``; it gets that name at the end, and is removed on an error.

    Raises InputError where it cannot be written.
    """
    path = path.absolute()
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=path.suffix, dir=path.parent)
        os.close(handle)
        made = Path(name)
        try:
            yield made
            made.chmod(0o666 & ~umask())
            made.replace(path)
        finally:
            made.unlink(missing_ok=True)
    except OSError as error:
        raise InputError(f"{path} cannot be written: {error.strerror}", "Choose another place.") from None


def umask() -> int:
    """Return the permissions that new files of this process do not get."""
    mask = os.umask(0)
    os.umask(mask)
    return mask
