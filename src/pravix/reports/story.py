"""What a report tells of a design: of one source as it is, of several together, source by source."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from pravix.document.model import Document, JointDocument, PartDocument, TableDocument
from pravix.document.story import (
    BasisDocument,
    ClaimDocument,
    CostsDocument,
    RemarkDocument,
    StepDocument,
    ToldDocument,
)
from pravix.wording import counted

_T = TypeVar("_T")
_Entry = TypeVar("_Entry", bound=Struct)


@dataclass(frozen=True)
class Story:
    """What is told; ``subject`` says how much there was, ``files`` whether it was one file or several."""

    subject: str
    files: str
    tables: tuple[TableDocument, ...]
    account: CostsDocument
    remarks: tuple[RemarkDocument, ...]
    proof_told: tuple[ClaimDocument, ...]
    roles: tuple[str, ...]
    anomalies: tuple[str, ...]
    repairs: tuple[ToldDocument, ...]
    steps: tuple[StepDocument, ...]
    untaken: tuple[StepDocument, ...]
    basis: BasisDocument | None


def story_of(document: Document) -> Story:
    """Return what is told of a design."""
    if isinstance(document, JointDocument):
        return _together(document)
    rows, columns = document.source.rows, len(document.source.columns)
    return Story(
        f"{counted(rows, 'row')}, {counted(columns, 'column')}",
        "file",
        document.tables,
        document.account,
        document.remarks,
        document.proof_told,
        document.roles,
        document.anomalies,
        document.repairs,
        document.steps,
        document.untaken,
        document.basis,
    )


def _together(document: JointDocument) -> Story:
    """Return the stories of all sources as one, each entry after its source."""
    parts = document.parts

    def each(entries: Callable[[PartDocument], Iterable[str]]) -> tuple[str, ...]:
        return tuple(f"{source}: {text}" for source, part in parts.items() for text in entries(part))

    rows = sum(part.source.rows for part in parts.values())
    return Story(
        f"{counted(len(parts), 'file')} with {counted(rows, 'row')}",
        "files",
        document.tables,
        document.account,
        document.remarks,
        document.proof_told,
        each(lambda part: part.roles),
        each(lambda part: part.anomalies),
        tuple(_said(source, one) for source, part in parts.items() for one in part.repairs),
        tuple(_said(source, one) for source, part in parts.items() for one in part.steps),
        tuple(_said(source, one) for source, part in parts.items() for one in part.untaken),
        _findings({source: part.basis for source, part in parts.items() if part.basis is not None}),
    )


def _said(source: str, entry: _Entry, field: str = "text") -> _Entry:
    """Return an entry whose text names its source first."""
    return replace(entry, **{field: f"{source}: {getattr(entry, field)}"})


def _findings(found: dict[str, BasisDocument]) -> BasisDocument | None:
    if not found:
        return None
    return BasisDocument(
        read="",
        evidence=tuple(_said(name, one, "rule") for name, own in found.items() for one in own.evidence),
        decisions=tuple(_said(name, one, "rule") for name, own in found.items() for one in own.decisions),
        questions=tuple(_said(name, one) for name, own in found.items() for one in own.questions),
        near_dependencies=tuple(
            replace(one, determinant=(f"{name}: {one.determinant[0]}", *one.determinant[1:]))
            for name, own in found.items()
            for one in own.near_dependencies
        ),
    )
