"""How rows and odd cells of the file look in a terminal."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from pravix.cli.show import Screen
from pravix.judgement.near import OddCell
from pravix.relation.relation import Relation
from pravix.wording import shortened, verbatim

_CELLS_SHOWN = 10


def show_odd_cells(screen: Screen, cells: Sequence[OddCell]) -> None:
    """Write the cells that break a rule, with what the other rows have."""
    rows = [
        [str(cell.row), verbatim(cell.now), verbatim(cell.instead), cell.oddity.value]
        for cell in cells[:_CELLS_SHOWN]
    ]
    screen.table(["Row", "Has", "Others have", "It"], rows, numbers=["Row"])
    if len(cells) > _CELLS_SHOWN:
        screen.note(f"{len(cells) - _CELLS_SHOWN} more; pravix dependencies --json lists all.")


def show_rows(screen: Screen, relation: Relation, numbers: Iterable[int], names: Sequence[str]) -> None:
    """Write some columns of the rows with the numbers given.

    Of several parts with one number those are shown that agree with each other.
    """
    places = relation.agreeing_positions(list(numbers), names)
    table = []
    for position in places:
        cells = [shortened(relation.column(name).text(position)) for name in names]
        table.append([str(relation.row_numbers[position]), *cells])
    screen.table(["Row", *names], table, numbers=["Row"])
