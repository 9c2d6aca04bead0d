"""The command that lists the candidate keys of the rows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import (
    all_option,
    blanks_option,
    budget_options,
    json_option,
    largest_option,
    ledger_option,
    reading_options,
    source_argument,
)
from pravix.cli.show import Screen, print_json
from pravix.discovery.budget import Budget
from pravix.document.source import source_document
from pravix.judgement.column_roles import column_roles
from pravix.judgement.kinds import uses
from pravix.judgement.row_key import kinds_bits
from pravix.judgement.use import Use
from pravix.relation.grouping import groupings_of, groups_by
from pravix.sources.reading import Reading
from pravix.theory.dependency import in_order
from pravix.wording import counted

_SHOWN = 12


@helped.command("keys")
@source_argument
@reading_options
@blanks_option
@largest_option("all sizes")
@budget_options
@all_option("keys")
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    blanks: str,
    largest: int | None,
    budget: Budget,
    show_all: bool,
    ledger: str | None,
    as_json: bool,
) -> None:
    """List every minimal combination of columns on which no two rows agree.

    These are the keys of the rows as they stand. Many are unique by coincidence; the likeliest to identify a
    row come first.
    """

    analysis = CommandAnalysis(source, reading, ledger, blanks, largest, prompt=False, budget=budget)
    relation, found = analysis.relation, analysis.keys
    blanks_in = {column.name for column in relation.columns if column.blanks}
    keys = [(in_order(key, relation.names), bool(key & blanks_in)) for key in found.keys]
    if not as_json:
        _show(analysis, keys, show_all)
        return
    document = {
        "format": "pravix.keys",
        "version": 1,
        "source": source_document(relation),
        "complete": found.complete,
        "candidate_keys": [{"columns": columns, "blanks": blank} for columns, blank in keys],
    }
    if not found.complete:
        document["searched_to"] = found.searched_to
    print_json(document)


def _show(analysis: CommandAnalysis, keys: Sequence[tuple[list[str], bool]], show_all: bool) -> None:
    screen = Screen()
    relation, found = analysis.relation, analysis.keys
    roles = column_roles(relation.columns)
    kinds = uses(relation.columns, roles)
    ranked = sorted(keys, key=lambda key: (key[1], -kinds_bits(key[0], roles)))
    shown = ranked if show_all else ranked[:_SHOWN]
    screen.line(str(analysis.source.account))
    if not keys:
        _no_key(screen, analysis)
        return
    screen.line(f"{counted(relation.total, 'row')}; {counted(len(keys), 'minimal unique combination')}.")
    screen.line()
    screen.table(
        ["Columns", "What they hold"],
        [
            [", ".join(columns) or "(none: there is one row)", _holds(columns, blank, kinds)]
            for columns, blank in shown
        ],
    )
    screen.line()
    if len(shown) < len(ranked):
        screen.note(f"{len(ranked) - len(shown)} more, less likely to identify a row; --all shows them.")
    if found.searched_to is not None:
        searched = counted(found.searched_to, "column")
        screen.note(f"Searched completely up to {searched}; larger keys are not listed.")
    screen.line(
        "Unique in these rows is not yet identifying: a measure or a date is often unique by coincidence."
    )


def _holds(columns: list[str], blank: bool, uses: Mapping[str, Use]) -> str:
    told = ", ".join(dict.fromkeys(uses[name].value for name in columns))
    return told + ("; has blanks, so no primary key" if blank else "")


def _no_key(screen: Screen, analysis: CommandAnalysis) -> None:

    relation, found = analysis.relation, analysis.keys
    groups = groups_by(relation, relation.names)
    sizes = np.bincount(groups)
    repeated = int(np.argmax(sizes))
    if sizes[repeated] > 1:
        first, second = relation.row_numbers[np.flatnonzero(groups == repeated)[:2]].tolist()
        extra = relation.total - groupings_of(relation).size(relation.names)
        repeats = f"{counted(extra, 'row')} {'repeats' if extra == 1 else 'repeat'} an earlier row in full"
        screen.line(f"No key: {repeats}; rows {first} and {second} are equal.")
    else:
        searched = counted(found.searched_to or 0, "column")
        screen.line(f"No key of up to {searched}; --largest searches further.")
