"""What the analyst says of keys: what identifies a row, what does not, and what others refer by."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Said:
    """Decisions about keys, each a set of columns.

    ``key`` identifies a row of the file; None where nothing was said. Each of ``not_keys`` does not, nor
    does a part of it. Each of ``refer_by`` is what other tables refer by, before anything else that
    identifies the same thing.
    """

    key: frozenset[str] | None = None
    not_keys: tuple[frozenset[str], ...] = ()
    refer_by: tuple[frozenset[str], ...] = ()


NOTHING_SAID = Said()
