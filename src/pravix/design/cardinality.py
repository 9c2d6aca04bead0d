"""How many rows a reference joins on either side."""

from __future__ import annotations

from enum import Enum


class Cardinality(Enum):
    """A reference in words, from the referring table to the referred one."""

    MANY_TO_ONE = "many to one"
    MANY_TO_OPTIONAL = "many to zero or one"
    ONE_TO_ONE = "one to one"
    ONE_TO_OPTIONAL = "one to zero or one"

    @classmethod
    def of(cls, single: bool, optional: bool) -> Cardinality:
        """Return it by whether one row at most refers to each, and whether some refer to none."""
        if single:
            return cls.ONE_TO_OPTIONAL if optional else cls.ONE_TO_ONE
        return cls.MANY_TO_OPTIONAL if optional else cls.MANY_TO_ONE

    @property
    def single(self) -> bool:
        """Whether one row at most refers to each."""
        return self in (Cardinality.ONE_TO_ONE, Cardinality.ONE_TO_OPTIONAL)

    @property
    def optional(self) -> bool:
        """Whether some rows refer to none."""
        return self in (Cardinality.MANY_TO_OPTIONAL, Cardinality.ONE_TO_OPTIONAL)
