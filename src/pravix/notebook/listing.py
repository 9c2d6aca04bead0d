"""Rows of text under headings, as notebooks and terminals show them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from html import escape
from typing import TYPE_CHECKING, overload

from pravix.wording import counted

if TYPE_CHECKING:
    from pandas import DataFrame

_SHOWN = 20


@dataclass(frozen=True)
class Listing(Sequence[tuple[str, ...]]):
    """Rows of text under headings: prints and shows as a table, and turns into a data frame."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    def __len__(self) -> int:
        return len(self.rows)

    @overload
    def __getitem__(self, place: int) -> tuple[str, ...]: ...

    @overload
    def __getitem__(self, place: slice) -> tuple[tuple[str, ...], ...]: ...

    def __getitem__(self, place: int | slice) -> tuple[str, ...] | tuple[tuple[str, ...], ...]:
        return self.rows[place]

    def __iter__(self) -> Iterator[tuple[str, ...]]:
        return iter(self.rows)

    def frame(self) -> DataFrame:
        """Return the rows as a data frame of pandas, every cell a text."""
        from pandas import DataFrame

        return DataFrame(list(self.rows), columns=list(self.headings), dtype=str)

    def __repr__(self) -> str:
        shown = [self.headings, *self.rows[:_SHOWN]]
        widths = [max(len(row[place]) for row in shown) for place in range(len(self.headings))]
        lines = [
            "   ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
            for row in shown
        ]
        lines.insert(1, "   ".join("-" * width for width in widths))
        return "\n".join([*lines, *self._rest()])

    def _repr_html_(self) -> str:
        head = "".join(f"<th>{escape(one)}</th>" for one in self.headings)
        body = "".join(
            f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in row)}</tr>" for row in self.rows[:_SHOWN]
        )
        rest = "".join(f"<p>{escape(line)}</p>" for line in self._rest())
        return f"<table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>{rest}"

    def _rest(self) -> list[str]:
        more = len(self.rows) - _SHOWN
        return [f"{counted(more, 'more row')}; .frame() has all."] if more > 0 else []
