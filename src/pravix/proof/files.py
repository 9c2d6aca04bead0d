"""The files of a folder read anew: their rows held against the design, and joined back into the flat rows.

The main table of each source is read batch after batch; only what it is joined to is held in memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from pravix.document.joining import flat_join, part_join
from pravix.document.model import Document, PartDocument
from pravix.document.row_hashes import Hashes, RowHasher, RowHashes, by_text, by_value, of_arrays
from pravix.errors import InputError
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
    files = _Files(folder)
    broken = files.broken_in_held(cells=True)
    given_back: dict[str, Claim] = {}
    for source, part in folder.document.parts.items():
        check = files.check_of_main(part, cells=True)
        given_back[source] = _given_back(files, part, check)
        broken.setdefault(part.main, list(check.broken()))
    return LookedThrough([told for table in folder.tables for told in broken[table.name]], given_back)


def flat_rows(folder: Folder) -> Iterator[Batch]:
    """Yield the flat rows that a folder of one source holds, put together again: each column of its file.

    Raises InputError where a file cannot be read, or a key or a reference does not hold. Cost: as above.
    """
    files, part = _Files(folder), folder.design
    broken = [told for some in files.broken_in_held(cells=False).values() for told in some]
    check = files.check_of_main(part, cells=False)
    for columns in files.joined(part, check):
        yield {name: columns[name] for name in part.source.columns}
    for told in (*broken, *check.broken()):
        raise InputError(f"the folder {folder.path} cannot be used: {told}", "See: pravix prove")


class _Files:
    """The tables of a folder: those that are held, and the main ones that are read batch after batch."""

    def __init__(self, folder: Folder) -> None:
        self._folder = folder
        self._rows = {table.name: TableRows(folder, table) for table in folder.tables}
        kept = _held(folder.document)
        self._held = {
            table.name: Held(table, self._rows[table.name].batches())
            for table in folder.tables
            if table.name in kept
        }

    def broken_in_held(self, cells: bool) -> dict[str, list[str]]:
        """Return for each table that is held what is not as it should be; of its ``cells`` only if wished."""
        broken = {}
        for name, held in self._held.items():
            check = TableCheck(self._rows[name], held.table, self._held, cells)
            for batch in held.batches():
                check.look(batch)
            broken[name] = list(check.broken())
        return broken

    def rows_of_main(self, part: PartDocument) -> TableRows:
        """Return the rows of the main table of a source as its file has them."""
        return self._rows[part.main]

    def check_of_main(self, part: PartDocument, cells: bool) -> TableCheck:
        """Return what looks at the rows of the main table of a source, as they come."""
        main = self._folder.table(part.main)
        awaited = [
            Awaited(self._rows[name], one, link, main)
            for name, one in self._held.items()
            for link in one.table.foreign_keys
            if link.references.table == main.name and main.name not in self._held
        ]
        return TableCheck(self._rows[main.name], main, self._held, cells, awaited)

    def joined(self, part: PartDocument, check: TableCheck) -> Iterator[Batch]:
        """Yield the rows of a source, with every column of its file; ``check`` looks at each batch."""
        joining = Rejoining(part, self._held)
        for batch in self._batches(part):
            check.look(batch)
            yield joining.rebuilt(joining.rejoined(batch))

    def first_differing(self, part: PartDocument) -> int | None:
        """Return the first row of the first block that differs from the file's by value; None for none."""
        wanted, joining = part.rows_mark, Rejoining(part, self._held)
        names, blocks = wanted.columns, wanted.blocks
        if any(name not in joining.kinds for name in names):
            return 0
        if not names:  # The rows were never in memory, so no block of them has a mark.
            return None
        forms = by_value(joining.kinds[name] for name in names)
        hashes: list[Hashes] = [np.zeros((0, 2), np.uint64)]
        for batch in self._batches(part):
            columns = joining.flat(joining.rejoined(batch))
            hashes.append(of_arrays([columns[name] for name in names], forms).hashes)
        found = RowHashes(np.concatenate(hashes)).blocks(wanted.block_rows)
        differing = (n for n, pair in enumerate(zip(found, blocks, strict=False)) if pair[0] != pair[1])
        block = next(differing, min(len(found), len(blocks)) if len(found) != len(blocks) else None)
        return None if block is None else block * wanted.block_rows

    def _batches(self, part: PartDocument) -> Iterator[Batch]:
        held = self._held.get(part.main)
        return self._rows[part.main].batches() if held is None else held.batches()


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


def _given_back(files: _Files, part: PartDocument, check: TableCheck) -> Claim:
    """Compare the joined rows with the mark of the source's, by text; find the place by value."""
    given = RowHasher(by_text(part.flat.kinds))
    for columns in files.joined(part, check):
        given.hash_columns([columns[name] for name in part.source.columns])
    count = counted(given.count, "row")
    if given.count == part.source.rows and given.mark == part.flat.text_mark:
        return True, f"The tables join back to exactly the {count} as read, cell by cell."
    had = f"but the file had {part.source.rows:,}"
    if given.count == part.source.rows:
        had = "but not to those of the file"
    place, rows = files.first_differing(part), files.rows_of_main(part)
    at = "a cell is written otherwise"
    if place is not None:
        ended = place >= rows.count
        where = f"the end of {rows.file}" if ended else f"line {rows.line(place)} of {rows.file}"
        at = f"the first that differs is {where}"
    return False, f"The tables join to {count}, {had}: {at}."
