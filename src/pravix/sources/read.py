"""The one way in: any source, by its name, becomes a relation with an account of how it was read."""

from __future__ import annotations

import os
from dataclasses import replace

from pravix.sources.account import Source
from pravix.sources.arriving import display_name
from pravix.sources.cells import patched, plain
from pravix.sources.columnar import read_feather, read_json, read_json_lines, read_parquet
from pravix.sources.connecting import is_url
from pravix.sources.database import read_database
from pravix.sources.delimited import read_delimited
from pravix.sources.reading import Reading
from pravix.sources.workbook import SUFFIXES, read_workbook

FEATHER = (".feather", ".arrow")
_PACKED = ("", ".gz", ".bz2", ".zip")
_JSON = tuple(f".json{packed}" for packed in _PACKED)
_JSON_LINES = tuple(f"{kind}{packed}" for kind in (".jsonl", ".ndjson") for packed in _PACKED)
IN_MEMORY = (*SUFFIXES, *FEATHER, *_JSON, *_JSON_LINES, ".bz2", ".zip")
"""Files of these kinds are always read into memory."""


def read_source(source: str, reading: Reading | None = None) -> Source:
    """Read a file, standard input (``-``) or a table of a database.

    The suffix tells workbooks, Parquet, Feather and JSON; everything else is delimited text. Cells are made
    plain and patched last. Raises InputError where the source cannot be read as wished.
    """
    reading = reading or Reading()
    found = _read(source, reading)
    name = found.account.name
    blank = reading.blank_words(found.relation.names, name)
    relation, changes = plain(found.relation, name, reading.keep_spaces, blank)
    if reading.patch is not None:
        patch = os.path.expanduser(reading.patch)
        relation, corrected = patched(relation, patch, display_name(source))
        changes += corrected
    account = replace(found.account, changes=(*found.account.changes, *changes))
    return Source(relation, account)


def _read(source: str, reading: Reading) -> Source:
    if is_url(source):
        return read_database(source, reading)
    suffix = source.lower()
    if suffix.endswith(SUFFIXES):
        return read_workbook(source, reading)
    if suffix.endswith(".parquet"):
        return read_parquet(source)
    if suffix.endswith(FEATHER):
        return read_feather(source)
    if suffix.endswith(_JSON):
        return read_json(source, reading)
    if suffix.endswith(_JSON_LINES):
        return read_json_lines(source, reading)
    return read_delimited(source, reading)
