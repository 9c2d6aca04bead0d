"""What was read and how: the account that goes with every relation from a file."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.relation.relation import Relation

DELIMITER_NAMES = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}


@dataclass(frozen=True)
class Account:
    """How a file was read: its name, encoding and delimiter, and the blank lines left out."""

    name: str
    encoding: str
    delimiter: str
    blank_lines: int

    def __str__(self) -> str:
        told = (
            f"{self.name}: {self.encoding}, {DELIMITER_NAMES[self.delimiter]} between cells, header in row 1"
        )
        if self.blank_lines == 1:
            told += ", 1 blank line left out"
        elif self.blank_lines:
            told += f", {self.blank_lines:,} blank lines left out"
        return told


@dataclass(frozen=True, eq=False)
class Source:
    """A relation and the account of how it was read."""

    relation: Relation
    account: Account
