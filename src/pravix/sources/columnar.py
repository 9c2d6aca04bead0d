"""Parquet and JSON Lines become relations: one record a row, every value as text."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.sources.account import Account, Source
from pravix.sources.arriving import bytes_of, check_readable, display_name
from pravix.sources.coding import coded_column, coded_relation
from pravix.sources.decoding import as_utf8
from pravix.sources.reading import Reading
from pravix.sources.workbook import cell_text
from pravix.wording import shortened

_FLAT = "Give flat records: one value for each name, no lists and no records inside."


def read_parquet(path: str) -> Source:
    """Read a Parquet file of flat columns. Rows are numbered from 1."""
    import pyarrow
    from pyarrow import parquet, types

    name = display_name(path)
    check_readable(path)
    try:
        table = parquet.read_table(path)
    except (pyarrow.ArrowException, OSError) as error:
        raise InputError(f"{name} is not a readable Parquet file: {shortened(str(error), 80)}") from None
    columns = []
    for field, chunked in zip(table.schema, table.columns, strict=True):
        if types.is_nested(field.type):
            raise InputError(f"{name}: column {shortened(field.name)} is nested", _FLAT)
        if types.is_dictionary(field.type):
            chunked = chunked.cast(field.type.value_type)
        if not types.is_string(chunked.type):
            texts = [cell_text(value) for value in chunked.to_pylist()]
            chunked = pyarrow.chunked_array([pyarrow.array(texts, pyarrow.string())])
        columns.append(coded_column(field.name, chunked))
    return _source(name, "Parquet", tuple(columns), table.num_rows)


def read_json_lines(path: str, reading: Reading) -> Source:
    """Read JSON Lines: one flat object a line. Rows are numbered by their lines.

    Numbers keep the digits they are written with; true and false become yes and no.
    """
    name = display_name(path)
    decoded = as_utf8(bytes_of(path), name, reading.encoding)
    names: dict[str, None] = {}
    records: list[dict[str, str]] = []
    numbers: list[int] = []
    for number, line in enumerate(decoded.data.decode().split("\n"), 1):
        if not line.strip():
            continue
        record = _record(line, f"{name}, line {number}")
        names.update(dict.fromkeys(record))
        records.append(record)
        numbers.append(number)
    rows = [[record.get(column, "") for column in names] for record in records]
    relation = coded_relation(list(names), rows, numbers)
    form = f"JSON Lines, {decoded.encoding}"
    return _source(name, form, relation.columns, len(rows), numbers, decoded.notes)


def _record(line: str, place: str) -> dict[str, str]:
    try:
        record = json.loads(line, parse_int=str, parse_float=str, parse_constant=str)
    except (ValueError, RecursionError):
        raise InputError(f"{place} is not JSON", "Give one JSON object on each line.") from None
    if not isinstance(record, dict):
        raise InputError(f"{place} is not a JSON object", "Give one JSON object on each line.")
    for column, value in record.items():
        if isinstance(value, (dict, list)):
            raise InputError(f"{place}: {shortened(column) or 'a value'} is nested", _FLAT)
    return {column: cell_text(value) for column, value in record.items()}


def _source(
    name: str,
    form: str,
    columns: Any,
    rows: int,
    numbers: list[int] | None = None,
    notes: tuple[str, ...] = (),
) -> Source:
    if not columns or not rows:
        raise InputError(f"{name} holds no data rows", "Give a file with at least one record.")
    unnamed = [place for place, column in enumerate(columns, 1) if not column.name.strip()]
    if unnamed:
        raise InputError(f"{name}: column {unnamed[0]} has no name", "Give every column a name.")
    known = np.array(numbers if numbers is not None else range(1, rows + 1), dtype=np.int64)
    return Source(Relation(tuple(columns), known), Account(name, form, notes))
