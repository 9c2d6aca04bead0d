"""The design as one JSON document, as described in docs/json.md."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from pravix.atomic.finding import Finding
from pravix.design.account import account_of
from pravix.design.checks import check_told
from pravix.design.excerpt import excerpt
from pravix.design.links import link_told
from pravix.design.model import Design, Repetition, Step, Table, TableColumn
from pravix.design.telling import (
    BROKEN_FORM,
    anomalies,
    flat_anomalies,
    proof_lines,
    repairs_told,
    repeated,
    roles_told,
    why,
)
from pravix.document import row_hashes
from pravix.document.checked import VERSION
from pravix.document.rebuilding import rebuild_document
from pravix.document.source import source_document
from pravix.judgement.decisions import in_words
from pravix.ledger.meanings import Meaning, meaning_of
from pravix.relation.types import column_type
from pravix.theory.dependency import in_order

_EXAMPLES = 3


def finding_document(finding: Finding) -> dict[str, Any]:
    """Return a finding; ``answers`` is empty where nothing is to be decided."""
    return {
        "id": finding.id,
        "topic": finding.topic.value,
        "columns": list(finding.columns),
        "told": finding.told,
        "sure": round(finding.sure, 2),
        "rows": list(finding.rows),
        "question": finding.question,
        "answers": list(finding.answers),
        "preview": [list(row) for row in finding.preview],
    }


def design_document(design: Design, meanings: Sequence[Meaning] = ()) -> dict[str, Any]:
    """Return a design as nested dictionaries and lists that JSON can hold, with what its parts mean."""
    proof = design.proof
    header = design.relation.names
    return {
        "format": "pravix.design",
        "version": VERSION,
        "source": source_document(design.repaired.original),
        "complete": design.searched_to is None,
        **({} if design.searched_to is None else {"searched_to": design.searched_to}),
        "main": design.main,
        "row_key": {
            "columns": list(design.row_key),
            "confidence": round(design.sure_of_key, 3),
            "confidence_told": in_words(design.sure_of_key),
        },
        "tables": [table_document(table, design.tables, meanings) for table in design.tables],
        "dependencies": [
            {
                "determinant": in_order(rule.determinant, tuple(dict.fromkeys((*header, *design.row_key)))),
                "dependent": rule.dependent,
                "confidence": round(design.sure_of_rules.get(rule, 1.0), 3),
            }
            for rule in design.cover
        ],
        "repairs": [
            {"columns": list(repair.columns), "text": repair.told} for repair in repairs_told(design)
        ],
        "roles": roles_told(design),
        "steps": [_step(step, design) for step in design.steps],
        "untaken": [_step(step, design) for step in design.untaken],
        "anomalies": flat_anomalies(design),
        "account": _account(design),
        "proof_told": [{"holds": holds, "claim": claim} for holds, claim in proof_lines(design)],
        "remarks": [asdict(remark) for remark in design.remarks],
        "rows_mark": _rows_mark(design),
        "flat": _flat(design),
        "rebuild": rebuild_document(design),
        "numbering": design.wishes.numbering,
        "proof": {
            "lossless": proof.lossless,
            "preserves_dependencies": not proof.lost_dependencies,
            "third_normal_form": not proof.below_third,
            "references_hold": not proof.broken_links,
            "roles_hold": not proof.broken_roles,
            "numbers_hold": not proof.broken_numbers,
            "wished_below": list(proof.wished_below),
            "rejoined_rows": proof.rejoined_rows,
            "missing_rows": list(proof.missing_rows),
            "unrepaired_rows": list(proof.unrepaired_rows),
        },
    }


def _account(design: Design) -> dict[str, Any]:
    """Return what each table buys and costs."""
    account = account_of(design)
    return {
        "cells_before": account.cells_before,
        "cells_after": account.cells_after,
        "joins": account.joins,
        "tables": [
            {
                "table": one.table.name,
                "rows": one.table.rows.row_count,
                "saves": one.saves,
                "stores": one.stores,
                "joins": one.joins,
                "form": one.table.form.value,
            }
            for one in account.tables
        ],
    }


def _flat(design: Design) -> dict[str, Any]:
    """Return the types of the file's columns, and the marks that its rows must have by value and by text."""
    original = design.repaired.original
    types = [str(column_type(column)) for column in original.columns]
    return {
        "types": types,
        "mark": row_hashes.of_relation(original, types).mark,
        "text_mark": row_hashes.of_relation(original, row_hashes.as_written(types)).mark,
    }


