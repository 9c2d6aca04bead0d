"""What is said of one design for several sources: what was merged, what differs, what was not linked."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.design.joint import Joint, Merge
from pravix.design.merging import Differing
from pravix.judgement.linking import Link
from pravix.theory.dependency import written_dependency
from pravix.wording import counted, joined, shortened

_NAMED = 3


def merge_told(merge: Merge) -> str:
    """Return what a merged table stands for, and which columns were found to be one."""
    members = joined([source for source, _ in merge.members])
    beside = [f"{source} keeps {own} beside it for its own rows" for source, own in merge.members if own]
    one = [" = ".join(names) for names in merge.same]
    told = f"{merge.table} holds what {members} say about one kind of thing"
    told += f"; {joined(beside)}" if beside else ""
    return f"{told}. One column now: {'; '.join(one)}."


def differing_told(merge: Merge, one: Differing) -> str:
    """Return for which things two columns differ, with the rows, and what to do about it."""
    examples = [
        f"{shortened(', '.join(example.key))} has {_cell(example.here)} in {one.source}{_row(example.row)} "
        f"and {_cell(example.there)} in {one.other_source}{_row(example.other_row)}"
        for example in one.examples[:_NAMED]
    ]
    more = f", and {one.count - len(examples):,} more" if one.count > len(examples) else ""
    return (
        f"{merge.table}.{one.column} and {merge.table}.{one.other} differ for "
        f"{counted(one.count, 'thing')}: {'; '.join(examples)}{more}. Both columns stay; "
        "correct what is wrong, and they become one."
    )


def _row(number: int) -> str:
    return f" (row {number})" if number else ""


def _cell(value: str) -> str:
    return shortened(value) if value else "a blank"


def links_told(joint: Joint) -> list[str]:
    """Return the references that were added between tables of different sources, and those that were not."""
    made = [f"{_ends(link)} is a reference now." for link in joint.links]
    made += [_broken_told(link) for link in joint.broken]
    for one in joint.unkept:
        here, there = ", ".join(one.link.columns), ", ".join(one.link.references)
        values = [", ".join(value) for value in one.values]
        made.append(_no_reference(f"{one.table}.{here} -> {one.link.table}.{there}", values, len(values)))
    return made


def _ends(link: Link) -> str:
    return f"{link.inclusion.here} -> {link.inclusion.there}"


def _broken_told(link: Link) -> str:
    one = link.inclusion
    values = [", ".join(orphan.value) for orphan in one.orphans]
    return _no_reference(_ends(link), values, one.values - one.found)


def _no_reference(ends: str, values: Sequence[str], lost: int) -> str:
    """Return that a reference was not made, with some of the ``lost`` values that find nothing."""
    verb = "finds" if lost == 1 else "find"
    named = [shortened(value) for value in values[:_NAMED]]
    told = f"{', '.join(named)}, ..." if lost > len(named) else joined(named)
    return f"{ends} is no reference: {counted(lost, 'value')} {verb} nothing there ({told})."


def doubts_told(joint: Joint) -> list[str]:
    """Return the rules of one source that rows of another break."""
    return [
        f"{table}: {written_dependency(sorted(rule.determinant), [rule.dependent])} holds in one source, "
        "and rows of another break it."
        for table, rule in joint.doubted
    ]


def remarks_told(joint: Joint) -> Sequence[tuple[str, str, str]]:
    """Return all that is to be looked at, as kind, table and text."""
    found = [("merged", merge.table, merge_told(merge)) for merge in joint.merges]
    found += [
        ("differing", merge.table, differing_told(merge, one))
        for merge in joint.merges
        for one in merge.differing
    ]
    tables = [link.inclusion.here.table for link in (*joint.links, *joint.broken)]
    tables += [one.table for one in joint.unkept]
    found += [("link", table, text) for table, text in zip(tables, links_told(joint), strict=True)]
    doubted = [table for table, _ in joint.doubted]
    return found + [("doubted", table, text) for table, text in zip(doubted, doubts_told(joint), strict=True)]
