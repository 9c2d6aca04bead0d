"""Pravix: from a flat file to third-normal-form tables, every step explained and proved."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pravix.notebook import (
        DesignReview,
        Listing,
        OpenedFolder,
        Sheet,
        SheetDesign,
        Sheets,
        SheetsDesign,
        open_folder,
        read,
        read_all,
        review,
        write_demo,
    )

__version__ = "0.1.0"

__all__ = [
    "DesignReview",
    "Listing",
    "OpenedFolder",
    "Sheet",
    "SheetDesign",
    "Sheets",
    "SheetsDesign",
    "__version__",
    "open_folder",
    "read",
    "read_all",
    "review",
    "write_demo",
]


def __getattr__(name: str) -> object:
    """Load the Python API when it is first asked for: the command line does without."""
    if name in __all__:
        from pravix import notebook

        return getattr(notebook, name)
    raise AttributeError(f"module 'pravix' has no attribute {name!r}")
