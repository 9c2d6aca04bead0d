"""What every document says of its source."""

from __future__ import annotations

from pravix.document.model import SourceDocument
from pravix.relation.relation import Relation


def source_document(relation: Relation) -> SourceDocument:
    """Return the part that says which rows and columns a document is about."""
    return SourceDocument(rows=relation.row_count, columns=relation.names)
