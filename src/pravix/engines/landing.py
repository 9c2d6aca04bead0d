"""A file that does not fit into memory, landed in a database of DuckDB on disk for as long as it is looked
at.

Columns of few different texts become an enumeration, so that they are compared and grouped as small numbers.
Its texts are those of some rows, spread over all, where hardly another can be expected. A row with another
text, one that is the header again and one that is blank keep all of their cells beside, in the column
``odd``; where there are any, where cells are to be made plain, or a column turns out to have few texts, the
table is made once more from itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from sqlalchemy import BigInteger, Column, MetaData, Table, Text, literal_column

from pravix.engines.adaptor import SPACES
from pravix.engines.flat import Flat
from pravix.engines.landed import LandedPlace
from pravix.engines.landed_cells import PLAIN_NUMBERS, landed_cell, looked_at
from pravix.engines.landing_files import File, literal
from pravix.engines.place import Place
from pravix.errors import InputError
from pravix.progress import Progress, silent
from pravix.sources.account import Account
from pravix.sources.cells import has_decimal_commas
from pravix.sources.reading import Reading
from pravix.sources.told import digits_told
from pravix.temporary import temporary_folder
from pravix.wording import counted, joined, shortened

_WHOLE = 16 << 20
_SHARE = 1 / 20
_MOST_LOOKED_AT = 128 << 20
_MOST_LISTED = 200_000
_MOST_DIFFERENT = 0.5
_MOST_UNSEEN = 0.05
_FEWEST = 1_000
_MISSED = 200_000_000
"""For each cell that is not in its enumeration DuckDB writes all of its texts into a complaint, which nobody
reads: so many bytes take it some seconds."""

_AT_MOST = 3
"""Where no text came once, at most about so many rows as large as those seen have another one."""

_DRAWN = 64 << 20
"""About what the rows will take that are drawn to be judged."""

_TABLE = "flat"


def landed(
    file: File, memory: int, reading: Reading | None = None, progress: Progress = silent
) -> tuple[Flat, Account]:
    """Return a file as a flat table in DuckDB, see ``LandedPlace`` for the ``memory`` (in bytes). Of the
    ``reading`` only what becomes of cells counts here: their spaces, and words for no value.

    Raises InputError where a row is not as wide as the header, or the disk is full. Cost: one pass over the
    file, one over its bytes or some of its rows, and one over the table where some of it is odd.
    """
    place = LandedPlace(file.name, temporary_folder(), memory, progress)
    try:
        filled = _filled(place, file, reading or Reading())
        ((rows,),) = place.run(f"SELECT COUNT(*) FROM {_TABLE}")
        if not rows:
            raise InputError(f"{file.name} holds no data rows", "Give a file with at least one record.")
        place.group_directly(len(filled.names))
        place.yield_memory(_DRAWN)
    except BaseException:
        with suppress(Exception):
            place.close()
        raise
    source = Table(
        _TABLE, MetaData(), *(Column(str(n), Text()) for n in range(len(filled.names))), quote=True
    )
    cells = {name: source.c[str(n)] for n, name in enumerate(filled.names)}
    compared = {name: (cell,) for name, cell in cells.items()}
    numbered = literal_column("rowid", BigInteger)
    account = Account(file.name, file.form, (*file.notes, *filled.notes, *filled.left_out(int(rows))))
    return Flat(place, source, cells, compared, int(rows), numbered, file.first_row), account


@dataclass(frozen=True)
class _Filled:
    """What was landed: the columns, a note for each change of their cells, and how many ``lines`` there were
    (None where that is not known), of which some were the header ``again`` or rows of ``blank`` cells.
    """

    names: Sequence[str]
    notes: Sequence[str]
    lines: int | None
    again: int
    blank: int

    def left_out(self, rows: int) -> list[str]:
        """Return the notes on what is no data, besides so many rows."""
        empty = 0 if self.lines is None else max(self.lines - rows - self.again - self.blank, 0)
        notes = []
        for count, told in ((self.again, "repeated header"), (self.blank + empty, "blank line")):
            if count:
                without = "it" if count == 1 else "them"
                notes.append(f"{counted(count, told)} left out; rows are numbered without {without}")
        return notes


@dataclass(frozen=True)
class _Landing:
    """A column on its way, with its ``cell`` in the file as a text.

    Where it is ``listed``, its texts are few and known, but for some that may be ``lacking``; where that may
    ``turn_out`` when all are in the table, they are listed then. Texts may be ``spaced``: there is a space
    around one of them; or ``pointed``: they are numbers with decimal commas. Some stand for a ``blank``.
    """

    n: int
    name: str
    cell: str
    listed: bool = False
    turn_out: bool = False
    lacking: bool = False
    spaced: bool = False
    pointed: bool = False
    blank: Sequence[str] = ()

    @property
    def changed(self) -> bool:
        """Whether it is to be made once more."""
        return self.lacking or self.spaced or self.pointed or bool(self.blank)

    @property
    def texts(self) -> str:
        """The table of its texts."""
        return f'"texts {self.n}"'

    @property
    def whole(self) -> str:
        """Its text in the table, where some are beside."""
        return f'coalesce(CAST("{self.n}" AS VARCHAR), odd[{self.n + 1}])' if self.listed else f'"{self.n}"'

    def plain(self, cell: str, keep_spaces: bool) -> str:
        """Return a cell made plain."""
        if self.spaced:
            only_spaces = f"regexp_matches({cell}, {literal(f'^[{SPACES}]*$')})"
            kept = f"CASE WHEN {only_spaces} THEN '' ELSE {cell} END"
            cell = kept if keep_spaces else f"trim({cell}, {literal(SPACES)})"
        if self.blank:
            cell = f"CASE WHEN {cell} IN ({', '.join(map(literal, self.blank))}) THEN '' ELSE {cell} END"
        return f"replace(replace({cell}, '.', ''), ',', '.')" if self.pointed else cell


def _filled(place: LandedPlace, file: File, reading: Reading) -> _Filled:
    for macro in PLAIN_NUMBERS:
        place.run(macro)
    described = place.run(f"DESCRIBE SELECT * FROM {file.reader}")
    names = file.names or tuple(str(row[0]) for row in described)
    kinds, rounded = looked_at(place, file.reader, {_quoted(str(row[0])): str(row[1]) for row in described})
    words, keep_spaces = reading.blank_words(names, file.name), reading.keep_spaces
    columns = [  # The cells of a delimited text are texts as they come.
        _Landing(n, name, landed_cell(*one) if file.plainly is None else one[0], blank=words.get(name, ()))
        for n, (name, one) in enumerate(zip(names, kinds.items(), strict=True))
    ]
    with place.doing(f"looking through {file.name}"), place.in_any_order():
        share = min(1.0, max(_WHOLE, min(_SHARE * file.bytes, _MOST_LOOKED_AT)) / max(file.bytes, 1))
        lines = _look_at_some(place, file, columns, share)
        columns = [_listed(place, one, share) for one in columns]
        place.run("DROP TABLE seen")
    with place.doing(f"putting {file.name} into a database for a while"), place.room_for(len(columns) + 1):
        place.run(f"CREATE TABLE {_TABLE} AS {_landing(file, columns)}")
        again, blank = _no_data(file, [f"odd[{one.n + 1}]" for one in columns])
        counts = f"count(*) FILTER (WHERE {again}), count(*) FILTER (WHERE {blank})"
        ((repeated, empty),) = place.run(f"SELECT {counts} FROM {_TABLE} WHERE odd IS NOT NULL")
        data = f"{_TABLE} WHERE odd IS NULL OR NOT ({again} OR {blank})" if repeated or empty else _TABLE
        columns = _looked_through(place, columns, f"(SELECT * FROM {data})", keep_spaces)
        if repeated or empty or any(one.changed for one in columns):
            _settle(place, columns, data, keep_spaces)
        else:
            place.run(f"ALTER TABLE {_TABLE} DROP COLUMN odd")
    notes = digits_told([name for name, quoted in zip(names, kinds, strict=True) if quoted in rounded])
    spaced = [shortened(one.name) for one in columns if one.spaced and not keep_spaces]
    pointed = [shortened(one.name) for one in columns if one.pointed]
    if spaced:
        notes.append(f"outer spaces removed in {joined(spaced)} (--keep-spaces keeps them)")
    if pointed:
        notes.append(f"decimal commas read as points in {joined(pointed)}")
    return _Filled(names, notes, lines, int(repeated), int(empty))


def _look_at_some(place: LandedPlace, file: File, columns: Sequence[_Landing], share: float) -> int | None:
    """Put the texts of a share of the rows into the table ``seen``; return how many lines the file has, where
    that is known.
    """
    cells = ", ".join(f'{one.cell} AS "{one.n}"' for one in columns)
    made = f"CREATE OR REPLACE TEMP TABLE seen AS SELECT {cells} FROM"
    lines = None
    if file.lines is not None:
        path = place.beside("some.csv")
        lines = file.lines.looked_through(path, None if share == 1 else round(1 / share))
        if share < 1:
            with suppress(InputError):
                place.run(f"{made} {file.reader_of_lines(path)}")
                ((rows,),) = place.run("SELECT count(*) FROM seen")
                if rows >= _FEWEST:
                    return lines
    sample = "" if share == 1 else f" USING SAMPLE {100 * share:.4f} PERCENT (bernoulli, 1)"
    place.run(f"{made} {file.reader}{sample}")
    return lines


def _listed(place: Place, column: _Landing, share: float) -> _Landing:
    """Return a column with whether its texts are few, as far as a share of the rows tells that were ``seen``,
    and list them then.

    How likely the next row has a text that none has yet is told by those that came once. Source: I. J. Good,
    "The population frequencies of species", Biometrika 40, 1953.
    """
    place.run(
        f'CREATE TEMP TABLE {column.texts} AS SELECT "{column.n}" AS v, count(*) AS k FROM seen GROUP BY ALL'
    )
    ((rows, different, once, size),) = place.run(
        "SELECT coalesce(sum(k), 0), count(*), count(*) FILTER (WHERE k = 1), "
        f"coalesce(sum(strlen(v) + 4), 0) FROM {column.texts}"
    )
    few, surely = different <= max(_MOST_DIFFERENT * rows, _FEWEST), True
    if share < 1:
        few, surely = once <= _MOST_UNSEEN * rows, (once + _AT_MOST) / share * size <= _MISSED
    if not few or not surely or different > _MOST_LISTED:
        place.run(f"DROP TABLE {column.texts}")
        return replace(column, turn_out=few and different <= _MOST_LISTED)
    place.run(f"CREATE TYPE t{column.n} AS ENUM (SELECT v FROM {column.texts} UNION SELECT '' ORDER BY v)")
    return replace(column, listed=True)


def _landing(file: File, columns: Sequence[_Landing]) -> str:
    """Return the query for all rows: texts as they are, and what they are in their enumerations."""
    cells = ", ".join(f'{one.cell} AS "c{one.n}"' for one in columns)
    tried = "".join(f', TRY_CAST("c{one.n}" AS t{one.n}) AS "e{one.n}"' for one in columns if one.listed)
    beside = [f'"e{one.n}" IS NULL' for one in columns if one.listed]
    if file.names:
        again, blank = _no_data(file, [f'"c{one.n}"' for one in columns])
        first, header = '"c0"', literal(file.names[0])
        spaced = f"{first} < '!' OR {first} >= '\x7f' OR starts_with({first}, {header} || ' ')"
        suspected = f"{first} = {header} OR {spaced}"
        beside.append(f"CASE WHEN {suspected} THEN {again} OR {blank} ELSE false END")
    whole = ", ".join(f'"c{one.n}"' for one in columns)
    odd = f"CASE WHEN {' OR '.join(beside) or 'false'} THEN [{whole}] END"
    kept = ", ".join(f'"{"e" if one.listed else "c"}{one.n}" AS "{one.n}"' for one in columns)
    return f"SELECT {kept}, {odd} AS odd FROM (SELECT *{tried} FROM (SELECT {cells} FROM {file.reader}))"


def _no_data(file: File, cells: Sequence[str]) -> tuple[str, str]:
    """Return the conditions that the cells of a row are those of the header again, and that all are blank."""
    if not file.names:
        return "false", "false"
    trimmed = [f"trim({cell}, {literal(SPACES)})" for cell in cells]
    again = (f"{cell} = {literal(name)}" for cell, name in zip(trimmed, file.names, strict=True))
    blank = (f"{cell} = ''" for cell in trimmed)
    return f"({' AND '.join(again)})", f"({' AND '.join(blank)})"


def _looked_through(
    place: Place, columns: Sequence[_Landing], data: str, keep_spaces: bool
) -> list[_Landing]:
    """Return the columns with what the ``data`` in the table tell of them."""
    asked = [
        f'count(*) - count("{one.n}")' if one.listed else f"bool_or({_is_spaced(one.whole)})"
        for one in columns
    ]
    (told,) = place.run(f"SELECT {', '.join(asked)} FROM {data}")
    looked = []
    for one, found in zip(columns, told, strict=True):
        if one.turn_out:
            one = _turned_out(place, one, data)
        elif one.listed and found:
            one = _completed(place, one, data)
        if not one.listed:
            looked.append(replace(one, spaced=bool(found)))
            continue
        texts = _suspect(place, one, data)
        trimmed = [text.strip(SPACES) for text in texts]
        numbers = [text for text in (texts if keep_spaces else trimmed) if text not in one.blank]
        looked.append(
            replace(
                one,
                spaced=texts != trimmed,
                pointed=has_decimal_commas(numbers),
            )
        )
    return looked


def _turned_out(place: Place, column: _Landing, data: str) -> _Landing:
    """Return a column of texts of the ``data`` as one whose texts are listed, if they are few."""
    different = f'SELECT DISTINCT "{column.n}" AS v, 0 AS k FROM {data} LIMIT {_MOST_LISTED + 1}'
    place.run(f"CREATE TEMP TABLE {column.texts} AS {different}")
    ((found,),) = place.run(f"SELECT count(*) FROM {column.texts}")
    return column if found > _MOST_LISTED else replace(column, listed=True, lacking=True)


def _completed(place: Place, column: _Landing, data: str) -> _Landing:
    """Return a column to whose list the texts came that it lacked in the ``data``."""
    unlisted = f'SELECT DISTINCT {column.whole}, 0 FROM {data} WHERE "{column.n}" IS NULL'
    place.run(f"INSERT INTO {column.texts} {unlisted}")
    return replace(column, lacking=True)


def _suspect(place: Place, column: _Landing, data: str) -> list[str]:
    """Return the texts of a column that the ``data`` hold, where some of its list may be not plain."""
    ((suspect,),) = place.run(f"SELECT bool_or({_is_spaced('v')} OR contains(v, ',')) FROM {column.texts}")
    if not suspect:
        return []
    held = f"SELECT DISTINCT {column.whole} AS v, 0 AS k FROM {data}"
    place.run(f"CREATE OR REPLACE TEMP TABLE {column.texts} AS {held}")
    return [str(text) for (text,) in place.run(f"SELECT v FROM {column.texts}")]


def _is_spaced(cell: str) -> str:
    """Return the condition that a text has a space around it; few begin or end with what may be one."""
    suspected = f"{cell} < '!' OR {cell} >= '\x7f' OR {cell}[-1] NOT BETWEEN '!' AND '~'"
    spaced = f"regexp_matches({cell}, {literal(f'^[{SPACES}]|[{SPACES}]$')})"
    return f"CASE WHEN {suspected} THEN {spaced} ELSE false END"


def _settle(place: Place, columns: Sequence[_Landing], data: str, keep_spaces: bool) -> None:
    """Make the table once more, of its ``data``: with all texts in their enumerations, and plain."""
    made = []
    for one in columns:
        cell = one.plain(one.whole, keep_spaces) if one.changed else f'"{one.n}"'
        if one.changed and one.listed:
            texts = f"SELECT DISTINCT {one.plain('v', keep_spaces)} AS v FROM {one.texts}"
            ((different,),) = place.run(f"SELECT count(*) FROM ({texts})")
            if different <= _MOST_LISTED:
                place.run(f"CREATE TYPE u{one.n} AS ENUM ({texts} ORDER BY v)")
                cell = f"CAST({cell} AS u{one.n})"
        made.append(f'{cell} AS "{one.n}"')
    place.run(f"CREATE TABLE settled AS SELECT {', '.join(made)} FROM {data}")
    place.run(f"DROP TABLE {_TABLE}")
    place.run(f"ALTER TABLE settled RENAME TO {_TABLE}")


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
