"""What every part of a document has in common."""

from __future__ import annotations

from typing import Annotated, Any, TypeVar

from msgspec import Meta, Struct, field, to_builtins

from pravix.first_normal_form.rebuilt import Names

Filled = Annotated[Names, Meta(min_length=1)]
"""Names, one at least."""

Count = Annotated[int, Meta(ge=0, le=10**15)]

_T = TypeVar("_T")


def added(value: _T) -> _T:
    """Return a field that is always written, and that has ``value`` where an earlier program did not."""
    made: _T = field(default_factory=lambda: value)
    return made


class Entry(Struct, frozen=True, omit_defaults=True):
    """A part of a document: what has its default is left out."""


def as_data(document: object) -> Any:
    """Return a document, or what holds documents, as dictionaries and lists."""
    return to_builtins(document)
