"""The command that lists what determines what."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice

import click

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
from pravix.cli.show import Entries, Screen, in_json, print_json
from pravix.discovery.budget import Budget
from pravix.document.rules import MOST_LISTED, exception_document, near_document, rule_document
from pravix.document.source import source_document
from pravix.document.story import BrokenRule, NearDocument
from pravix.judgement.judged import Judged
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.telling import reason
from pravix.sources.reading import Reading
from pravix.theory.dependency import in_order, written_in_order
from pravix.wording import counted, joined, verbatim

_SHOWN = 40
_CAME_AGAIN = (
    "Came again: how often a value of the determinant came again, each time with the same dependents."
)
_AT_A_TIME = 10_000
_ROWS_NAMED = 5
_NEAR_SHOWN = 10


@helped.command("dependencies")
@source_argument
@reading_options
@blanks_option
@largest_option("all sizes")
@budget_options
@click.option(
    "--standing",
    type=click.Choice(["believed", "doubtful", "accepted", "rejected"]),
    help="Show the rules of this standing.  [default: those the design may rest on]",
)
@all_option("rules of every standing, and with --json every row that breaks one")
@click.option("--map", "map_file", metavar="FILE", help="Draw what decides what into a PNG or SVG FILE.")
@ledger_option
@json_option
def command(
    source: str,
    reading: Reading,
    blanks: str,
    largest: int | None,
    budget: Budget,
    standing: str | None,
    show_all: bool,
    map_file: str | None,
    ledger: str | None,
    as_json: bool,
) -> None:
    """List every minimal functional dependency of the rows, with its standing and the evidence.

    Believed and doubtful are our judgement from the rows; accepted and rejected are your decisions in
    the ledger.
    """

    analysis = CommandAnalysis(source, reading, ledger, blanks, largest, prompt=False, budget=budget)
    if map_file:
        from pravix.pictures.rules_map import write_rules_map

        name = analysis.source.account.name
        write_rules_map(analysis.relation.names, analysis.judgement, name, map_file, analysis.confidence)
    if as_json:
        print_json(_document(analysis, None if show_all else MOST_LISTED))
    else:
        _show(analysis, standing, show_all)


def _document(analysis: CommandAnalysis, most: int | None) -> dict[str, object]:
    found = analysis.discovery
    document = {
        "format": "pravix.dependencies",
        "version": 1,
        "source": source_document(analysis.relation),
        "complete": found.complete,
        "dependencies": _rules(analysis),
        "near_dependencies": _near_rules(analysis, most),
    }
    if analysis.parts:
        document["parts"] = [
            {
                "of": part.rows.names.bundle.column,
                "row_key": list(part.rows.key),
                "dependencies": _rules_of_parts(part),
                "near_dependencies": _near_rules(part, most),
            }
            for part in analysis.parts
        ]
    if not found.complete:
        document["searched_to"] = found.searched_to
    return document


def _rules(judged: Judged) -> Entries:
    """Return every rule of the file's rows as JSON."""
    from pravix.document.rules_in_bulk import rules_as_json

    return Entries(rules_as_json(judged.judgement, judged.relation.names, judged.confidence, in_json))


def _rules_of_parts(judged: Judged) -> list[dict[str, object]]:
    names, judgement = judged.relation.names, judged.judgement
    return [rule_document(one, judgement, names, judged.confidence) for one in judgement.rules]


def _near_rules(judged: Judged, most: int | None) -> list[NearDocument | BrokenRule]:
    """Return the rules that hold but for a few rows, and the accepted ones that rows break."""
    names, judgement = judged.relation.names, judged.judgement
    near = [near_document(one, judgement, names, most) for one in judged.near]
    listed = {one.rule for one in judged.near}
    broken = [
        exception_document(judged.relation, rule, most) for rule in judgement.accepted if rule not in listed
    ]
    return [*near, *(entry for entry in broken if entry.exceptions)]


def _show(analysis: CommandAnalysis, standing: str | None, show_all: bool) -> None:
    screen = Screen()
    everything: tuple[Judged, ...] = (analysis, *analysis.parts)
    screen.line(str(analysis.source.account))
    _show_rules(screen, analysis, "the rows", standing, show_all)
    if analysis.discovery.searched_to is not None:
        searched = counted(analysis.discovery.searched_to, "column")
        screen.note(f"Searched completely up to determinants of {searched}.")
    for part in analysis.parts:
        screen.heading(f"The parts of {part.rows.names.bundle.column}, a row for each")
        _show_rules(screen, part, f"the {part.relation.total:,} parts", standing, show_all)
    if not show_all and not standing:
        screen.line()
        screen.note(_CAME_AGAIN)
        doubtful = sum(one.judgement.rules.counts[Standing.DOUBTFUL] for one in everything)
        if doubtful:
            told = counted(doubtful, "doubtful rule")
            screen.note(f"{told} not shown; --standing doubtful shows them.")
    for judged in everything:
        _show_near(screen, judged)
    for judged in everything:
        _show_broken(screen, judged)


