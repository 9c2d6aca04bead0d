"""The formats of tables that are known, by name."""

from __future__ import annotations

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
