"""How results look: one console, tables without frames, headings, notes, and JSON."""

from __future__ import annotations

import json
import os
import re
import sys
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from rich.box import SIMPLE_HEAD
from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from pravix.document.entry import as_data
from pravix.wording import printable

_PIPE_WIDTH = 100
_OBEYED = re.compile(r"[\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")


class _Console(Console):
    """A console that leaves a closed pipe to whoever called it."""

    def on_broken_pipe(self) -> None:
        """Pass the error on: nobody reads any more, and nothing is wrong."""
        raise BrokenPipeError


class Screen:
    """Writes results on standard output, without decoration when that is no terminal."""

    def __init__(self) -> None:
        self._console = _Console(highlight=False, emoji=False, markup=False)
        if not self._console.is_terminal:
            asked = os.environ.get("COLUMNS", "")
            self._console.width = int(asked) if asked.isdecimal() and int(asked) else _PIPE_WIDTH

    @property
    def width(self) -> int:
        """How many characters a line holds."""
        return self._console.width

    def heading(self, text: str) -> None:
        """Write a heading with a blank line above it."""
        self.line()
        self.line(text, style="bold")

    def line(self, text: str | Text = "", indent: int = 0, style: str = "", mark: str = "") -> None:
        """Write a paragraph, wrapped at words; ``mark`` stands before its first line."""
        styled = Text(printable(text), style=style) if isinstance(text, str) else text
        styled.plain = printable(styled.plain)
        before = " " * indent + mark
        for part in styled.wrap(self._console, max(self.width - len(before), 20)):
            part.rstrip()
            self._console.print(Text(before) + part, soft_wrap=True)
            before = " " * len(before)

    def note(self, text: str) -> None:
        """Write an aside."""
        self.line(text, style="dim")

    def check(self, holds: bool, text: str) -> None:
        """Write what was checked, marked by a word: it holds or it fails."""
        self.line(Text.assemble(("holds  ", "green") if holds else ("FAILS  ", "bold red"), text), indent=2)

    def table(
        self,
        headings: Sequence[str],
        rows: Iterable[Sequence[str | Text]],
        numbers: Sequence[str] = (),
        uncut: Sequence[str] = (),
        indent: int = 2,
    ) -> None:
        """Write a table.

        ``numbers`` lists the headings whose cells are numbers, set to the right; ``uncut`` those whose
        cells are never wrapped.
        """
        table = Table(box=SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style="bold")
        for heading in headings:
            justify: Literal["left", "right"] = "right" if heading in numbers else "left"
            whole = heading in numbers or heading in uncut
            table.add_column(heading, justify=justify, overflow="fold", no_wrap=whole)
        for row in rows:
            table.add_row(*(printable(cell) if isinstance(cell, str) else cell for cell in row))
        with self._console.capture() as captured:
            self._console.print(Padding(table, (0, 0, 0, indent)))
        lines = captured.get().splitlines()
        self._console.file.writelines(line.rstrip() + "\n" for line in lines)


@dataclass(frozen=True)
class Entries:
    """The entries of a list that are JSON already, one or several in a text."""

    texts: Iterator[str]


def print_json(document: Mapping[str, object]) -> None:
    """Print one JSON document on standard output; ``Entries`` are printed as they come."""
    before = "{"
    for key, value in document.items():
        sys.stdout.write(f"{before}\n {json.dumps(key)}: ")
        before = ","
        if isinstance(value, Entries):
            _print_entries(value)
        else:
            sys.stdout.write(in_json(value, 1).replace("\n", "\n "))
    sys.stdout.write("\n}\n")
    sys.stdout.flush()


def in_json(value: object, indent: int | None = None) -> str:
    """Return a value as JSON; what a terminal would obey is escaped."""
    text = json.dumps(as_data(value), ensure_ascii=False, indent=indent)
    return text if text.isprintable() else _OBEYED.sub(lambda mark: f"\\u{ord(mark[0]):04x}", text)


def write_out(parts: Iterable[str]) -> None:
    """Write a text as it is; on a terminal with a visible mark for what it would obey."""
    shown = sys.stdout.isatty()
    sys.stdout.writelines(printable(part) if shown else part for part in parts)


def _print_entries(entries: Entries) -> None:
    before = ""
    sys.stdout.write("[")
    for text in entries.texts:
        sys.stdout.write(f"{before}\n  {text}")
        before = ","
    sys.stdout.write("\n ]" if before else "]")


def bar(parts: Sequence[tuple[float, str]], width: int) -> Text:
    """Return a bar of marks, each part as long as its share of the whole; a part above 0 gets one."""
    total = sum(share for share, _ in parts) or 1
    lengths = [max(round(width * share / total), 1 if share else 0) for share, _ in parts]
    longest = max(range(len(lengths)), key=lengths.__getitem__)
    lengths[longest] += width - sum(lengths)
    return Text("".join(mark * length for length, (_, mark) in zip(lengths, parts, strict=True)))
