"""Cells of a landed file as the texts that they are in memory: expressions of DuckDB, by its types."""

from __future__ import annotations

from collections.abc import Mapping

from pravix.engines.landed import LandedPlace
from pravix.sources.told import SURE_DIGITS

_DAY = "DATE"
_ZONED = "TIMESTAMP WITH TIME ZONE"
PLAIN_NUMBERS = (
    """CREATE OR REPLACE TEMP MACRO moved(sign, digits, point) AS sign || CASE
        WHEN point <= 0 THEN '0.' || repeat('0', -point) || digits
        WHEN point >= length(digits) THEN digits || repeat('0', point - length(digits))
        ELSE digits[:point] || '.' || digits[point + 1:] END""",
    """CREATE OR REPLACE TEMP MACRO plain_number(told) AS CASE
        WHEN NOT contains(told, 'e') THEN regexp_replace(told, '[.]0$', '')
        ELSE moved(
            CASE WHEN starts_with(told, '-') THEN '-' ELSE '' END,
            rtrim(regexp_replace(split_part(told, 'e', 1), '[-.]', '', 'g'), '0'),
            length(ltrim(split_part(split_part(told, 'e', 1), '.', 1), '-'))
                + CAST(split_part(told, 'e', 2) AS INTEGER)) END""",
)
"""What writes a number without an exponent, and a whole one without a point."""


_DIGITS = {"DOUBLE": SURE_DIGITS["double"], "FLOAT": SURE_DIGITS["float"]}


def _sure(name: str, kind: str) -> str:
    return f"printf('%.{_DIGITS[kind]}g', CAST({name} AS DOUBLE))"


def looked_at(place: LandedPlace, reader: str, kinds: Mapping[str, str]) -> tuple[dict[str, str], list[str]]:
    """Return the types of the columns, of moments that are all midnights a day, and the columns of numbers
    with more digits than are told. One pass over the columns of these types.
    """
    asked = {
        name: f"bool_and(CAST({name} AS DATE) = {name})"
        if kind.startswith("TIMESTAMP")
        else f"bool_or(CAST({_sure(name, kind)} AS {kind}) <> {name})"
        for name, kind in kinds.items()
        if kind in _DIGITS or (kind.startswith("TIMESTAMP") and kind != _ZONED)
    }
    if not asked:
        return dict(kinds), []
    (found,) = place.run(f"SELECT {', '.join(asked.values())} FROM {reader}")
    so = [name for name, is_so in zip(asked, found, strict=True) if is_so]
    days = {name: _DAY for name in so if kinds[name] not in _DIGITS}
    return {**kinds, **days}, [name for name in so if name not in days]


def landed_cell(name: str, kind: str) -> str:
    """Return a cell as the text that it is; a blank as the empty text. As ``arrow_texts`` does."""
    text = f"CAST({name} AS VARCHAR)"
    if kind == "VARCHAR":
        text = name
    elif kind == "BOOLEAN":
        text = f"CASE WHEN {name} THEN 'yes' WHEN NOT {name} THEN 'no' END"
    elif kind == _DAY:
        text = f"CAST(CAST({name} AS DATE) AS VARCHAR)"
    elif kind == _ZONED:
        text = f"CAST(make_timestamp(epoch_us({name})) AS VARCHAR) || '+00:00'"
    elif kind in _DIGITS:
        text = f"nullif(nullif(plain_number({_sure(name, kind)}), 'nan'), '-nan')"
    elif kind == "BLOB":
        text = f"lower(hex({name}))"
    return f"coalesce({text}, '')"
