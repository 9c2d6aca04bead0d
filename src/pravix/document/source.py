"""What every document says of its source."""

from __future__ import annotations

from typing import Any

from pravix.relation.relation import Relation


def source_document(relation: Relation) -> dict[str, Any]:
    """Return the part that says which rows and columns a document is about."""
    return {"rows": relation.row_count, "columns": list(relation.names)}
