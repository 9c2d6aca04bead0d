"""A new file held against a design and what is stored of it, and its good rows loaded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from pravix.folder.reader import Folder
from pravix.validation.finding import About, Violation
from pravix.validation.new_rows import ArrivedRows, stored_rows
from pravix.validation.violations import violations_of


@dataclass(frozen=True)
class Checked:
    """What was found in the rows of a new file; ``added`` says how many rows each table got.

    ``stored`` are the rows that it was compared with: of the database it goes to, else of the folder.
    """

    stored: ArrivedRows
    new: ArrivedRows
    violations: Sequence[Violation]
    added: dict[str, int]

    @property
    def bad(self) -> ArrivedRows:
        """The rows that are not loaded, because something is to be looked at."""
        return self.new.numbered({row for one in self.violations if one.keeps_out for row in one.rows})

    @property
    def there(self) -> int:
        """How many rows are stored already, just as they came."""
        return len(self.new) - len(self.bad) - len(self.good)

    @property
    def good(self) -> ArrivedRows:
        """The rows about which nothing is to be said."""
        return self.new.numbered({row for one in self.violations for row in one.rows}, others=True)


@dataclass(frozen=True)
class CheckedInPlace:
    """What was found in ``rows`` new rows; ``unseen`` says what could not be looked at."""

    rows: int
    violations: Sequence[Violation]
    unseen: Sequence[str]


def checked(folder: Folder, new: ArrivedRows, url: str | None = None) -> Checked:
    """Hold new rows against a design; with a ``url`` against what that database holds, and load good ones.

    What the database refuses all the same becomes a finding of its row, and the others get in. Raises
    InputError, with nothing changed, where the database cannot be used.
    """
    if url is None:
        stored = stored_rows(folder)
        return Checked(stored, new, violations_of(folder.design, stored, new), {})
    from pravix.validation.inserting import opened_store

    with opened_store(folder, url) as store:
        stored = store.rows()
        found = Checked(stored, new, violations_of(folder.design, stored, new), {})
        added, refused = store.add(found.good)
    told = [
        Violation(About.REFUSED, f"row {one.row} is refused: {one.reason}", (one.row,)) for one in refused
    ]
    return replace(found, violations=[*found.violations, *told], added=added)
