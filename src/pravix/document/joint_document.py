"""One design for several sources as one document, in the form of a design for one.

``parts`` holds the design of each source in the names of the joint tables, so that the rows of each can be
given back and proved; see docs/json.md.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import TypeVar

from msgspec.structs import replace

from pravix.design.costs import costs_of
from pravix.design.joint import Joint
from pravix.design.joint_telling import remarks_told
from pravix.document.design_document import design_document, table_document
from pravix.document.design_file import VERSION
from pravix.document.model import ColumnDocument, JointDocument, PartDocument, RuleDocument, TableDocument
from pravix.document.story import BasisDocument, CostsDocument, RemarkDocument, TableCosts
from pravix.judgement.decisions import in_words
from pravix.ledger.meanings import Meaning

_T = TypeVar("_T")


def joint_document(
    joint: Joint, meanings: Mapping[str, Sequence[Meaning]], basis: Mapping[str, BasisDocument]
) -> JointDocument:
    """Return a joint design as a document; ``meanings`` and ``basis`` are those of each source."""
    parts = {
        name: design_document(part, meanings.get(name, ()), basis.get(name))
        for name, part in joint.parts.items()
    }
    return JointDocument(
        version=VERSION,
        tables=tuple(_table(table.name, joint, parts) for table in joint.tables),
        numbering="table",
        parts=parts,
        rules={
            table: tuple(
                RuleDocument(determinant=tuple(sorted(rule.determinant)), dependent=rule.dependent)
                for rule in rules
            )
            for table, rules in joint.rules.items()
        },
        account=_costs(joint),
        remarks=tuple(
            RemarkDocument(about=about, table=table, text=text) for about, table, text in remarks_told(joint)
        ),
    )


def _table(name: str, joint: Joint, parts: Mapping[str, PartDocument]) -> TableDocument:
    """Return a table with where its columns come from and what the sources' ledgers say they mean."""
    table = next(one for one in joint.tables if one.name == name)
    document = table_document(table, joint.tables, ())
    pieces = [one for part in parts.values() for one in part.tables if one.name == name]
    least = min((piece.confidence for piece in pieces), default=1.0)
    said = [column for piece in pieces for column in piece.columns]
    return replace(
        document,
        confidence=least,
        confidence_told=in_words(least),
        columns=tuple(
            _column(column, said, tuple(joint.origins[name].get(column.name, ())))
            for column in document.columns
        ),
        meaning=_first(piece.meaning for piece in pieces) or "",
        sources=tuple(joint.sources_of(name)),
    )


def _column(
    column: ColumnDocument, said: Sequence[ColumnDocument], origins: tuple[str, ...]
) -> ColumnDocument:
    own = [one for one in said if one.name == column.name]
    meaning, codes = _first(one.meaning for one in own), _first(one.codes for one in own)
    return replace(column, origins=origins, meaning=meaning or "", codes=codes or {})


def _first(found: Iterable[_T]) -> _T | None:
    """Return the first that says anything."""
    return next((one for one in found if one), None)


def _costs(joint: Joint) -> CostsDocument:
    """Return what each table buys and costs: what its sources' designs save, and what merging saves."""
    costs = {source: costs_of(part) for source, part in joint.parts.items()}
    tables = []
    for table in joint.tables:
        own = [one for part in costs.values() for one in part.tables if one.table.name == table.name]
        stores = table.rows.total * len(table.columns)
        tables.append(
            TableCosts(
                table=table.name,
                rows=table.rows.total,
                saves=sum(one.saves + one.stores for one in own) - stores,
                stores=stores,
                joins=sum(one.joins for one in own),
                form=table.form.value,
            )
        )
    return CostsDocument(
        cells_before=sum(part.cells_before for part in costs.values()),
        cells_after=sum(one.stores for one in tables),
        joins=sum(part.joins for part in costs.values()),
        tables=tuple(tables),
    )
