"""A file that does not fit into memory, landed in a database of DuckDB on disk for as long as it is looked
at.

Columns of few different texts become an enumeration, so that they are compared and grouped as small numbers.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from glob import glob
from pathlib import Path

from sqlalchemy import BigInteger, Column, MetaData, Table, Text, literal_column

from pravix.engines.adaptor import SPACES
from pravix.engines.flat import Flat
from pravix.engines.landed import LandedPlace
from pravix.engines.landed_cells import PLAIN_NUMBERS, landed_cell, looked_at
from pravix.engines.place import Place
from pravix.errors import InputError
from pravix.progress import Progress, silent
from pravix.sources.account import Account
from pravix.sources.arriving import check_readable, display_name
from pravix.sources.cells import has_decimal_commas
from pravix.sources.delimited import DELIMITERS, Plainly, read_plainly
from pravix.sources.reading import Reading
from pravix.sources.told import digits_told
from pravix.temporary import temporary_folder
from pravix.wording import counted, joined, shortened

_MOST_LISTED = 200_000
_LOOKED_AT = 100_000
_MOST_OF_LOOKED_AT = 0.5
_FEWEST = 1_000
_PACKED = 8
_CELL_BYTES = 30
_TIMES_IN_MEMORY = 6
_PIECE = 1 << 24
_END = 1 << 10
_TABLE = "flat"


@dataclass(frozen=True)
class _Lines:
    """The lines of a text, so many of them ``above`` its rows."""

    path: str
    above: int

    def blank(self, rows: int) -> int:
        """Return how many lines besides the ``rows`` have nothing in them, those at the end left out.

        None can be told where there are quotes, in which a row has several lines.
        """
        lines, end = 0, b""
        with open(self.path, "rb") as file:
            while piece := file.read(_PIECE):
                if b'"' in piece:
                    return 0
                lines += piece.count(b"\n")
                end = (end + piece)[-_END:]
        ended = end[len(end.rstrip(b"\r\n")) :].count(b"\n")
        return max(lines - ended + 1 - self.above - rows, 0)


@dataclass(frozen=True)
class File:
    """A file, or the files of a folder or a pattern, with how DuckDB reads them and how large they would
    be.

    ``lines`` are those of a text that is neither packed nor in wide characters. The conditions ``no_data``
    tell a row that is the header again, and one in which every cell is blank.
    """

    name: str
    form: str
    reader: str
    bytes_in_memory: int
    first_row: int
    names: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    lines: _Lines | None = None
    no_data: tuple[str, str] | None = None

    @property
    def rows(self) -> str:
        """What stands in FROM for the rows that are data."""
        return self.reader if self.no_data is None else f"{self.told} WHERE NOT again AND NOT blank"

    @property
    def told(self) -> str:
        """What stands in FROM for all rows, each with what ``no_data`` tells of it."""
        if self.no_data is None:
            return self.reader
        again, blank = self.no_data
        return f"(SELECT *, {again} AS again, {blank} AS blank FROM {self.reader})"


def parquet_files(path: str) -> list[str]:
    """Return the Parquet files that a path, a folder or a pattern names, in order."""
    if os.path.isdir(path):
        found = [str(one) for one in sorted(Path(path).rglob("*.parquet"))]
    elif any(mark in path for mark in "*?["):
        found = sorted(glob(path))
    else:
        check_readable(path)
        found = [path]
    if not found:
        raise InputError(
            f"{path} holds no Parquet files", "Give a file, a folder or a pattern like 'in/*.parquet'."
        )
    return found


def parquet_file(path: str) -> File:
    """Return what is to be known of Parquet files before they are landed."""
    import pyarrow
    from pyarrow import parquet, types

    files, name = parquet_files(path), display_name(path)
    cells = 0
    try:
        for one in files:
            found = parquet.ParquetFile(one)
            cells += found.metadata.num_rows * found.metadata.num_columns
            for field in found.schema_arrow:
                if types.is_nested(field.type):
                    raise InputError(
                        f"{name}: column {shortened(field.name)} is nested", "Give flat records."
                    )
                if types.is_duration(field.type):
                    told = f"{name}: column {shortened(field.name)} holds durations"
                    raise InputError(told, "Allow more memory (--memory), or write them as numbers or texts.")
    except (pyarrow.ArrowException, OSError) as error:
        raise InputError(f"{name} is not a readable Parquet file: {str(error)[:80]}") from None
    listed = ", ".join(map(_literal, files))
    form = "Parquet" if len(files) == 1 else f"Parquet, {counted(len(files), 'file')}"
    return File(name, form, f"read_parquet([{listed}])", cells * _CELL_BYTES * _TIMES_IN_MEMORY, 1)


def text_file(path: str, reading: Reading) -> File:
    """Return what is to be known of a delimited file before it is landed."""
    size = os.path.getsize(path)
    packed = path.lower().endswith(".gz")
    told = read_plainly(path, reading)
    made = _as_file(path, told, size * (_PACKED if packed else 1) * _TIMES_IN_MEMORY)
    return (
        made if packed or told.encoding == "utf-16" else replace(made, lines=_Lines(path, told.lines_above))
    )


def _as_file(path: str, told: Plainly, size: int) -> File:
    columns = ", ".join(f"{_literal(str(place))}: 'VARCHAR'" for place in range(len(told.names)))
    reader = (
        f"read_csv({_literal(path)}, header = false, skip = {told.lines_above}, auto_detect = false, "
        f"delim = {_literal(told.delimiter)}, quote = '\"', escape = '\"', "
        f"encoding = {_literal(told.encoding)}, null_padding = false, strict_mode = true, "
        f"columns = {{{columns}}})"
    )
    mark = DELIMITERS.get(told.delimiter, told.delimiter)
    form = f"{told.encoding.upper()}, {mark} between cells, header in row 1"
    cells = [f"trim(coalesce({_quoted(str(place))}, ''))" for place in range(len(told.names))]
    no_data = _all_equal(cells, told.names), _all_equal(cells, [""] * len(cells))
    return File(display_name(path), form, reader, size, 2, told.names, told.notes, no_data=no_data)


def _all_equal(cells: Sequence[str], texts: Sequence[str]) -> str:
    """Return the condition that all cells are these texts: the others are looked at where the first is."""
    first, *others = (f"{cell} = {_literal(text)}" for cell, text in zip(cells, texts, strict=True))
    return f"CASE WHEN {first} THEN {' AND '.join(others) or 'true'} ELSE false END"


def landed(
    file: File, memory: int, keep_spaces: bool = False, progress: Progress = silent
) -> tuple[Flat, Account]:
    """Return a file as a flat table in DuckDB, see ``LandedPlace`` for the ``memory`` (in bytes).

    Raises InputError where a row is not as wide as the header, or the disk is full. Cost: two passes over
    the file.
    """
    place = LandedPlace(file.name, temporary_folder(), memory, progress)
    try:
        names, notes, again, blank = _fill(place, file, keep_spaces)
        ((rows,),) = place.run(f"SELECT COUNT(*) FROM {_TABLE}")
        if not rows:
            raise InputError(f"{file.name} holds no data rows", "Give a file with at least one record.")
        blank += 0 if file.lines is None else file.lines.blank(int(rows) + again + blank)
        for count, told in ((again, "repeated header"), (blank, "blank line")):
            if count:
                without = "it" if count == 1 else "them"
                notes.append(f"{counted(count, told)} left out; rows are numbered without {without}")
    except BaseException:
        with suppress(Exception):
            place.close()
        raise
    source = Table(_TABLE, MetaData(), *(Column(str(n), Text()) for n in range(len(names))), quote=True)
    cells = {name: source.c[str(n)] for n, name in enumerate(names)}
    compared = {name: (cell,) for name, cell in cells.items()}
    numbered = literal_column("rowid", BigInteger)
    account = Account(file.name, file.form, (*file.notes, *notes))
    return Flat(place, source, cells, compared, int(rows), numbered, file.first_row), account


@dataclass(frozen=True)
class _Landing:
    """A column on its way: its ``cell`` in the file, and what makes it plain, with ``{}`` for the cell.

    ``listed`` says that its texts are few and known, ``spaced`` that cells have spaces around them.
    """

    n: int
    name: str
    cell: str
    plain: str = "{}"
    listed: bool = False
    spaced: bool = False

    def made(self, cell: str) -> str:
        """Return a cell made plain."""
        return self.plain.replace("{}", cell)

    @property
    def texts(self) -> str:
        """The query for its texts, where they are listed."""
        return f"(SELECT unnest(l{self.n}) AS v FROM lists)"


def _fill(place: LandedPlace, file: File, keep_spaces: bool) -> tuple[Sequence[str], list[str], int, int]:
    """Land the file; return the names of its columns, a note for each change of its cells, and how many rows
    were the header again or blank.
    """
    for macro in PLAIN_NUMBERS:
        place.run(macro)
    described = place.run(f"DESCRIBE SELECT * FROM {file.reader}")
    names = file.names or tuple(str(row[0]) for row in described)
    kinds, rounded = looked_at(place, file.reader, {_quoted(str(row[0])): str(row[1]) for row in described})
    columns = [_Landing(n, names[n], landed_cell(*one)) for n, one in enumerate(kinds.items())]
    with place.doing(f"looking through {file.name}"):
        columns = _listed(place, file, columns)
        columns = _spaced(place, columns)
    spaced = [one.n for one in columns if one.spaced]
    commas = _with_commas(place, columns)
    trimmed = f"trim({{}}, {_literal(SPACES)})"
    kept = f"CASE WHEN {trimmed} = '' THEN '' ELSE {{}} END"
    columns = [replace(one, plain=kept if keep_spaces else trimmed) if one.spaced else one for one in columns]
    columns = [
        replace(one, plain="replace(replace({}, '.', ''), ',', '.')") if one.n in commas else one
        for one in columns
    ]
    made = []
    for one in columns:
        cell = one.made(one.cell)
        if one.listed:
            texts = f"SELECT DISTINCT {one.made('v')} AS v FROM {one.texts} ORDER BY v"
            place.run(f"CREATE TYPE t{one.n} AS ENUM ({texts})")
            cell = f"CAST({cell} AS t{one.n})"
        made.append(f'{cell} AS "{one.n}"')
    with place.doing(f"putting {file.name} into a database for a while"):
        place.run(f"CREATE TABLE {_TABLE} AS SELECT {', '.join(made)} FROM {file.rows}")
    ((again, blank),) = place.run("SELECT again, blank FROM lists")
    notes = digits_told([name for name, quoted in zip(names, kinds, strict=True) if quoted in rounded])
    if spaced and not keep_spaces:
        told = joined([shortened(names[n]) for n in spaced])
        notes.append(f"outer spaces removed in {told} (--keep-spaces keeps them)")
    if commas:
        notes.append(f"decimal commas read as points in {joined([shortened(names[n]) for n in commas])}")
    return names, notes, int(again), int(blank)


def _listed(place: Place, file: File, columns: Sequence[_Landing]) -> list[_Landing]:
    """List the texts of the columns that have few different ones, in the table ``lists``; return all columns.

    What the first rows tell is tried first; where it misled, all rows are looked at.
    """
    counts = ", ".join(f"approx_count_distinct({one.cell})" for one in columns)
    head = f"(SELECT * FROM {file.reader} LIMIT {_LOOKED_AT})"
    ((rows, *found),) = place.run(f"SELECT count(*), {counts} FROM {head}")
    most = max(_MOST_OF_LOOKED_AT * int(rows), _FEWEST)
    few = [one for one, count in zip(columns, found, strict=True) if int(count) <= most]
    try:
        _list(place, file, columns, few)
    except InputError:
        (counted_in_all,) = place.run(f"SELECT {counts} FROM {file.reader}")
        few = [one for one, count in zip(columns, counted_in_all, strict=True) if int(count) <= _MOST_LISTED]
        _list(place, file, columns, few)
    lengths = [f"len(l{one.n})" if one in few else "0" for one in columns]
    (sizes,) = place.run(f"SELECT {', '.join(lengths)} FROM lists")
    return [
        replace(one, listed=0 < int(size or 0) <= _MOST_LISTED)
        for one, size in zip(columns, sizes, strict=True)
    ]


def _list(place: Place, file: File, columns: Sequence[_Landing], few: Sequence[_Landing]) -> None:
    """List the texts of the columns that have few; of the others look whether cells have spaces around them.

    One pass over the file.
    """
    data = "" if file.no_data is None else "FILTER (WHERE NOT again AND NOT blank)"
    looked = [
        f"list(DISTINCT {one.cell}) {data} AS l{one.n}"
        if one in few
        else f"bool_or({_is_spaced(one.cell)}) {data} AS s{one.n}"
        for one in columns
    ]
    kinds = ("again", "blank")
    looked += [
        f"{0 if file.no_data is None else f'count(*) FILTER (WHERE {kind})'} AS {kind}" for kind in kinds
    ]
    place.run(f"CREATE TEMP TABLE lists AS SELECT {', '.join(looked)} FROM {file.told}")


def _is_spaced(cell: str) -> str:
    return f"regexp_matches({cell}, {_literal(f'^[{SPACES}]|[{SPACES}]$')})"


def _spaced(place: Place, columns: Sequence[_Landing]) -> list[_Landing]:
    """Return the columns with what ``lists`` says of the spaces around their cells."""
    known = {str(row[0]) for row in place.run("DESCRIBE lists")}
    spaced = [
        f"s{one.n}" if f"s{one.n}" in known else f"(SELECT bool_or({_is_spaced('v')}) FROM {one.texts})"
        for one in columns
    ]
    (told,) = place.run(f"SELECT {', '.join(spaced)} FROM lists")
    return [replace(one, spaced=bool(is_so)) for one, is_so in zip(columns, told, strict=True)]


def _with_commas(place: Place, columns: Sequence[_Landing]) -> list[int]:
    """Return the places of the columns of numbers with decimal commas, of those whose texts are listed."""
    return [
        one.n
        for one in columns
        if one.listed
        and has_decimal_commas([str(value) for (value,) in place.run(f"SELECT v FROM {one.texts}")])
    ]


def _literal(text: str) -> str:
    return "'" + text.replace("'", "''") + "'"


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
