"""A folder of results, written under another name and renamed when it is whole."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace

from pravix.databases.known import database
from pravix.design.model import Design, Table
from pravix.design.naming import free_name
from pravix.document.design_document import design_document
from pravix.document.design_file import files_named, json_text
from pravix.document.model import Document, ElsewhereDocument
from pravix.document.story import BasisDocument
from pravix.folder.formats import FORMATS, plain_name
from pravix.folder.guide import guide
from pravix.folder.metadata import CSVW_FILE, PACKAGE_FILE, metadata
from pravix.folder.reader import DESIGN_FILE
from pravix.ledger.meanings import Meaning
from pravix.sql.identifiers import fitted
from pravix.sql.schema import schema_statements, script
from pravix.writing import replace_folder

SCHEMA_FILE = "schema.sql"
GUIDE_FILE = "README.md"

_RESERVED = re.compile(r"con|prn|aux|nul|com[0-9]|lpt[0-9]", re.IGNORECASE)
"""Names that Windows takes for devices."""


def write_design(
    design: Design,
    path: str,
    meanings: Sequence[Meaning] = (),
    basis: BasisDocument | None = None,
    safe_cells: bool = False,
    tables_as: str = "csv",
    elsewhere: ElsewhereDocument | None = None,
) -> list[str]:
    """Write a design into the folder at ``path`` and return the names of its files.

    ``meanings`` are the analyst's words for its parts, ``basis`` what it rests on (see there). Where the rows
    are ``elsewhere`` the folder holds none. With
    ``safe_cells`` no cell can be run by a spreadsheet; then the tables are not exactly those of the file.

    The folder holds ``design.json``, ``schema.sql``, a README and a file for each table, ``tables_as`` one
    of ``formats.FORMATS``. A folder that an
    earlier run wrote is replaced as a whole. Raises InputError, and changes nothing, where the path is
    a file or a folder with anything else in it.
    """
    document = design_document(design, meanings, basis, elsewhere)
    return write_folder(document, design.tables if elsewhere is None else (), path, safe_cells, tables_as)


def write_folder(
    document: Document,
    tables: Sequence[Table],
    path: str,
    safe_cells: bool = False,
    tables_as: str = "csv",
) -> list[str]:
    """Write a design as a document and its tables into the folder at ``path``, as ``write_design`` does.

    Without tables it is a design only.
    """
    form = FORMATS[tables_as]
    names = file_names([table.name for table in tables], form.ending)
    if tables:
        filed = zip(document.tables, names, strict=True)
        document = replace(document, tables=tuple(replace(table, file=name) for table, name in filed))

    def fill(folder: Path) -> None:
        for table, name in zip(tables, names, strict=True):
            form.write(table, folder / name, safe_cells)

    return written(document, path, fill, safe_cells)


def written(
    document: Document, path: str, fill: Callable[[Path], None], safe_cells: bool = False
) -> list[str]:
    """Write a design as a document into a folder at ``path``; ``fill`` writes its tables, given a folder."""

    more = {} if safe_cells else metadata(document)

    def fill_all(folder: Path) -> None:
        fill(folder)
        (folder / SCHEMA_FILE).write_text(schema_script(document), encoding="utf-8")
        (folder / GUIDE_FILE).write_text(guide(document, safe_cells), encoding="utf-8")
        (folder / DESIGN_FILE).write_text(json_text(document), encoding="utf-8")
        for name, text in more.items():
            (folder / name).write_text(text, encoding="utf-8")

    replace_folder(Path(path), fill_all, _known_files)
    files = [table.file for table in document.tables if table.file]
    return [DESIGN_FILE, SCHEMA_FILE, GUIDE_FILE, *more, *files]


def schema_script(document: Document) -> str:
    """Return what creates the tables of a design in SQLite."""
    sqlite = database("sqlite")
    return "".join(script(schema_statements(fitted(document, sqlite), sqlite), sqlite))


def file_names(tables: list[str], ending: str) -> list[str]:
    """Return a safe file name for each table, all different where case is ignored."""
    taken: list[str] = []
    for table in tables:
        kept = "".join(mark if mark.isalnum() or mark in "_- " else "_" for mark in table).strip()[:80]
        kept = f"{kept}_" if _RESERVED.fullmatch(kept) else kept
        taken.append(free_name(kept or "table", taken))
    return [f"{name}{ending}" for name in taken]


def _known_files(path: Path) -> set[str]:
    """Return the names of the files that an earlier run wrote into a folder."""
    tables = list(filter(plain_name, files_named(path / DESIGN_FILE)))
    return {DESIGN_FILE, SCHEMA_FILE, GUIDE_FILE, CSVW_FILE, PACKAGE_FILE, *tables} if tables else set()
