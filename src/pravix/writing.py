"""Files and folders written under another name and renamed when they are whole and on the disk."""

from __future__ import annotations

import ctypes
import os
import stat
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, nullcontext, suppress
from pathlib import Path

from pravix.errors import InputError
from pravix.locking import log, unfinished
from pravix.wording import joined, shortened

_AT_CWD, _EXCHANGE = -100, 2
_BEFORE = ".before"


def write_text(path: Path, parts: Iterable[str]) -> None:
    """Write a text file in UTF-8. Raises InputError where it cannot be written."""
    with new_file(path) as made, made.open("w", encoding="utf-8", newline="") as file:
        file.writelines(parts)


def write_file(path: Path, fill: Callable[[Path], object]) -> None:
    """Have a file filled under another name beside ``path``, and rename it. Raises InputError as above."""
    with new_file(path) as made:
        fill(made)


@contextmanager
def new_file(path: Path, fresh: bool = False) -> Iterator[Path]:
    """Give the name of a new file beside ``path``; it gets that name at the end, and is removed on an error.

    A link is followed; a file that is there keeps its permissions. With ``fresh`` nothing may be there, not
    even what came there meanwhile. Raises InputError where it cannot be written.
    """
    path = _place(path)
    try:
        if path.exists() and fresh:
            raise InputError(f"{path} is there already", "Give a new file.")
        if path.exists() and not path.is_file():
            raise InputError(f"{path} is no file", "Choose another place.")
        with unfinished(path) as made:
            yield made
            synced(made)
            made.chmod(stat.S_IMODE(path.stat().st_mode) if path.exists() else 0o666 & ~umask())
            if fresh:
                _named(made, path)
            else:
                os.replace(made, path)
            synced(path.parent)
    except FileExistsError:
        raise InputError(f"{path} was made by another run meanwhile", "Nothing was changed.") from None
    except OSError as error:
        raise InputError(f"{path} cannot be written: {_reason(error)}", "Choose another place.") from None


def _place(path: Path) -> Path:
    """Return where a path leads, links followed. Raises InputError for a path that no file can have."""
    try:
        return Path(os.path.realpath(path))
    except (OSError, ValueError) as error:
        raise InputError(f"{str(path)!r} cannot be written: {error}", "Choose another place.") from None


def _reason(error: OSError) -> str:
    return error.strerror or str(error)


def _named(made: Path, path: Path) -> None:
    """Give a file its name, if that is free in this very moment. Raises FileExistsError where it is not."""
    try:
        os.link(made, path)
    except FileExistsError:
        raise
    except OSError:  # No second names on this file system: the name is taken first.
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
        os.replace(made, path)


def synced(path: Path) -> None:
    """Have a file, or the names in a folder, on the disk before going on.

    Raises OSError where a file cannot be; some systems do not sync folders, which is let pass.
    """
    with suppress(OSError) if path.is_dir() else nullcontext():
        handle = os.open(path, os.O_RDWR if path.is_file() else os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def replace_folder(path: Path, fill: Callable[[Path], None], known: Callable[[Path], set[str]]) -> None:
    """Make a folder by filling a new one beside it and exchanging the two when it is complete.

    An empty folder, or one that holds only files, all in ``known(path)``, gives way; a link to one is
    followed. Raises InputError where the path is anything else, or where it cannot be written.
    """
    path = _place(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        _put_back(path)
        if path.exists():
            _check_replaceable(path, known)
        with unfinished(path, folder=True) as made:
            fill(made)
            made.chmod(stat.S_IMODE(path.stat().st_mode) if path.exists() else 0o777 & ~umask())
            for folder, _, files in os.walk(made):
                for name in files:
                    synced(Path(folder, name))
                synced(Path(folder))
            if not path.exists():
                os.rename(made, path)
            elif not _exchanged(made, path):
                _exchange_in_two_steps(made, path)
            synced(path.parent)
    except OSError as error:
        raise InputError(f"{path} cannot be written: {_reason(error)}", "Choose another folder.") from None


def _exchanged(one: Path, other: Path) -> bool:
    """Let two folders change their names in one step; False where the system cannot."""
    if sys.platform != "linux":
        return False
    try:
        rename = ctypes.CDLL(None, use_errno=True).renameat2
    except (OSError, AttributeError):
        return False
    return bool(rename(_AT_CWD, os.fsencode(one), _AT_CWD, os.fsencode(other), _EXCHANGE) == 0)


def _exchange_in_two_steps(made: Path, path: Path) -> None:
    """Take the old folder away and rename the new one; put the old one back where that fails."""
    old = path.with_name(f".{path.name}{_BEFORE}")
    os.rename(path, old)
    try:
        os.rename(made, path)
    except BaseException:
        os.rename(old, path)
        raise
    os.rename(old, made)


def _put_back(path: Path) -> None:
    """Put back a folder that a run took away and, stopped at that moment, did not replace."""
    old = path.with_name(f".{path.name}{_BEFORE}")
    if old.is_dir() and not path.exists():
        os.rename(old, path)
        log.warning("put back %s, which a run that was stopped had taken away", path)


def _check_replaceable(path: Path, known: Callable[[Path], set[str]]) -> None:
    if not path.is_dir():
        raise InputError(f"{path} is a file, not a folder", "Choose another folder for the results.")
    expected = known(path)
    strange = sorted(
        entry.name
        for entry in path.iterdir()
        if entry.name not in expected or entry.is_symlink() or not entry.is_file()
    )
    if strange:
        shown = joined([shortened(name) for name in strange[:3]])
        raise InputError(
            f"the folder {path} holds what Pravix did not write there: {shown}",
            "Choose a new folder for the results.",
        )


def umask() -> int:
    """Return the permissions that new files of this process do not get."""
    mask = os.umask(0)
    os.umask(mask)
    return mask
