"""What a design in memory and one in a folder have in common: all that can be made of it."""

from __future__ import annotations

import tempfile
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from pravix.notebook.listing import Listing

if TYPE_CHECKING:
    from pravix.document.model import Document
    from pravix.folder.reader import Folder
    from pravix.loading.load import Loaded


class Made(ABC):
    """A design, and what can be made of it."""

    @property
    @abstractmethod
    def document(self) -> Document:
        """The design as design.json has it, typed."""

    @property
    @abstractmethod
    def tables(self) -> Mapping[str, Listing]:
        """The rows of each table, by name, in an order in which they can be loaded."""

    @contextmanager
    def _opened(self) -> Iterator[Folder]:
        """Give the folder of results, written for the moment where there is none."""
        from pravix.folder.reader import open_folder

        with tempfile.TemporaryDirectory() as folder:
            self.write(Path(folder) / "tables")
            yield open_folder(Path(folder) / "tables")

    @abstractmethod
    def write(self, path: str | Path) -> list[str]:
        """Write the folder of results and return the names of its files. Raises InputError."""

    @property
    def _told(self) -> Document:
        """The document with all that a report tells."""
        return self.document

    @property
    def overview(self) -> Listing:
        """A line for each table: rows, key, other columns, references, normal form."""
        rows = [
            (
                table.name,
                f"{table.rows:,}",
                ", ".join(table.primary_key),
                ", ".join(name for name in table.column_names if name not in table.primary_key),
                ", ".join(link.references.table for link in table.foreign_keys),
                table.normal_form,
            )
            for table in self.document.tables
        ]
        return Listing(("Table", "Rows", "Primary key", "Other columns", "Refers to", "Form"), tuple(rows))

    def __repr__(self) -> str:
        return repr(self.overview)

    def _repr_html_(self) -> str:
        return self.overview._repr_html_()

    def prove(self) -> Listing:
        """Repeat the proof from the files alone: each claim, and whether it holds."""
        from pravix.proof.proving import prove_folder

        with self._opened() as folder:
            return claims_listed(prove_folder(folder.path))

    def load(self, url: str, replace_tables: bool = False) -> Loaded:
        """Load the tables into a database, all or nothing."""
        from pravix.loading.load import load_folder

        with self._opened() as folder:
            return load_folder(folder, url, replace_tables)

    def sql(self, database: str = "sqlite", rows: bool = False) -> str:
        """Return the script that makes the tables in a database, with their rows if wished."""
        from pravix.databases.known import database as known
        from pravix.sql.schema import whole_script

        with self._opened() as folder:
            return "".join(whole_script(folder.fitted(known(database)), known(database), rows))

    def models(self, database: str = "sqlite") -> str:
        """Return the tables as classes of SQLAlchemy, a Python file."""
        from pravix.databases.known import database as known
        from pravix.sql.models import models

        with self._opened() as folder:
            return models(folder.fitted(known(database)).document, known(database))

    def diagram(self, path: str | Path, dark: bool = False) -> None:
        """Draw the diagram into an SVG, PNG or PDF file, or write it as text (.mmd, .dot, .txt, .html)."""
        from pravix.pictures.diagram import write_diagram
        from pravix.pictures.diagram_text import TEXTS
        from pravix.writing import write_text

        ending = Path(path).suffix.lower()
        if ending in TEXTS:
            write_text(Path(path), [TEXTS[ending](self.document.tables)])
        else:
            write_diagram(self.document.tables, str(path), dark)

    def report(self, path: str | Path, title: str = "Tables") -> None:
        """Write the report as one HTML page, or as Markdown (.md)."""
        from pravix.reports.report import report_html, report_markdown
        from pravix.writing import write_text

        written = report_markdown if Path(path).suffix.lower() == ".md" else report_html
        write_text(Path(path), [written(self._told, title)])

    def dictionary(self, path: str | Path) -> None:
        """Write the data dictionary as Markdown (.md), CSV (.csv) or JSON (.json)."""
        from pravix.folder.dictionary import for_file
        from pravix.writing import write_text

        write_text(Path(path), [for_file(self._told, path)])

    def workbook(self, path: str | Path, exact: bool = False) -> None:
        """Write all tables as the sheets of one XLSX file; ``exact`` leaves what a spreadsheet could run."""
        from pravix.folder.workbook import write_workbook

        with self._opened() as folder:
            write_workbook(folder, str(path), exact)

    def query(self, *columns: str, database: str = "sqlite") -> str:
        """Return the SQL that puts columns side by side with only the joins that they need."""
        from pravix.databases.known import database as known
        from pravix.loading.side_by_side import recombined

        return recombined(self.document, columns, known(database)).sql

    def side_by_side(self, *columns: str) -> Listing:
        """Return the rows of that query."""
        from pravix.loading.side_by_side import recombined, run

        with self._opened() as folder:
            rows = run(folder, recombined(folder.document, columns))
        cells = (tuple("" if cell is None else str(cell) for cell in row) for row in rows)
        return Listing(columns, tuple(cells))


def claims_listed(claims: Sequence[tuple[bool, str]]) -> Listing:
    """Return claims, each with whether it holds."""
    return Listing(("", "Claim"), tuple(("holds" if holds else "FAILS", claim) for holds, claim in claims))
