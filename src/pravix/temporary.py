"""Folders for a while: gone when they are let go, and at the latest when the program ends."""

from __future__ import annotations

import atexit
import shutil
import tempfile

_FOLDERS: set[str] = set()


def temporary_folder() -> str:
    """Return a new folder for a while."""
    folder = tempfile.mkdtemp(prefix="pravix-")
    _FOLDERS.add(folder)
    return folder


def let_go(folder: str) -> None:
    """Remove a folder with all that is in it."""
    shutil.rmtree(folder, ignore_errors=True)
    _FOLDERS.discard(folder)


@atexit.register
def let_all_go() -> None:
    """Remove all of them; for a program that ends without waiting for anything."""
    for folder in list(_FOLDERS):
        let_go(folder)
