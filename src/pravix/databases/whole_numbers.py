"""Exact decimal arithmetic by whole numbers, for databases whose own would round on the way."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from pravix.databases.number import Number


@dataclass(frozen=True)
class WholeNumbers:
    """Arithmetic on numbers as whole numbers of their last places, in a ``kind`` of whole numbers.

    ``divided`` is the operator that divides them and leaves out what is behind the point. The result is exact
    as far as the kind holds.
    """

    kind: str
    divided: str = "/"

    def computed(self, operation: str, numbers: Sequence[Number], scale: int, even: bool) -> str:
        """Return an operation rounded to ``scale`` places, halves away from zero or to even."""
        widest = max(one.scale for one in numbers)
        same = [self.whole(one, widest) for one in numbers]
        if operation in ("+", "sum", "-"):
            above, below = f" {'-' if operation == '-' else '+'} ".join(same), 10**widest
        elif operation == "*":
            above = " * ".join(self.whole(one, one.scale) for one in numbers)
            below = int(10 ** sum(one.scale for one in numbers))
        else:
            factor = (100 if operation == "%" else 1) * 10**scale
            signed = f"CASE WHEN {same[1]} < 0 THEN -{factor} ELSE {factor} END"
            return self._rounded(f"({same[0]} * {signed})", f"NULLIF(ABS({same[1]}), 0)", scale, even)
        return self._rounded(f"(({above}) * {10**scale})", str(below), scale, even)

    def whole(self, number: Number, scale: int) -> str:
        """Return a number as a whole number of its last places, of which there are ``scale``."""
        return f"CAST(ROUND({number.sql} * {10**scale}) AS {self.kind})"

    def _rounded(self, above: str, below: str, scale: int, even: bool) -> str:
        """Return ``above / below`` rounded to a whole number, then scaled."""
        signed = f"CASE WHEN {above} < 0 THEN -{below} ELSE {below} END"
        whole = f"((2 * {above} + {signed}) {self.divided} (2 * {below}))"
        if even:
            tie = f"(2 * ABS({above}) + {below}) % (2 * {below}) = 0 AND {whole} % 2 <> 0"
            whole = f"({whole} - CASE WHEN NOT ({tie}) THEN 0 WHEN {above} < 0 THEN -1 ELSE 1 END)"
        return self.scaled(whole, scale)

    def scaled(self, whole: str, scale: int) -> str:
        """Return a whole number of last places as the number that it stands for."""
        return f"{whole} / {10**scale}.0" if scale else whole
