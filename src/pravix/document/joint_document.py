"""One design for several sources as one document, in the form of a design for one.

``parts`` holds the design of each source in the names of the joint tables, so that the rows of each can be
given back and proved; see docs/json.md.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pravix.design.account import account_of
from pravix.design.joint import Joint
from pravix.design.joint_telling import remarks_told
from pravix.document.checked import VERSION
from pravix.document.design_document import design_document, table_document
from pravix.judgement.decisions import in_words
from pravix.ledger.meanings import Meaning


def told_together(document: Mapping[str, Any]) -> dict[str, Any]:
    """Return a joint design with what is told of each source as one story, each entry after its source."""
    parts: Mapping[str, Mapping[str, Any]] = document["parts"]

    def each(key: str) -> list[dict[str, Any]]:
        return [
            {**entry, "text": f"{source}: {entry['text']}"}
            for source, part in parts.items()
            for entry in part[key]
        ]

    rows = sum(part["source"]["rows"] for part in parts.values())
    columns = [f"{source}.{name}" for source, part in parts.items() for name in part["source"]["columns"]]
    return {
        **document,
        "source": {"rows": rows, "columns": columns},
        "roles": [f"{source}: {text}" for source, part in parts.items() for text in part["roles"]],
        "anomalies": [f"{source}: {text}" for source, part in parts.items() for text in part["anomalies"]],
        "repairs": each("repairs"),
        "steps": each("steps"),
        "untaken": each("untaken"),
        "findings": _findings(parts),
    }


def _findings(parts: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    found = {source: part["findings"] for source, part in parts.items()}
    named = {
        key: [{**one, name: f"{source}: {one[name]}"} for source, own in found.items() for one in own[key]]
        for key, name in (("evidence", "rule"), ("decisions", "rule"), ("questions", "text"))
    }
    near = [
        {**one, "determinant": [f"{source}: {one['determinant'][0]}", *one["determinant"][1:]]}
        for source, own in found.items()
        for one in own["near_dependencies"]
    ]
    return {"read": "", **named, "near_dependencies": near}


def joint_document(joint: Joint, meanings: Mapping[str, Sequence[Meaning]]) -> dict[str, Any]:
    """Return a joint design as nested dictionaries and lists; ``meanings`` come from each ledger."""
    parts = {name: design_document(part, meanings.get(name, ())) for name, part in joint.parts.items()}
    return {
        "format": "pravix.design",
        "version": VERSION,
        "tables": [_table(table.name, joint, parts) for table in joint.tables],
        "numbering": "table",
        "parts": parts,
        "rules": {
            table: [{"determinant": sorted(rule.determinant), "dependent": rule.dependent} for rule in rules]
            for table, rules in joint.rules.items()
        },
        "account": _account(joint),
        "remarks": [
            {"about": about, "table": table, "text": text} for about, table, text in remarks_told(joint)
        ],
    }


def _table(name: str, joint: Joint, parts: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    """Return a table with where its columns come from and what the sources' ledgers say they mean."""
    table = next(one for one in joint.tables if one.name == name)
    document = table_document(table, joint.tables, ())
    pieces = [one for part in parts.values() for one in part["tables"] if one["name"] == name]
    least = min((piece["confidence"] for piece in pieces), default=1.0)
    document |= {"confidence": least, "confidence_told": in_words(least)}
    said = [column for piece in pieces for column in piece["columns"]]
    for column in document["columns"]:
        column["origins"] = list(joint.origins[name].get(column["name"], ()))
        for key in ("meaning", "codes"):
            told = next((one[key] for one in said if one["name"] == column["name"] and key in one), None)
            if told is not None:
                column[key] = told
    meaning = next((piece["meaning"] for piece in pieces if "meaning" in piece), None)
    document |= {"meaning": meaning} if meaning else {}
    return document | {"sources": list(joint.sources_of(name))}


def _account(joint: Joint) -> dict[str, Any]:
    """Return what each table buys and costs: what its sources' designs save, and what merging saves."""
    accounts = {source: account_of(part) for source, part in joint.parts.items()}
    tables = []
    for table in joint.tables:
        own = [one for account in accounts.values() for one in account.tables if one.table.name == table.name]
        stores = table.rows.row_count * len(table.columns)
        saves = sum(one.saves + one.stores for one in own) - stores
        tables.append(
            {
                "table": table.name,
                "rows": table.rows.row_count,
                "saves": saves,
                "stores": stores,
                "joins": sum(one.joins for one in own),
                "form": table.form.value,
            }
        )
    return {
        "cells_before": sum(account.cells_before for account in accounts.values()),
        "cells_after": sum(one["stores"] for one in tables),
        "joins": sum(account.joins for account in accounts.values()),
        "tables": tables,
    }
