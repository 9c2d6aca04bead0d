"""What is to be said of several tables and their links: mistakes that people make."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

from pravix.discovery.inclusions import Columns, Tables
from pravix.judgement.linking import Linked
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.relation.words import words
from pravix.wording import counted, joined

_SAME_SHAPE = 0.75
_OVERLAP = 0.1
_LEAST_VALUES = 5
_NAMED = 4


@dataclass(frozen=True)
class LinkRemark:
    """One remark on some tables.

    ``about`` is ``orphans``, ``types``, ``unlinked``, ``circle``, ``same kind``, ``two names`` or
    ``key to key``.
    """

    about: str
    tables: tuple[str, ...]
    text: str


def link_remarks(relations: Mapping[str, Relation], found: Linked) -> list[LinkRemark]:
    """Return the remarks on tables and links, the gravest first. Linear in the values, for each pair."""
    return [
        *_orphans(found),
        *_types(relations, found),
        *_circles(found),
        *_keys_to_keys(found),
        *_same_kind(relations, found),
        *_two_names(relations, found),
        *_unlinked(relations, found),
    ]


def _orphans(found: Linked) -> list[LinkRemark]:
    remarks = []
    for link in found.links:
        one = link.inclusion
        if not one.exact:
            lacking = counted(len(one.orphans), "value")
            find = "finds" if len(one.orphans) == 1 else "find"
            told = one.orphans_told(_NAMED)
            text = f"{one.here} refers to {one.there}, but {lacking} {find} nothing there: {told}"
            remarks.append(LinkRemark("orphans", (one.here.table, one.there.table), text))
    return remarks


def _types(relations: Mapping[str, Relation], found: Linked) -> list[LinkRemark]:
    remarks = []
    for link in found.links:
        here, there = link.inclusion.here, link.inclusion.there
        for one, other in zip(here.names, there.names, strict=True):
            mine = column_type(relations[here.table].column(one))
            key = column_type(relations[there.table].column(other))
            if mine.kind is not key.kind:
                ends = f"{here.table}.{one} is {mine}, {there.table}.{other} is {key}"
                text = f"{ends}: both ends of a link need one type"
                remarks.append(LinkRemark("types", (here.table, there.table), text))
    return remarks


def _circles(found: Linked) -> list[LinkRemark]:
    import networkx

    graph = networkx.DiGraph()
    graph.add_edges_from((link.inclusion.here.table, link.inclusion.there.table) for link in found.links)
    remarks = []
    for circle in networkx.simple_cycles(graph, length_bound=6):
        if len(circle) > 1:
            text = f"{joined(circle)} refer to each other in a circle: which row can be entered first?"
            remarks.append(LinkRemark("circle", tuple(circle), text))
    return remarks


def _keys_to_keys(found: Linked) -> list[LinkRemark]:
    remarks = []
    for link in found.links:
        here, there = link.inclusion.here, link.inclusion.there
        if found.keys[here.table] and here.names == found.keys[here.table][0]:
            text = (
                f"{here} is the key of {here.table} and refers to {there}: one to one. "
                "Where several rows were meant for one, it must be no key"
            )
            remarks.append(LinkRemark("key to key", (here.table, there.table), text))
    return remarks


def _same_kind(relations: Mapping[str, Relation], found: Linked) -> list[LinkRemark]:
    """Return the pairs of tables with the same columns and some keys in common, or none that clash."""
    tables, remarks = Tables(relations), []
    for one, other in combinations(relations, 2):
        here, there = ({" ".join(words(name)) for name in relations[table].names} for table in (one, other))
        alike = len(here & there) >= _SAME_SHAPE * max(len(here), len(there))
        if not (alike and found.keys[one] and found.keys[other]):
            continue
        keys = [tables.values(Columns(table, found.keys[table][0])) for table in (one, other)]
        shared = len(keys[0] & keys[1])
        text = (
            f"{one} and {other} have the same columns and {counted(shared, 'key')} in common: "
            "do they hold one kind of thing? Then one table with a column for the role would do"
        )
        remarks.append(LinkRemark("same kind", (one, other), text))
    return remarks


def _two_names(relations: Mapping[str, Relation], found: Linked) -> list[LinkRemark]:
    """Return columns of different tables that hold the same values under names that share no word."""
    tables, remarks = Tables(relations), []
    known = {frozenset((link.inclusion.here, link.inclusion.there)) for link in found.links}
    target = {link.inclusion.here: link.inclusion.there for link in found.links}
    texts = [
        one
        for one in tables.columns
        if len(tables.values(one)) >= _LEAST_VALUES
        and not all(str(value).lstrip("-").isdigit() for value in list(tables.values(one))[:20])
    ]
    for one, other in combinations(texts, 2):
        both = target.get(one) is not None and target.get(one) == target.get(other)
        if one.table == other.table or both or frozenset((one, other)) in known:
            continue
        here, there = tables.values(one), tables.values(other)
        named_alike = set(words(one.names[0])) & set(words(other.names[0]))
        if not named_alike and len(here ^ there) <= _OVERLAP * len(here | there):
            text = f"{one} and {other} hold the same {len(here & there)} values under two names"
            remarks.append(LinkRemark("two names", (one.table, other.table), text))
    return remarks


def _unlinked(relations: Mapping[str, Relation], found: Linked) -> list[LinkRemark]:
    ends = [(link.inclusion.here.table, link.inclusion.there.table) for link in found.links]
    tied = {table for pair in ends for table in pair}
    text = "is linked to nothing: is a column missing that refers to it?"
    lonely = [table for table in relations if table not in tied and len(relations) > 1]
    return [LinkRemark("unlinked", (table,), f"{table} {text}") for table in lonely]
