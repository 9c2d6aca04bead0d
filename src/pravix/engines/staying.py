"""A source whose rows stay where they are, with what is known of all of them and some that were drawn."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from pravix.errors import InputError
from pravix.memory import free_bytes
from pravix.progress import Progress, silent
from pravix.relation.relation import Relation, Spread
from pravix.sources.account import Account, Source
from pravix.sources.arriving import display_name
from pravix.sources.cells import plain
from pravix.sources.connecting import is_url
from pravix.sources.read import IN_MEMORY, read_source
from pravix.sources.reading import Reading
from pravix.wording import counted, joined, shortened

if TYPE_CHECKING:
    from pravix.engines.flat import Flat
    from pravix.engines.sample import Sample

_SHARE = 0.5
_DRIVER_CELL = 60
"""Bytes that a cell of a table of a database takes in the client, decomposed in memory."""

_SMALL = 64 << 20
_PARQUET = ".parquet"


@dataclass(frozen=True, eq=False)
class Staying(Source):
    """A source of which only a sample is in memory: ``relation`` are the rows drawn, ``flat`` are all.

    ``spread`` says how the cells of each column are spread over all rows.
    """

    flat: Flat
    sample: Sample
    spread: Mapping[str, Spread]

    def standing(self, relation: Relation, flat: Flat) -> Relation:
        """Return rows made from those drawn as some of all rows, which ``flat`` gives with the same
        columns.
        """
        columns = tuple(
            replace(column, whole=self.spread[column.name]) if column.name in self.spread else column
            for column in relation.columns
        )
        return Relation(columns, relation.row_numbers, flat)


def read_anywhere(path: str, reading: Reading, progress: Progress = silent) -> Source:
    """Read a source into memory where it fits; else leave its rows where they are, and draw some.

    Half of the free memory is taken where ``reading`` does not say how much may be. A table of a database
    stays there, a file is landed in an embedded database. Raises InputError as ``read_source`` does.
    """
    limit = reading.memory or int(_SHARE * free_bytes())
    found = _flat(path, reading, limit, progress)
    if found is None:
        return read_source(path, reading)
    flat, account = found
    try:
        return _drawn(flat, account, reading)
    except BaseException:
        flat.place.close()
        raise


def _flat(path: str, reading: Reading, limit: int, progress: Progress) -> tuple[Flat, Account] | None:
    """Return a source that does not fit into memory as a flat table; None for one that does."""
    if is_url(path):
        if reading.table is None and reading.query is None:
            return None
        from pravix.engines.tables import cell_count, flat_table

        if cell_count(path, reading) * _DRIVER_CELL <= limit:
            return None
        _check_unpatched(path, reading)
        flat = flat_table(path, reading)
        form = f"table {reading.table}" if reading.query is None else "query"
        return flat, Account(flat.place.name, form)
    several = os.path.isdir(path) or (not os.path.exists(path) and any(mark in path for mark in "*?["))
    if path == "-" or (not several and not _may_be_large(path, limit)) or path.lower().endswith(IN_MEMORY):
        return None
    from pravix.engines.landing_files import fits, parquet_file, text_bytes, text_file

    parquet = several or path.lower().endswith(_PARQUET)
    if not parquet and fits(text_bytes(path), limit):
        return None  # Its text need not be plain then.
    file = parquet_file(path) if parquet else text_file(path, reading)
    if parquet and not several and fits(file.bytes, limit):
        return None
    try:
        import duckdb_engine  # noqa: F401

        from pravix.engines.landing import landed
    except ImportError as error:
        raise InputError(
            f"{display_name(path)} does not fit into memory, and {error.name} is missing",
            "Install it: pip install 'pravix[duckdb]', or allow more memory: --memory",
        ) from None
    _check_unpatched(path, reading)
    return landed(file, limit, reading, progress)


def _check_unpatched(path: str, reading: Reading) -> None:
    if reading.patch is not None:
        raise InputError(
            f"{display_name(path)} does not fit into memory, and a patch is applied there only",
            "Correct the cells where they are, or allow more memory: --memory",
        )


def _may_be_large(path: str, limit: int) -> bool:
    try:
        return os.path.getsize(path) > min(_SMALL, limit // 64)
    except OSError:
        return False


def _drawn(flat: Flat, account: Account, reading: Reading) -> Staying:
    """Draw rows, and complete them with such as show other blanks, values and types."""
    from pravix.engines.sample import Sample
    from pravix.engines.spread import complete_types, spreads

    words = reading.blank_words(flat.names, account.name)

    def cleaned(relation: Relation) -> Relation:
        own = {name: words[name] for name in relation.names if name in words}
        return plain(relation, account.name, reading.keep_spaces, own)[0]

    sample = Sample(flat, cleaned)
    spread = spreads(sample)
    complete_types(sample, spread)
    relation = sample.relation()
    told = (
        f"{counted(flat.row_count, 'row')} stay outside memory: {len(sample):,} of them were drawn to be "
        "judged, and what is counted is counted in all"
    )
    if reading.blank:
        told += f"; {joined([shortened(word) for word in reading.blank])} read as a blank"
    if not flat.place.adaptor.one_state:
        told += " (nobody may write to them meanwhile: each statement sees them as they are then)"
    return Staying(relation, replace(account, notes=(*account.notes, told)), flat, sample, spread)