def _show_broken(screen: Screen, judged: Judged) -> None:
    """Write the rules that were accepted and that rows break."""
    for rule in judged.judgement.accepted:
        broken = exception_document(judged.relation, rule)
        if broken.exceptions:
            rows_named = ", ".join(map(str, broken.rows[:_ROWS_NAMED]))
            count = counted(broken.exceptions, "row")
            screen.line(f"Accepted, but broken by {count}: {rule} (rows {rows_named}).", style="bold red")


def _show_rules(screen: Screen, judged: Judged, where: str, standing: str | None, show_all: bool) -> None:
    """Write how many rules there are in some rows, and those of them that are asked for."""
    rules = judged.judgement.rules
    counts = rules.counts
    told = [f"{counts[state]:,} {state.value}" for state in Standing if counts[state]]
    screen.line(f"{counted(len(rules), 'minimal rule')} in {where}: {joined(told)}.")
    screen.line()
    if show_all or standing:
        chosen = rules if show_all else rules.of(Standing(standing or Standing.BELIEVED))
        _show_each(screen, iter(chosen), judged, show_all)
        return
    _show_trusted(screen, judged)


def _show_near(screen: Screen, judged: Judged) -> None:
    """Write the rules that hold but for a few rows, with the first of these rows."""
    near = [one for one in judged.near if one.rule not in judged.judgement.accepted]
    if not near:
        return
    screen.heading("Rules that hold but for a few rows")
    names = judged.relation.names
    rows = [
        [
            written_in_order(one.rule, names),
            f"{one.exceptions:,}",
            _rows_named(one.rows),
            f"{verbatim(cell.now, 24)} for {verbatim(cell.instead, 24)}",
            cell.oddity.value,
        ]
        for one in near[:_NEAR_SHOWN]
        for cell in one.odd[:1]
    ]
    screen.table(["Rule", "Rows", "Which", "First", "It"], rows, numbers=["Rows"])
    if len(near) > _NEAR_SHOWN:
        screen.note(f"{len(near) - _NEAR_SHOWN} more; --json lists all.")
    screen.note("pravix decide asks about them; pravix repair --write-patch proposes corrections.")


def _rows_named(rows: Sequence[int]) -> str:
    return ", ".join(map(str, rows[:_ROWS_NAMED])) + (" ..." if len(rows) > _ROWS_NAMED else "")


def _show_each(screen: Screen, chosen: Iterator[JudgedRule], among: Judged, show_all: bool) -> None:
    """Write rules with their reasons, some thousands at a time."""
    while part := list(islice(chosen, _AT_A_TIME)):
        rows = _with_reasons(part, among)
        shown = rows if show_all else rows[:_SHOWN]
        screen.table(["Determinant", "Dependents", "Standing", "Why"], shown)
        if len(shown) < len(rows):
            screen.line()
            screen.note(f"The first {counted(len(shown), 'line')}; --all shows every rule.")
            break


def _show_trusted(screen: Screen, among: Judged) -> None:
    """Write the rules that the design may rest on, a line for each determinant and way of counting."""
    names = among.relation.names
    lines: dict[tuple[frozenset[str], Standing, tuple[str, ...]], list[JudgedRule]] = {}
    for judged in _in_header_order(among.judgement.rules.of(Standing.BELIEVED, Standing.ACCEPTED), names):
        observed = judged.evidence.observed if judged.evidence else ()
        lines.setdefault((judged.rule.determinant, judged.standing, observed), []).append(judged)
    rows = []
    for (determinant, state, observed), group in lines.items():
        found = [judged.evidence for judged in group if judged.evidence is not None]
        tests = min((evidence.tests for evidence in found), default=0)
        seen = f"{found[0].observations:,} {', '.join(observed)}" if observed else "all rows"
        rows.append(
            [
                ", ".join(in_order(determinant, names)) or "(nothing)",
                ", ".join(judged.rule.dependent for judged in group),
                state.value,
                f"{tests:,}" if tests else "-",
                seen if tests else reason(group[0], among.judgement, names),
            ]
        )
    screen.table(
        ["Determinant", "Dependents", "Standing", "Came again", "Looked at"], rows, numbers=["Came again"]
    )


def _with_reasons(chosen: Iterable[JudgedRule], among: Judged) -> list[list[str]]:
    """Return a line for each determinant, standing and reason, with all dependents that share them."""
    names = among.relation.names
    lines: dict[tuple[frozenset[str], str, str], list[str]] = {}
    for judged in _in_header_order(chosen, names):
        why = reason(judged, among.judgement, names)
        dependents = lines.setdefault((judged.rule.determinant, judged.standing.value, why), [])
        dependents.append(judged.rule.dependent)
    return [
        [", ".join(in_order(determinant, names)) or "(nothing)", ", ".join(dependents), state, why]
        for (determinant, state, why), dependents in lines.items()
    ]


def _in_header_order(rules: Iterable[JudgedRule], header: Sequence[str]) -> list[JudgedRule]:
    """Return rules by the size of the determinant, then by the places of its columns."""
    place = {name: number for number, name in enumerate(header)}

    def key(judged: JudgedRule) -> tuple[int, list[int]]:
        places = sorted(place[name] for name in judged.rule.determinant)
        return len(places), places

    return sorted(rules, key=key)
