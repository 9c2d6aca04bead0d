"""Several tables at once: files, folders of files, the sheets of a workbook, the tables of a database."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from pravix.errors import InputError
from pravix.sources.account import Source
from pravix.sources.connecting import inspecting, is_url
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.sources.workbook import SUFFIXES, filled_sheets
from pravix.wording import unused

_TABLES = (".csv", ".tsv", ".parquet", ".jsonl", *SUFFIXES)


def read_several(sources: Sequence[str]) -> dict[str, Source]:
    """Read every source, as ``named_sources`` has them. Raises InputError where one cannot be read."""
    return {name: read_source(path, reading) for name, (path, reading) in named_sources(sources).items()}


def named_sources(sources: Sequence[str]) -> dict[str, tuple[str, Reading]]:
    """Return every table of the sources with where and how it is read.

    They are a folder's files, a workbook's sheets with data, a database's tables. Tables are called after
    file, sheet or table; a second one of a name gets a number. Raises InputError for fewer than two.
    """
    found: dict[str, tuple[str, Reading]] = {}
    for source in sources:
        for name, path, reading in _named(source):
            found[unused(name, found.__contains__)] = path, reading
    if len(found) < 2:
        raise InputError(
            "links need at least two tables", "Give several files, a folder, a workbook, or a database."
        )
    return found


def _named(source: str) -> list[tuple[str, str, Reading]]:
    if is_url(source):
        return [(name, source, Reading(table=name)) for name in _table_names(source)]
    if Path(source).is_dir():
        inside = sorted(path for path in Path(source).iterdir() if path.suffix.lower() in _TABLES)
        return [found for path in inside for found in _named(str(path))]
    stem = Path(source).name.split(".")[0]
    if source.lower().endswith(SUFFIXES):
        sheets = filled_sheets(source)
        if len(sheets) > 1:
            return [(sheet, source, Reading(sheet=sheet)) for sheet in sheets]
    return [(stem, source, Reading())]


def _table_names(url: str) -> list[str]:
    with inspecting(url) as inspector:
        names: list[str] = inspector.get_table_names()
    if not names:
        raise InputError("the database has no tables", "Choose another database.")
    return names
