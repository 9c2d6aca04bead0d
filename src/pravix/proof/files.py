"""The files of a folder read anew: their rows held against the design, and joined back into the flat rows.

The main table of each source is read batch after batch; only what it is joined to is held in memory.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from pravix.document.joining import flat_join, part_join
from pravix.document.model import Document, PartDocument, RowsMark
from pravix.document.row_hashes import Hashes, RowHasher, RowHashes, by_text, by_value, of_arrays
from pravix.first_normal_form.rebuilt import FromChild
from pravix.folder.reader import Folder
from pravix.proof.claim import Claim
from pravix.proof.held import Held
from pravix.proof.rejoining import Rejoining
from pravix.proof.table_check import Awaited, TableCheck
from pravix.proof.table_rows import Batch, TableRows
from pravix.wording import counted


@dataclass(frozen=True)
class LookedThrough:
    """What is not as the design says, and for each source whether its rows come back."""

    broken: list[str]
    given_back: Mapping[str, Claim]


def looked_through(folder: Folder) -> LookedThrough:
    """Read all tables of a folder, check each, and join them.

    Raises InputError where a file cannot be read. Linear in the cells; memory for the tables that others
    refer to or are joined to, and eight bytes on disk for each row and key.
    """
    document = folder.document
    rows = {table.name: TableRows(folder, table) for table in folder.tables}
    names = _held(document)
    held = {
        table.name: Held(table, rows[table.name].batches()) for table in folder.tables if table.name in names
    }
    broken: dict[str, list[str]] = {}
    for table in folder.tables:
        if table.name in held:
            check = TableCheck(rows[table.name], table, held)
            for batch in held[table.name].batches():
                check.look(batch)
            broken[table.name] = list(check.broken())
    given_back: dict[str, Claim] = {}
    for source, part in document.parts.items():
        main = folder.table(part.main)
        awaited = [
            Awaited(rows[name], one, link, main)
            for name, one in held.items()
            for link in one.table.foreign_keys
            if link.references.table == main.name and main.name not in held
        ]
        check = TableCheck(rows[main.name], main, held, awaited)
        given_back[source] = _given_back(part, held, rows[main.name], check)
        if main.name not in held:
            broken[main.name] = list(check.broken())
    return LookedThrough([told for table in folder.tables for told in broken[table.name]], given_back)


def _held(document: Document) -> set[str]:
    """Return the tables that are held: all but the main ones, and of these such as others are joined to."""
    mains = {part.main for part in document.parts.values()}
    found = {table.name for table in document.tables} - mains
    for part in document.parts.values():
        found |= {joined.table.name for joined in flat_join(part).tables[1:]}
        for entry in part.rebuild:
            if isinstance(entry, FromChild):
                joins = part_join(part, part.by_name[entry.table]).join.tables
                found |= {joined.table.name for joined in joins}
    for table in document.tables:
        if table.name in mains:
            found |= {link.references.table for link in table.foreign_keys}
    return found


def _given_back(part: PartDocument, held: Mapping[str, Held], rows: TableRows, check: TableCheck) -> Claim:
    """Compare the joined rows with the mark of the source's, by text; find the place by value."""
    header = part.source.columns
    joining = Rejoining(part, held)
    given = RowHasher(by_text(part.flat.kinds))
    for batch in _batches(part, held, rows):
        check.look(batch)
        columns = joining.rebuilt(joining.rejoined(batch))
        given.hash_columns([columns[name] for name in header])
    count = counted(given.count, "row")
    if given.count == part.source.rows and given.mark == part.flat.text_mark:
        return True, f"The tables join back to exactly the {count} as read, cell by cell."
    had = f"but the file had {part.source.rows:,}"
    if given.count == part.source.rows:
        had = "but not to those of the file"
    place = _first_differing(part.rows_mark, joining, _batches(part, held, rows))
    at = "a cell is written otherwise"
    if place is not None:
        ended = place >= rows.count
        where = f"the end of {rows.file}" if ended else f"line {rows.line(place)} of {rows.file}"
        at = f"the first that differs is {where}"
    return False, f"The tables join to {count}, {had}: {at}."


def _batches(part: PartDocument, held: Mapping[str, Held], rows: TableRows) -> Iterator[Batch]:
    return held[part.main].batches() if part.main in held else rows.batches()


def _first_differing(wanted: RowsMark, joining: Rejoining, batches: Iterable[Batch]) -> int | None:
    """Return the first row of the first block that differs from the file's by value; None for none."""
    names, blocks = wanted.columns, wanted.blocks
    if any(name not in joining.kinds for name in names):
        return 0
    if not names:  # The rows were never in memory, so no block of them has a mark.
        return None
    forms = by_value(joining.kinds[name] for name in names)
    hashes: list[Hashes] = [np.zeros((0, 2), np.uint64)]
    for batch in batches:
        columns = joining.flat(joining.rejoined(batch))
        hashes.append(of_arrays([columns[name] for name in names], forms).hashes)
    found = RowHashes(np.concatenate(hashes)).blocks(wanted.block_rows)
    differing = (n for n, pair in enumerate(zip(found, blocks, strict=False)) if pair[0] != pair[1])
    block = next(differing, min(len(found), len(blocks)) if len(found) != len(blocks) else None)
    return None if block is None else block * wanted.block_rows
