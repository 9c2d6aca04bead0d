"""Where a column lives, and the chain of rules that leads to it from the key of the file."""

from __future__ import annotations

from dataclasses import dataclass

from pravix.design.model import Design, Table
from pravix.judgement.judgement import Judgement
from pravix.judgement.standing import JudgedRule, Standing
from pravix.theory.closure import derivation
from pravix.theory.dependency import Dependency


@dataclass(frozen=True, eq=False)
class Whereabouts:
    """A column's home, the other tables it stands in, and the chain from the row key to it.

    Each link's determinant is covered by the row key and the dependents before it. The chain is empty
    for a column of the row key itself.
    """

    column: str
    home: Table
    also_in: tuple[str, ...]
    chain: tuple[JudgedRule, ...]

    @property
    def name(self) -> str:
        """What it is called in its home; empty for a family, which is several columns there."""
        return self.home.flat_names.get(self.column, "")


def whereabouts(design: Design, judgement: Judgement, column: str) -> Whereabouts:
    """Return where a column of the flat rows, or of their parts, lives and why. KeyError where none has it.

    ``judgement`` is that of the rows that hold it.
    """
    home = design.home(column)
    scope = design.scope_of([column])
    chain = derivation(Dependency(frozenset(scope.row_key), column), scope.cover) or ()
    judged = {found.rule: found for found in judgement.rules.of(Standing.ACCEPTED, Standing.BELIEVED)}
    return Whereabouts(
        column=column,
        home=home,
        also_in=tuple(
            table.name for table in design.tables if table is not home and column in table.flat_names
        ),
        chain=tuple(judged.get(rule) or JudgedRule(rule, Standing.BELIEVED, None, None) for rule in chain),
    )
