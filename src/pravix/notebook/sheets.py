"""Several sources: the links among their tables, and one design for all."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from pravix.assembly import Assembly
from pravix.judgement.link_remarks import link_remarks
from pravix.judgement.linking import Linked, linked
from pravix.notebook.listing import Listing
from pravix.notebook.made import Made, claims_listed
from pravix.wording import counted

if TYPE_CHECKING:
    from pravix.document.model import JointDocument


def read_all(*sources: str | Path) -> Sheets:
    """Read several files, folders of files, workbooks and databases, to be linked and designed together.

    Each table has the decisions of the ledger beside its source. Raises InputError for fewer than two tables.
    """
    return Sheets(Assembly.of([str(source) for source in sources]))


class Sheets:
    """Several sources: the links among their tables, and one design for all."""

    def __init__(self, assembly: Assembly) -> None:
        self._assembly = assembly

    def __repr__(self) -> str:
        sizes = ((name, rows.row_count) for name, rows in self._assembly.relations.items())
        return "\n".join(f"{name}: {counted(count, 'row')}" for name, count in sizes)

    @cached_property
    def _linked(self) -> Linked:
        return linked(self._assembly.relations)

    @property
    def links(self) -> Listing:
        """Which columns refer to which keys, how surely (in bits), and how many values find nothing."""
        rows = [
            (str(one.here), str(one.there), f"{link.total:+.1f}", str(one.values - one.found))
            for link in self._linked.links
            for one in [link.inclusion]
        ]
        return Listing(("From", "To", "Bits", "Orphans"), tuple(rows))

    @property
    def remarks(self) -> Listing:
        """What is to be said of the links and the tables."""
        found = link_remarks(self._assembly.relations, self._linked)
        return Listing(
            ("About", "Tables", "Text"), tuple((one.about, ", ".join(one.tables), one.text) for one in found)
        )

    def diagram(self, path: str | Path, dark: bool = False) -> None:
        """Draw the tables as they are, with their links, into an SVG or PNG file."""
        from pravix.document.connections import connections_document
        from pravix.pictures.diagram import write_diagram

        document = connections_document(self._assembly.relations, self._linked, [])
        write_diagram(document.tables, str(path), dark)

    @property
    def design(self) -> SheetsDesign:
        """One design for all, the tables for the same things merged. Raises InputError."""
        return SheetsDesign(self._assembly)


class SheetsDesign(Made):
    """One design for several sources: its tables, what was merged and linked, and what can be made of it."""

    def __init__(self, assembly: Assembly) -> None:
        self._assembly = assembly

    @property
    def tables(self) -> Mapping[str, Listing]:
        """As said there."""
        tables = self._assembly.design.tables
        return {table.name: Listing(table.column_names, tuple(table.rows.rows())) for table in tables}

    @property
    def remarks(self) -> Listing:
        """What was merged, what differs, and which references were made or not."""
        rows = [(one.about, one.table, one.text) for one in self.document.remarks]
        return Listing(("About", "Table", "Text"), tuple(rows))

    @property
    def proof(self) -> Listing:
        """What was checked, and whether it holds."""
        return claims_listed(self._assembly.proof)

    @property
    def document(self) -> JointDocument:
        """The design as design.json has it, typed."""
        return self._assembly.document

    def write(self, path: str | Path) -> list[str]:
        """Write one folder for all and return the names of its files. Raises InputError."""
        return self._assembly.write(path)
