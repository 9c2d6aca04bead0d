"""Several tables with their links as one document; a diagram draws them as it draws those of a design."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import field

from pravix.design.cardinality import Cardinality
from pravix.discovery.inclusions import Columns
from pravix.document.entry import Entry
from pravix.document.model import Reference
from pravix.judgement.link_remarks import LinkRemark
from pravix.judgement.linking import Link, Linked
from pravix.relation.grouping import blank_in, groups_by
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.wording import counted


class ConnectedColumn(Entry, frozen=True, kw_only=True):
    """A column of a table."""

    name: str
    type: str
    nullable: bool


class ConnectedKey(Entry, frozen=True, kw_only=True):
    """A reference from one table to another."""

    columns: tuple[str, ...]
    references: Reference
    cardinality: Cardinality


class ConnectedTable(Entry, frozen=True, kw_only=True):
    """A table as it was read, with the links that were found."""

    name: str
    rows: int
    columns: tuple[ConnectedColumn, ...]
    primary_key: tuple[str, ...]
    candidate_keys: tuple[tuple[str, ...], ...]
    foreign_keys: tuple[ConnectedKey, ...]


class LinkBits(Entry, frozen=True, kw_only=True):
    """What speaks for a link."""

    values: float
    names: float
    kinds: float
    orphans: float
    total: float


class Orphan(Entry, frozen=True, kw_only=True):
    """A value that refers to nothing, with its rows."""

    value: tuple[str, ...]
    rows: tuple[int, ...]


class OtherLink(Entry, frozen=True, kw_only=True):
    """Another key that the same columns may refer to."""

    there: str
    bits: float


class FoundLink(Entry, frozen=True, kw_only=True):
    """A link that was found."""

    here: str
    there: str
    source: Reference = field(name="from")
    target: Reference = field(name="to")
    cardinality: Cardinality
    told: str
    bits: LinkBits
    orphans: tuple[Orphan, ...]
    other_candidates: tuple[OtherLink, ...]


class LinkRemarkDocument(Entry, frozen=True, kw_only=True):
    """A remark about some tables."""

    about: str
    tables: tuple[str, ...]
    text: str


class ConnectionsDocument(Entry, frozen=True, kw_only=True):
    """Tables, their links, those that are not believed, and remarks."""

    tables: tuple[ConnectedTable, ...]
    links: tuple[FoundLink, ...]
    not_sure: tuple[FoundLink, ...]
    remarks: tuple[LinkRemarkDocument, ...]


def connections_document(
    relations: Mapping[str, Relation], found: Linked, remarks: Sequence[LinkRemark]
) -> ConnectionsDocument:
    """Return tables, links and remarks as a document."""
    return ConnectionsDocument(
        tables=tuple(_table(name, relations, found) for name in relations),
        links=tuple(_link(link, relations, found) for link in found.links),
        not_sure=tuple(_link(link, relations, found) for link in found.doubtful),
        remarks=tuple(
            LinkRemarkDocument(about=one.about, tables=tuple(one.tables), text=one.text) for one in remarks
        ),
    )


def _table(name: str, relations: Mapping[str, Relation], found: Linked) -> ConnectedTable:
    relation, keys = relations[name], found.keys[name]
    return ConnectedTable(
        name=name,
        rows=relation.row_count,
        columns=tuple(
            ConnectedColumn(name=column.name, type=str(column_type(column)), nullable=column.blanks > 0)
            for column in relation.columns
        ),
        primary_key=tuple(keys[0]) if keys else (),
        candidate_keys=tuple(map(tuple, keys)),
        foreign_keys=tuple(
            ConnectedKey(
                columns=tuple(link.inclusion.here.names),
                references=_end(link.inclusion.there),
                cardinality=_cardinality(link, relations, found),
            )
            for link in found.links
            if link.inclusion.here.table == name
        ),
    )


def _end(columns: Columns) -> Reference:
    return Reference(table=columns.table, columns=tuple(columns.names))


def _cardinality(link: Link, relations: Mapping[str, Relation], found: Linked) -> Cardinality:
    here = link.inclusion.here
    single = any(set(key) <= set(here.names) for key in found.keys[here.table])
    return Cardinality.of(single, bool(blank_in(relations[here.table], here.names).any()))


def _link(link: Link, relations: Mapping[str, Relation], found: Linked) -> FoundLink:
    one = link.inclusion
    return FoundLink(
        here=str(one.here),
        there=str(one.there),
        source=_end(one.here),
        target=_end(one.there),
        cardinality=_cardinality(link, relations, found),
        told=_told(one.here, one.there, one.keys - one.found, relations),
        bits=LinkBits(
            values=round(link.values, 1),
            names=round(link.names, 1),
            kinds=round(link.kinds, 1),
            orphans=round(link.orphans, 1),
            total=round(link.total, 1),
        ),
        orphans=tuple(Orphan(value=tuple(each.value), rows=tuple(each.rows)) for each in one.orphans),
        other_candidates=tuple(
            OtherLink(there=str(other.inclusion.there), bits=round(other.total, 1))
            for other in found.others.get(one.here, ())
        ),
    )


def _told(here: Columns, there: Columns, never: int, relations: Mapping[str, Relation]) -> str:
    """Return how many rows refer to one, and how many refer to none, in a sentence without its full stop."""
    relation = relations[here.table]
    blank = blank_in(relation, here.names)
    filled = relation.take(np.flatnonzero(~blank))
    counts = np.bincount(groups_by(filled, here.names)) if filled.row_count else np.zeros(1, dtype=np.intp)
    least, most = 0 if never > 0 else int(counts.min()), int(counts.max())
    many = f"{least:,} to {most:,} rows" if least < most else counted(most, "row")
    none = f"; {counted(int(blank.sum()), 'row')} of {here.table} refer to none" if blank.any() else ""
    return f"A row of {there.table} is referred to by {many} of {here.table}{none}"
