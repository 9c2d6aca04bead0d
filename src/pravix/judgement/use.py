"""The kinds of things that columns hold, as far as rules and keys are concerned."""

from __future__ import annotations

from enum import Enum


class Use(Enum):
    """What the values of a column do: identify, stand for a thing, name it, count, measure, and so on."""

    IDENTIFIER = "identifier"
    LABEL = "word"
    TITLE = "name"
    DETAIL = "detail of something else"
    SERIAL = "running number"
    CONTACT = "phone or e-mail"
    NUMBER = "number"
    MEASURE = "measure"
    MOMENT = "date or time"
    PERIOD = "year or month"
    MARK = "yes/no"
    PROSE = "free text"

    @property
    def told(self) -> str:
        """The kind with its article, as it stands in a sentence."""
        if self in (Use.MARK, Use.PROSE):
            return str(self.value)
        return f"an {self.value}" if self is Use.IDENTIFIER else f"a {self.value}"
