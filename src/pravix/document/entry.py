"""What every part of a document has in common."""

from __future__ import annotations

from typing import Annotated, TypeVar

from msgspec import Meta, Struct, field

Count = Annotated[int, Meta(ge=0, le=10**15)]

_T = TypeVar("_T")


def added(value: _T) -> _T:
    """Return a field that is always written, and that has ``value`` where an earlier program did not."""
    made: _T = field(default_factory=lambda: value)
    return made


class Entry(Struct, frozen=True, omit_defaults=True):
    """A part of a document: what has its default is left out."""
