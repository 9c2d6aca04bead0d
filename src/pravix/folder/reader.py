"""A folder of results opened again: the design as it was written, and the rows of its tables."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from pravix.databases.database import Database
from pravix.document.design_file import check_plain, read_design, rows_are_elsewhere
from pravix.document.model import DesignDocument, Document, JointDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.formats import check_files, format_of
from pravix.folder.table_format import Row, TableFormat
from pravix.sources.reading import Reading
from pravix.sql.identifiers import fitted
from pravix.wording import joined, shortened

if TYPE_CHECKING:
    import pyarrow

DESIGN_FILE = "design.json"


@dataclass(frozen=True)
class Folder:
    """The folder at ``path`` and its ``document``, the content of ``design.json``."""

    path: Path
    document: Document

    @property
    def tables(self) -> tuple[TableDocument, ...]:
        """The tables of the design, each after those that it refers to."""
        return self.document.tables

    @property
    def design(self) -> DesignDocument:
        """The design of its one source; InputError where it holds one design for several."""
        if isinstance(self.document, JointDocument):
            raise InputError(
                f"{self.path} holds one design for several files",
                "Give the folder of the design of one: pravix decompose FILE --out DIR",
            )
        return self.document

    def read_alike(self, reading: Reading) -> Reading:
        """Return wishes about reading later rows, with those of the design where nothing is wished."""
        basis = self.design.basis
        kept = basis.reading if basis is not None else None
        return kept.alike(reading) if kept is not None else reading

    def fitted(self, database: Database) -> Folder:
        """Return the folder with names that fit a database."""
        return replace(self, document=fitted(self.document, database))

    def table(self, name: str) -> TableDocument:
        """Return the table of a name; InputError where there is none."""
        for table in self.tables:
            if table.name == name:
                return table
        known = joined([shortened(table.name) for table in self.tables])
        raise InputError(f"the design has no table {shortened(name)}", f"Its tables: {known}.")

    def rows(self, table: TableDocument) -> Iterator[Row]:
        """Yield the rows of a table, None for a blank.

        Raises InputError, with file and line, for a row of another width, or where the file is missing.
        """
        with self._reading(table) as (path, form):
            yield from form.rows(path, len(table.columns))

    def batches(self, table: TableDocument) -> Iterator[pyarrow.RecordBatch]:
        """Yield the rows as Arrow batches of texts, null for a blank. Raises as ``rows`` does."""
        with self._reading(table) as (path, form):
            yield from form.batches(path, len(table.columns))

    @contextmanager
    def _reading(self, table: TableDocument) -> Iterator[tuple[Path, TableFormat]]:
        if rows_are_elsewhere(self.document):
            places = [
                part.elsewhere.place for part in self.document.parts.values() if part.elsewhere is not None
            ]
            raise InputError(
                f"{self.path} holds no rows: they are in {places[0]}",
                "Fill the tables there: pravix load DIR URL --from TABLE, or pravix sql DIR --from TABLE.",
            )
        try:
            check_plain(self.path / table.file)
            yield self.path / table.file, format_of(table.file)
        except (OSError, UnicodeDecodeError, csv.Error) as error:
            reason = getattr(error, "strerror", None) or error
            raise InputError(f"{table.file} in {self.path} cannot be read: {reason}") from None


def open_folder(path: str | Path) -> Folder:
    """Open a folder that ``pravix decompose --out`` wrote, or that came from anywhere.

    Raises InputError where there is no design in it, or one that is not sound; see ``read_design``.
    """
    folder = Path(path)
    return Folder(folder, read_design(folder / DESIGN_FILE, check_files))
