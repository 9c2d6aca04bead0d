"""What was read and how: the account that goes with every relation from a source."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.relation.relation import Relation


@dataclass(frozen=True)
class Account:
    """How a source was read.

    ``name`` is its name for messages, ``form`` what it is in a few words, and ``notes`` one line for
    each thing that was not read as it stands. ``changes`` tells of cells that were changed: what is proved
    later holds for the cells as read. ``fillable`` names columns that look as if a group's value
    was written once; they are filled only when the analyst says so.
    """

    name: str
    form: str
    notes: tuple[str, ...] = ()
    changes: tuple[str, ...] = ()
    fillable: tuple[str, ...] = ()

    def __str__(self) -> str:
        return f"{self.name}: {'; '.join((self.form, *self.notes, *self.changes))}"


@dataclass(frozen=True, eq=False)
class Source:
    """A relation and the account of how it was read."""

    relation: Relation
    account: Account
