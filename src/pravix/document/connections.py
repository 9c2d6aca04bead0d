"""Several tables with their links as one document, which the diagram draws as it draws a design."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from pravix.discovery.inclusions import Columns
from pravix.judgement.link_remarks import LinkRemark
from pravix.judgement.linking import Link, Linked
from pravix.relation.grouping import blank_in, groups_by
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.wording import counted


def connections_document(
    relations: Mapping[str, Relation], found: Linked, remarks: Sequence[LinkRemark]
) -> dict[str, Any]:
    """Return tables, links and remarks as nested dictionaries and lists."""
    return {
        "format": "pravix.connections",
        "version": 1,
        "tables": [_table(name, relations, found) for name in relations],
        "links": [_link(link, relations, found) for link in found.links],
        "not_sure": [_link(link, relations, found) for link in found.doubtful],
        "remarks": [{"about": one.about, "tables": list(one.tables), "text": one.text} for one in remarks],
    }


def _table(name: str, relations: Mapping[str, Relation], found: Linked) -> dict[str, Any]:
    relation, keys = relations[name], found.keys[name]
    own = [link for link in found.links if link.inclusion.here.table == name]
    return {
        "name": name,
        "rows": relation.row_count,
        "columns": [
            {"name": column.name, "type": str(column_type(column)), "nullable": column.blanks > 0}
            for column in relation.columns
        ],
        "primary_key": list(keys[0]) if keys else [],
        "candidate_keys": [list(key) for key in keys],
        "foreign_keys": [
            {
                "columns": list(link.inclusion.here.names),
                "references": _end(link.inclusion.there),
                "cardinality": _cardinality(link, relations, found),
            }
            for link in own
        ],
    }


def _end(columns: Columns) -> dict[str, Any]:
    return {"table": columns.table, "columns": list(columns.names)}


def _cardinality(link: Link, relations: Mapping[str, Relation], found: Linked) -> str:
    here = link.inclusion.here
    single = any(set(key) <= set(here.names) for key in found.keys[here.table])
    optional = bool(blank_in(relations[here.table], here.names).any())
    return f"{'one' if single else 'many'} to {'zero or one' if optional else 'one'}"


def _link(link: Link, relations: Mapping[str, Relation], found: Linked) -> dict[str, Any]:
    one = link.inclusion
    return {
        "here": str(one.here),
        "there": str(one.there),
        "from": _end(one.here),
        "to": _end(one.there),
        "cardinality": _cardinality(link, relations, found),
        "told": _told(one.here, one.there, one.keys - one.found, relations),
        "bits": {
            "values": round(link.values, 1),
            "names": round(link.names, 1),
            "kinds": round(link.kinds, 1),
            "orphans": round(link.orphans, 1),
            "total": round(link.total, 1),
        },
        "orphans": [{"value": list(orphan.value), "rows": list(orphan.rows)} for orphan in one.orphans],
        "other_candidates": [
            {"there": str(other.inclusion.there), "bits": round(other.total, 1)}
            for other in found.others.get(one.here, ())
        ],
    }


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
