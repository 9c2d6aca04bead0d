"""A folder whose rows never were in memory: made in the embedded database, and written by it as Parquet."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from pravix.databases.known import database
from pravix.document.model import DesignDocument
from pravix.document.row_hashes import RowHasher, by_text, by_value
from pravix.engines.flat import Flat
from pravix.engines.landed import LandedPlace
from pravix.first_normal_form.elsewhere import replayed
from pravix.folder.parquet_format import ParquetFormat
from pravix.folder.writer import file_names, written
from pravix.sql.filling import table_query
from pravix.sql.flat_rows import flat_rows
from pravix.sql.identifiers import renamed

_MADE = "made "


def write_outside(document: DesignDocument, flat: Flat, path: str) -> list[str]:
    """Write a design of rows that were landed into the folder at ``path``; return the names of its files.

    The marks of the rows are worked out batch by batch. Cost: two hashes of every cell, and a pass over all
    rows for each table; memory that does not grow with the rows.
    """
    place, kinds = flat.place, document.flat.kinds
    assert isinstance(place, LandedPlace)
    value, text = RowHasher(by_value(kinds)), RowHasher(by_text(kinds))
    for batch in place.arrow(_all_texts(flat)):
        value.hash_columns(batch.columns)
        text.hash_columns(batch.columns)
    names = file_names([table.name for table in document.tables], ParquetFormat.ending)
    tables = tuple(replace(table, file=name) for table, name in zip(document.tables, names, strict=True))
    marks = replace(document.flat, mark=value.mark, text_mark=text.mark)
    document = replace(document, tables=tables, flat=marks, elsewhere=None)

    def fill(folder: Path) -> None:
        kind = database("duckdb")
        rows = flat_rows(flat, replayed(flat, document.rebuild), kind)
        made = renamed(document, {table.name: f"{_MADE}{table.name}" for table in document.tables})
        assert isinstance(made, DesignDocument)
        for table in made.tables:
            name = kind.quoted(table.name)
            place.run(f"CREATE OR REPLACE TEMP TABLE {name} AS {table_query(made, table, kind, rows)}")
            columns = list(map(kind.quoted, table.column_names))
            cells = ", ".join(f"CAST({column} AS VARCHAR) AS {column}" for column in columns)
            main = table.name == made.main
            order = ", ".join(map(kind.quoted, table.primary_key))
            ordered = f" ORDER BY {order}" if order and not main else ""
            file = kind.literal(str(folder / table.file))
            place.run(f"COPY (SELECT {cells} FROM {name}{ordered}) TO {file} (FORMAT parquet)")
        for table in made.tables:
            place.run(f"DROP TABLE {kind.quoted(table.name)}")

    return written(document, path, fill)


def _all_texts(flat: Flat) -> str:
    kind = database("duckdb")
    cells = flat_rows(flat, {}, kind)
    return f"SELECT {', '.join(f'CAST({cell} AS VARCHAR)' for cell in cells.cells.values())} FROM {cells.sql}"
