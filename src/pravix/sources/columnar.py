"""Parquet, Feather and JSON become relations: one record a row, every value as text."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.sources.account import Account, Source
from pravix.sources.arriving import bytes_of, check_readable, display_name
from pravix.sources.coding import coded_column, coded_relation
from pravix.sources.decoding import as_utf8
from pravix.sources.reading import Reading
from pravix.sources.told import arrow_texts, digits_told
from pravix.sources.workbook import cell_text
from pravix.wording import shortened

_FLAT = "Give flat records: one value for each name, no lists and no records inside."


def read_parquet(path: str) -> Source:
    """Read a Parquet file of flat columns. Rows are numbered from 1."""
    from pyarrow import parquet

    return _read_arrow(path, "Parquet", parquet.read_table)


def read_feather(path: str) -> Source:
    """Read a Feather file of flat columns. Rows are numbered from 1."""
    from pyarrow import feather

    return _read_arrow(path, "Feather", feather.read_table)


def _read_arrow(path: str, form: str, read: Callable[[str], Any]) -> Source:
    import pyarrow
    from pyarrow import types

    name = display_name(path)
    check_readable(path)
    try:
        table = read(path)
    except (pyarrow.ArrowException, OSError) as error:
        raise InputError(f"{name} is not a readable {form} file: {shortened(str(error), 80)}") from None
    columns, rounded = [], []
    for field, chunked in zip(table.schema, table.columns, strict=True):
        if types.is_nested(field.type):
            raise InputError(f"{name}: column {shortened(field.name)} is nested", _FLAT)
        texts, has_more = arrow_texts(chunked)
        columns.append(coded_column(field.name, texts))
        if has_more:
            rounded.append(field.name)
    return _source(name, form, tuple(columns), table.num_rows, notes=tuple(digits_told(rounded)))


def read_json_lines(path: str, reading: Reading) -> Source:
    """Read JSON Lines: one flat object a line. Rows are numbered by their lines.

    Numbers keep the digits they are written with; true and false become yes and no.
    """
    name = display_name(path)
    decoded = as_utf8(bytes_of(path), name, reading.encoding)
    records: list[dict[str, str]] = []
    numbers: list[int] = []
    for number, line in enumerate(decoded.data.decode().split("\n"), 1):
        if not line.strip():
            continue
        records.append(_record(line, f"{name}, line {number}"))
        numbers.append(number)
    return _of_records(name, f"JSON Lines, {decoded.encoding}", records, numbers, decoded.notes)


def read_json(path: str, reading: Reading) -> Source:
    """Read a JSON array of flat objects. Rows are numbered from 1; values as in JSON Lines."""
    name = display_name(path)
    decoded = as_utf8(bytes_of(path), name, reading.encoding)
    hint = "Give an array of objects, or one object on each line of a .jsonl file."
    try:
        found = _loaded(decoded.data.decode())
    except (ValueError, RecursionError) as error:
        where = f", line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise InputError(f"{name}{where} is not JSON", hint) from None
    if not isinstance(found, list):
        raise InputError(f"{name} is no JSON array", hint)
    records = [_cells(one, f"{name}, record {number}") for number, one in enumerate(found, 1)]
    numbers = list(range(1, len(records) + 1))
    return _of_records(name, f"JSON, {decoded.encoding}", records, numbers, decoded.notes)


def _of_records(
    name: str, form: str, records: Sequence[Mapping[str, str]], numbers: list[int], notes: tuple[str, ...]
) -> Source:
    names = dict.fromkeys(column for record in records for column in record)
    rows = [[record.get(column, "") for column in names] for record in records]
    relation = coded_relation(list(names), rows, numbers)
    return _source(name, form, relation.columns, len(rows), numbers, notes)


def _loaded(text: str) -> Any:
    """Return JSON with its numbers as they are written."""
    return json.loads(text, parse_int=str, parse_float=str, parse_constant=str)


def _record(line: str, place: str) -> dict[str, str]:
    try:
        record = _loaded(line)
    except (ValueError, RecursionError):
        raise InputError(f"{place} is not JSON", "Give one JSON object on each line.") from None
    return _cells(record, place)


def _cells(record: Any, place: str) -> dict[str, str]:
    if not isinstance(record, dict):
        raise InputError(f"{place} is not a JSON object", "Give one JSON object for each row.")
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
