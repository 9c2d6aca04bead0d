"""The formats of tables that are known, by name."""

from __future__ import annotations

import os
from collections.abc import Sequence

from pravix.document.soundness import UnsoundError
from pravix.errors import InputError
from pravix.folder.csv_format import CSVFormat
from pravix.folder.parquet_format import ParquetFormat
from pravix.folder.table_format import TableFormat
from pravix.wording import shortened

FORMATS: dict[str, TableFormat] = {"csv": CSVFormat(), "parquet": ParquetFormat()}
"""The formats by name."""


def format_of(file: str) -> TableFormat:
    """Return the format of a file by its ending. Raises InputError where there is none."""
    found = next((one for one in FORMATS.values() if file.endswith(one.ending)), None)
    if found is None:
        raise InputError(f"{shortened(file)} is no table of a folder", f"Known are {', '.join(FORMATS)}.")
    return found


def plain_name(name: str) -> bool:
    """Return whether a name is that of a file of a table in the folder, and of nothing else."""
    return (
        name == os.path.basename(name)
        and name.endswith(tuple(one.ending for one in FORMATS.values()))
        and not name.startswith(".")
        and not any(mark in name for mark in '/\\:\0"<>|?*')
        and name.isprintable()
        and len(name.encode(errors="replace")) <= 255
    )


def check_files(tables: Sequence[tuple[str, str]]) -> None:
    """Raise UnsoundError where a table, by name, is not in a file of its own in the folder."""
    taken: set[str] = set()
    for name, file in tables:
        if not plain_name(file):
            told = shortened(file)
            raise UnsoundError(f"the file {told} of {shortened(name)} is no table in the folder")
        if file.casefold() in taken:
            raise UnsoundError(f"the file {shortened(file)} comes twice")
        taken.add(file.casefold())
