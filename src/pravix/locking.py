"""Locks that end with their process, and what a killed run left behind: known by its name, held by nobody."""

from __future__ import annotations

import logging
import os
import secrets
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

try:
    import fcntl
except ImportError:  # A system without such locks: nothing is waited for, and nothing is cleared away.
    fcntl = None  # type: ignore[assignment]

_MARK = ".unfinished"
_LONGEST_STEM = 40

log = logging.getLogger(__name__)


def hold(handle: int, wait: bool = True) -> bool:
    """Lock an open file or folder for this process; False where another has it and is not waited for."""
    if fcntl is None:
        return wait
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
    except OSError:
        return wait  # Not waited for: another has it. Waited for: the file system knows no locks.
    return True


@contextmanager
def sole_user(path: Path) -> Iterator[None]:
    """Let one process at a time change the file at ``path`` in the block; others wait. Raises OSError.

    The lock is on the file itself, which is begun empty where there is none. A file that another process
    renamed over it meanwhile is locked instead. Where there are no locks, it is not held open: some systems
    rename nothing over an open file.
    """
    if fcntl is None:
        begun = not path.exists()
        path.touch()
        try:
            yield
        finally:
            if begun and path.exists() and path.stat().st_size == 0:
                path.unlink()
        return
    while True:
        begun = not path.exists()
        handle = os.open(path, os.O_RDONLY | os.O_CREAT, 0o666)
        try:
            hold(handle)
            if not _is_at(handle, path):
                continue
            try:
                yield
            finally:
                if begun and _is_at(handle, path) and os.fstat(handle).st_size == 0:
                    path.unlink()
            return
        finally:
            os.close(handle)


def _is_at(handle: int, path: Path) -> bool:
    """Whether the open file is still the one of that name."""
    try:
        return os.path.samestat(os.fstat(handle), path.stat())
    except FileNotFoundError:
        return False


@contextmanager
def unfinished(path: Path, folder: bool = False) -> Iterator[Path]:
    """Give a new hidden file or folder beside ``path`` to be filled; it is gone at the end, if still there.

    What a killed run left beside ``path`` is removed first; that is logged. Raises OSError.
    """
    _clear_away(path)
    while True:
        made = path.parent / f"{_beginning(path)}{secrets.token_hex(4)}{path.suffix[:_LONGEST_STEM]}"
        if folder:
            made.mkdir(mode=0o700)
        else:
            os.close(os.open(made, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600))
        handle = _opened(made)
        try:
            if handle is not None:
                hold(handle)
                if not _is_at(handle, made):
                    continue  # Another run took it for one that was left behind.
            try:
                yield made
            finally:
                _removed(made)
            return
        finally:
            if handle is not None:
                os.close(handle)


def _beginning(path: Path) -> str:
    stem = path.name[: len(path.name) - len(path.suffix)] if path.suffix else path.name
    while len(stem.encode(errors="surrogateescape")) > _LONGEST_STEM:
        stem = stem[:-1]
    return f".{stem}{_MARK}-"


def _clear_away(path: Path) -> None:
    """Remove what runs that were killed left beside ``path``: nobody holds it any more."""
    if fcntl is None:
        return
    for left in [entry for entry in path.parent.iterdir() if entry.name.startswith(_beginning(path))]:
        handle = _opened(left)
        if handle is None:
            continue
        try:
            if hold(handle, wait=False) and _is_at(handle, left):
                _removed(left)
                log.warning("removed %s, which a run that was stopped had left", left)
        finally:
            os.close(handle)


def _opened(path: Path) -> int | None:
    try:
        return os.open(path, os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0))
    except OSError:
        return None


def _removed(path: Path) -> None:
    try:
        if path.is_dir() and not path.is_symlink():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    except OSError:
        log.warning("%s could not be removed", path)
