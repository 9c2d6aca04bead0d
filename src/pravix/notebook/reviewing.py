"""Designs made by hand, or in the catalogue of a database, reviewed."""

from __future__ import annotations

from pathlib import Path

from pravix.design.comparing import compared
from pravix.errors import InputError
from pravix.notebook.listing import Listing
from pravix.services import reviewing
from pravix.wording import joined


def review(
    *designs: str | Path,
    data: str | None = None,
    sentences: str | None = None,
    ledger: str | None = None,
) -> DesignReview:
    """Review relations written by hand, or the tables of a database; several are set side by side.

    ``data`` is a file whose rows may disagree, ``sentences`` one whose words the tables may cover, ``ledger``
    one with synonyms. Raises InputError.
    """
    if not designs:
        raise InputError("there is no design to review", "Give a file, or the URL of a database.")
    read = reviewing.read_designs([str(design) for design in designs])
    accounts = compared(read) if len(read) > 1 else []
    side_by_side = Listing(
        ("Design", "Tables", "Columns", "References", "Repeats"),
        tuple(
            (one.name, str(one.tables), str(one.columns), str(one.joins), "; ".join(one.repeated))
            for one in accounts
        ),
    )
    first = next(iter(read.values()))
    return DesignReview(reviewing.review(first, data, sentences, ledger), side_by_side)


class DesignReview:
    """What is to be said of a design (of the first, where there are several)."""

    def __init__(self, found: reviewing.Reviewed, side_by_side: Listing) -> None:
        self._found = found
        self.side_by_side = side_by_side

    def __repr__(self) -> str:
        return repr(self.side_by_side if self.side_by_side else self.tables)

    @property
    def sound(self) -> bool:
        """Whether every table is in third normal form, and no link or rule is broken."""
        return self._found.sound

    @property
    def tables(self) -> Listing:
        """The candidate keys and the normal form of each table, and why it is in none higher."""
        rows = [
            (
                one.table.name,
                joined([", ".join(key) for key in one.keys], "or"),
                one.form.value,
                " ".join(one.reasons),
            )
            for one in self._found.tables
        ]
        return Listing(("Table", "Candidate keys", "Form", "Because"), tuple(rows))

    @property
    def objections(self) -> Listing:
        """What is wrong between the tables and in their names, keys and types."""
        rows = [(one.about, one.table, one.text) for one in self._found.objections]
        return Listing(("About", "Table", "Text"), tuple(rows))

    @property
    def agreements(self) -> Listing:
        """Whether the rows of the data agree with each rule."""
        rows = [("holds" if not one.broken else "BROKEN", one.text) for one in self._found.rules]
        return Listing(("", "Rule"), tuple(rows))

    @property
    def words(self) -> Listing:
        """Where each word of the sentences is found in the tables; nowhere for those that are missing."""
        words = self._found.words
        covered = [] if words is None else [(one, joined(where)) for one, where in words.covered.items()]
        missing = [] if words is None else [(one, "nowhere") for one in words.missing]
        return Listing(("Word", "Where it is"), (*covered, *missing))
