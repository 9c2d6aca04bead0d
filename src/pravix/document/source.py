"""What every document says of its source."""

from __future__ import annotations

from pravix.document.entry import Count, Entry, Filled
from pravix.relation.relation import Relation


class SourceDocument(Entry, frozen=True, kw_only=True):
    """The rows and columns of the flat file."""

    rows: Count
    columns: Filled


def source_document(relation: Relation) -> SourceDocument:
    """Return the part that says which rows and columns a document is about."""
    return SourceDocument(rows=relation.total, columns=relation.names)