def _rows_mark(design: Design) -> dict[str, Any]:
    """Return the mark by which the joined tables are known again, and the columns that it covers."""
    types = {
        flat: str(column.type)
        for table in reversed(design.tables)
        if table.made_from is None
        for flat, name in table.flat_names.items()
        for column in table.columns
        if column.name == name
    }
    columns = [name for name in design.relation.names if name in types]
    whole = columns == list(design.relation.names)
    rows = design.relation if whole else design.relation.project(columns)
    hashes = row_hashes.of_relation(rows, [types[name] for name in columns])
    size = hashes.block_size()
    return {"columns": columns, "mark": hashes.mark, "block_rows": size, "blocks": hashes.blocks(size)}


def table_document(table: Table, tables: Sequence[Table], meanings: Sequence[Meaning]) -> dict[str, Any]:
    """Return a table of a design, its links told in both directions, with what the meanings say of it."""
    document = {
        "name": table.name,
        "columns": [
            {
                "name": column.name,
                "source": column.source,
                "type": str(column.type),
                "nullable": column.nullable,
                "kind": column.type.kind.value,
                "length": column.type.length,
                "digits": column.type.digits,
                "scale": column.type.scale,
                "iso": column.type.iso,
                "examples": list(table.rows.column(column.name).present_values[:_EXAMPLES]),
                **_column_meaning(table, column, meanings),
                **({} if column.stands_for == column.name else {"stands_for": column.stands_for}),
            }
            for column in table.columns
        ],
        "primary_key": list(table.primary_key),
        "candidate_keys": [list(key) for key in table.keys],
        "foreign_keys": [
            {
                "columns": list(link.columns),
                "references": {"table": link.table, "columns": list(link.references)},
                "cardinality": link.cardinality,
                "on_delete": link.on_delete,
                "on_update": link.on_update,
                "told": link_told(table, link, tables),
                **({"role": link.role} if link.role else {}),
            }
            for link in table.foreign_keys
        ],
        "normal_form": table.form.value,
        "confidence": round(table.confidence, 3),
        "confidence_told": in_words(table.confidence),
        "rows": table.rows.row_count,
        "checks": [{**asdict(check), "told": check_told(check)} for check in table.checks],
    }
    meaning = meaning_of(meanings, table=table.name)
    if meaning:
        document["meaning"] = meaning
    if table.apart_from:
        document["apart_from"] = table.apart_from
    if table.surrogate:
        document["surrogate"] = table.surrogate
    if table.roles:
        document["roles"] = [{"role": role.name, "columns": dict(role.columns)} for role in table.roles]
    if table.made_from is not None:
        document["repairs"] = {
            "made_from": table.made_from.kind,
            "columns": list(table.made_from.columns),
            "separator": table.made_from.separator,
        }
    return document


def _column_meaning(table: Table, column: TableColumn, meanings: Sequence[Meaning]) -> dict[str, Any]:
    """Return the meaning of a column and of its codes, where the ledger has them."""
    flat = [name for name, own in table.flat_names.items() if own == column.name]
    names = [*flat, *([column.source] if column.source else [])]
    told = next((text for name in names if (text := meaning_of(meanings, column=name))), "")
    codes = {one.value: one.text for one in meanings if one.value and one.column in names}
    return {**({"meaning": told} if told else {}), **({"codes": codes} if codes else {})}


def _step(step: Step, design: Design) -> dict[str, Any]:
    return {
        "determinant": list(step.determinant),
        "dependents": list(step.moved),
        "kind": step.breach.value,
        "breaks": BROKEN_FORM[step.breach],
        "from": step.from_table,
        "to": step.to_table,
        "stated_before": step.stored_before,
        "stated_now": step.stored_now,
        "cells_saved": step.cells_saved,
        "example": _example(step.repetition),
        "rows": asdict(excerpt(design.relation, step)),
        "anomalies": asdict(anomalies(step, design.row_key)),
        "text": f"{why(step, design.row_key)} {repeated(step)}",
    }


def _example(example: Repetition | None) -> dict[str, Any] | None:
    if example is None:
        return None
    return {
        "key": list(example.key),
        "facts": list(example.facts),
        "times": example.times,
        "rows": list(example.rows),
    }
