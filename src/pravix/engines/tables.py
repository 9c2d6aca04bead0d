"""A table, view or query of a database as a flat table that stays where it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import (
    Boolean,
    MetaData,
    Table,
    Text,
    case,
    column,
    func,
    inspect,
    literal,
    or_,
    select,
    table,
    text,
)
from sqlalchemy.engine import Inspector
from sqlalchemy.types import NullType

from pravix.databases.known import known_as
from pravix.engines.connection import database_place
from pravix.engines.flat import Flat
from pravix.engines.place import Place
from pravix.errors import InputError
from pravix.sources.database import found_table
from pravix.sources.reading import Reading


def flat_table(url: str, reading: Reading, written: bool = False) -> Flat:
    """Return the table or query of a database that is to be worked on where it is.

    ``written`` says that its expressions go into statements that others carry out. Raises InputError where
    it is not there, has no rows, or the engine cannot do what is needed.
    """
    place = database_place(url)
    try:
        source, kinds, is_table = _source(place, reading)
        if written:
            place.adaptor = place.adaptor.written()
        return over(place, source, kinds, is_table, reading)
    except BaseException:
        place.close()
        raise


def cell_count(url: str, reading: Reading) -> int:
    """Return how many cells a table or a query of a database has; 0 where that cannot be told.

    What is wrong with it is told by those who read it.
    """
    try:
        place = database_place(url)
    except InputError:
        return 0
    try:
        source, kinds, _ = _source(place, reading)
        return int(place.row(select(func.count()).select_from(source))[0]) * len(kinds)
    except InputError:
        return 0
    finally:
        place.close()


def over(place: Place, source: Any, kinds: Mapping[str, Any], is_table: bool, reading: Reading) -> Flat:
    """Return the rows of something that stands in FROM, whose columns have types where these are known, with
    their spaces and words for no value as wished.
    """
    adaptor = place.adaptor
    columns = {name: source.c[name] for name in kinds}
    nulls = [func.count() - func.count(one) for one in columns.values()]
    rows, *blank = place.row(select(func.count(), *nulls).select_from(source))
    if not rows:
        raise InputError(f"{place.name} gives no rows", "Choose a table or a query with rows.")
    told = {
        name: _told(adaptor, columns[name], kind, bool(count))
        for (name, kind), count in zip(kinds.items(), blank, strict=True)
    }
    texts = {name: told[name] for name, kind in kinds.items() if not adaptor.told_by_itself(kind)}
    nothing = literal("", Text())
    for name in _spaced(place, source, texts):
        trimmed = adaptor.stripped(told[name])
        made = case((trimmed == nothing, nothing), else_=told[name]) if reading.keep_spaces else trimmed
        told[name] = adaptor.bytewise(made)
    for name, words in reading.blank_words(list(kinds), place.name).items():
        cell = told[name] if name in texts else _told(adaptor, columns[name], kinds[name], blank=True)
        told[name] = adaptor.bytewise(without_words(cell, words))
    known = known_as(adaptor.name)
    cells = columns if known is None else dict(zip(columns, known.read_as(columns.values()), strict=True))
    scales = {
        name: int(getattr(kind, "scale", None) or 0)
        for name, kind in kinds.items()
        if known is not None and not known.keeps_places
    }
    compared = {name: (cell,) for name, cell in told.items()}
    return Flat(place, source, cells, compared, int(rows), table=is_table, scales=scales)


def without_words(cell: Any, words: Sequence[str]) -> Any:
    """Return a text, or a blank where it is one of the words that stand for that."""
    one_of = or_(*(cell == literal(word, Text()) for word in words))
    return case((one_of, literal("", Text())), else_=cell)


def _spaced(place: Place, source: Any, cells: Mapping[str, Any]) -> list[str]:
    """Return the columns in which cells have spaces around them, as Python knows spaces."""
    if not cells:
        return []
    wrong = [func.max(case((place.adaptor.has_outer_spaces(cell), 1), else_=0)) for cell in cells.values()]
    found = place.row(select(*wrong).select_from(source))
    return [name for name, is_so in zip(cells, found, strict=True) if is_so]


def _told(adaptor: Any, cell: Any, kind: Any, blank: bool) -> Any:
    """Return what a cell is compared by."""
    if not blank and adaptor.told_by_itself(kind):
        return cell
    if isinstance(kind, Boolean):
        return case((cell, "yes"), (~cell, "no"), else_="")
    as_text = cell if adaptor.is_text(kind) else adaptor.as_text(cell)
    return adaptor.bytewise(func.coalesce(as_text, "") if blank else as_text)


def _source(place: Place, reading: Reading) -> tuple[Any, Mapping[str, Any], bool]:
    """Return what is to stand in FROM, its columns with their types, and whether it is a table."""
    if reading.query is not None:
        told = place.columns_of(text(f"SELECT * FROM ({reading.query}) AS asked WHERE 1 = 0"))
        names = _checked(place, told)
        asked = text(reading.query).columns(*(column(name) for name in names)).subquery("asked")
        return asked, dict.fromkeys(names, NullType()), False
    found = place.worked(lambda: found_table(inspect(place.connection), reading.table, place.name))
    schema, name = found.schema, found.name
    kinds = place.adaptor.columns(place.rows, table(name, schema=schema))
    if kinds is None:
        kinds = place.worked(lambda: _reflected(inspect(place.connection), name, schema))
    columns = (_column(one, kind) for one, kind in kinds.items())
    made = Table(name, MetaData(), *columns, schema=schema, quote=True)
    return place.adaptor.named(made), kinds, not found.view


def _reflected(inspector: Inspector, name: str, schema: str | None) -> dict[str, Any]:
    """Return the columns of a table with their types; its keys and references are not asked for."""
    return {str(one["name"]): one["type"] for one in inspector.get_columns(name, schema=schema)}


def _column(name: str, kind: Any) -> Any:
    from sqlalchemy import Column

    return Column(name, kind, quote=True)


def _checked(place: Place, names: list[str]) -> list[str]:
    if len(set(names)) < len(names) or not all(names):
        raise InputError(
            f"{place.name} gives columns without names of their own", "Name them in the query with AS."
        )
    return names
