"""Texts that no spreadsheet runs."""

from __future__ import annotations

import re

_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def starts_formula(cell: str) -> bool:
    """Return whether a spreadsheet may take a text for a formula when it opens it."""
    return cell.startswith(_FORMULA)


def harmless(cell: str) -> str:
    """Return a text that no spreadsheet runs: with an apostrophe before it where it might be a formula.

    A plain number stays as it is.
    """
    if not starts_formula(cell) or re.fullmatch(r"[-+]?\d+(\.\d+)?", cell):
        return cell
    return f"'{cell}"
