"""A folder of results, opened again; and the demo."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pravix.analysis import Analysis
from pravix.document.design_file import read_plain
from pravix.errors import InputError
from pravix.folder import reader
from pravix.folder.metadata import CSVW_FILE, PACKAGE_FILE
from pravix.folder.reader import DESIGN_FILE
from pravix.folder.writer import GUIDE_FILE, SCHEMA_FILE
from pravix.notebook.listing import Listing
from pravix.notebook.made import Made
from pravix.sources.reading import Reading
from pravix.writing import replace_folder

if TYPE_CHECKING:
    from pravix.document.model import Document, TableDocument
    from pravix.services.checking import CheckedFile


def open_folder(path: str | Path) -> OpenedFolder:
    """Open a folder that ``write`` or ``pravix decompose --out`` wrote. Raises InputError."""
    return OpenedFolder(reader.open_folder(path))


def write_demo(path: str | Path | None = None) -> Path:
    """Write the demo data and all results into a new folder; return where. Raises InputError."""
    from pravix.services import demonstrating

    return demonstrating.write_demo(None if path is None else str(path), Analysis)[0]


class OpenedFolder(Made):
    """A folder of results: its tables and design, and what can be made of them."""

    def __init__(self, folder: reader.Folder) -> None:
        self._folder = folder

    @property
    def document(self) -> Document:
        """As said there."""
        return self._folder.document

    @property
    def tables(self) -> Mapping[str, Listing]:
        """As said there."""
        return {
            table.name: Listing(tuple(table.column_names), tuple(self._rows(table)))
            for table in self._folder.tables
        }

    def _rows(self, table: TableDocument) -> Iterator[tuple[str, ...]]:
        for row in self._folder.rows(table):
            yield tuple("" if cell is None else cell for cell in row)

    @contextmanager
    def _opened(self) -> Iterator[reader.Folder]:
        yield self._folder

    def write(self, path: str | Path) -> list[str]:
        """Copy the files to a new place, all or none. Raises InputError where something is there."""
        if Path(path).exists():
            raise InputError(f"{path} is there already", "Give a new folder.")
        metadata = [name for name in (CSVW_FILE, PACKAGE_FILE) if (self._folder.path / name).exists()]
        own = (DESIGN_FILE, SCHEMA_FILE, GUIDE_FILE, *metadata)
        names = [*own, *(table.file for table in self._folder.tables)]

        def fill(made: Path) -> None:
            for name in names:
                (made / name).write_bytes(self._content(name))

        replace_folder(Path(path), fill, known=lambda _: set())
        return names

    def _content(self, name: str) -> bytes:
        try:
            return read_plain(self._folder.path / name)
        except OSError as error:
            reason = error.strerror or error
            raise InputError(f"{name} in {self._folder.path} cannot be copied: {reason}") from None

    def check(
        self,
        source: str | Path,
        load: str | None = None,
        keep: str | None = None,
        rejudge: bool = False,
        **wishes: Any,
    ) -> CheckedFile:
        """Hold a new file against the design: every rule, list, type and key.

        ``load`` is the URL of the database that it is compared with, and that gets the good rows; ``keep``
        is a new CSV file for the others; ``wishes`` are those of ``pravix.read``. Raises InputError.
        """
        from pravix.services.checking import check_file

        return check_file(self._folder, str(source), Reading(**wishes), load, keep, rejudge)
