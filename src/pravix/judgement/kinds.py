"""What kind of thing a column holds, as far as its name and its values tell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from weakref import WeakKeyDictionary

import numpy as np

from pravix.judgement.column_roles import ColumnRole, Probabilities, column_roles, epoch, told
from pravix.judgement.use import Use
from pravix.judgement.weights import CLEARLY_GIVEN_OUT, CLEARLY_MEASURED, CLEARLY_NO_THING
from pravix.relation.lexicon import IDENTIFIER_WORDS, LABEL_WORDS
from pravix.relation.relation import Column
from pravix.relation.texts import lengths, together
from pravix.relation.types import Kind, column_type
from pravix.relation.words import noun, words

_NO_OBJECTS = (Use.MEASURE, Use.PROSE, Use.MARK, Use.MOMENT)
_MOMENTS = (Kind.DATE, Kind.TIME, Kind.MOMENT, Kind.DECIMAL)
_LONGEST_CODE = 8
_ALIKE = 0.9


_USE_OF = {
    ColumnRole.IDENTIFIER: Use.IDENTIFIER,
    ColumnRole.QUANTITY: Use.MEASURE,
    ColumnRole.FLAG: Use.MARK,
    ColumnRole.CONTACT: Use.CONTACT,
    ColumnRole.COORDINATE: Use.MEASURE,
    ColumnRole.TEXT: Use.PROSE,
}

_IDENTIFY_NOTHING = (
    ColumnRole.QUANTITY,
    ColumnRole.FLAG,
    ColumnRole.CONTACT,
    ColumnRole.COORDINATE,
    ColumnRole.TEXT,
)
_MAY_IDENTIFY = (ColumnRole.IDENTIFIER, ColumnRole.NAME, ColumnRole.CATEGORY)


def uses(columns: Sequence[Column], roles: Mapping[str, Probabilities] | None = None) -> dict[str, Use]:
    """Return the kind of thing that each column of a table holds, given how likely it is what.

    Where the name of one begins the names of others (``depot``, ``depot_town``), the others describe it,
    and it identifies what they describe; beside a code or number of its own (``keeper_no``, ``keeper``) it is
    the name of the thing. Quadratic in the columns.
    """
    roles = column_roles(columns) if roles is None else roles
    found = {column.name: _thing(column, roles[column.name]) for column in columns}
    names = {name: tuple(told(name)) for name in found}
    whole = {own for name, own in names.items() if own and found[name] not in _NO_OBJECTS}
    codes = {column.name for column in columns if codelike(column)}
    coded = {name[:-1] for name in names.values() if name and name[-1] in IDENTIFIER_WORDS - LABEL_WORDS}
    begun = {name[:length] for name in names.values() for length in range(1, len(name))}
    for name, kind in found.items():
        if names[name] in coded and kind is Use.LABEL:
            found[name] = Use.TITLE
        elif names[name] in begun - coded and kind in (Use.LABEL, Use.NUMBER, Use.SERIAL):
            found[name] = Use.IDENTIFIER
    described = {tuple(noun(name)) for name, kind in found.items() if kind in (Use.IDENTIFIER, Use.TITLE)}
    for name, kind in found.items():
        begins = any(names[name][:length] in described for length in range(1, len(names[name])))
        of_another = any(names[name][:length] in whole for length in range(1, len(names[name])))
        described_there = begins and not _identifies(names[name]) and (of_another or name not in codes)
        if described_there and kind in (Use.LABEL, Use.IDENTIFIER):
            found[name] = Use.DETAIL
    return found


def _identifies(name: Sequence[str]) -> bool:
    return bool(name) and name[-1] in IDENTIFIER_WORDS | LABEL_WORDS


def _thing(column: Column, roles: Probabilities) -> Use:
    """Return the kind of thing that a column holds: by its likeliest role, its type and its name."""
    kind = column_type(column).meant
    role = max(roles, key=roles.__getitem__)
    if role in _IDENTIFY_NOTHING and roles[role] < CLEARLY_NO_THING and kind in (Kind.TEXT, Kind.CODE):
        role = max(_MAY_IDENTIFY, key=roles.__getitem__)
    if role is ColumnRole.TIME:
        return Use.MOMENT if kind in _MOMENTS or epoch(column) else Use.PERIOD
    if role is ColumnRole.IDENTIFIER and kind is Kind.INTEGER:
        return Use.IDENTIFIER if roles[role] >= CLEARLY_GIVEN_OUT else Use.SERIAL
    if role is ColumnRole.QUANTITY and kind is Kind.INTEGER:
        return Use.MEASURE if roles[role] >= CLEARLY_MEASURED else Use.NUMBER
    if role in (ColumnRole.NAME, ColumnRole.CATEGORY):
        return Use.TITLE if set(told(column.name)[-1:]) & LABEL_WORDS else Use.LABEL
    return _USE_OF[role]


def codelike(column: Column) -> bool:
    """Whether values look like codes that were given: single words of one short length, or nearly so.

    It says nothing about what follows from them, only that they are fit to refer by.
    """
    return not set(words(column.name)[-1:]) & LABEL_WORDS and _looks_given(column.same_values)


_GIVEN: WeakKeyDictionary[Column, bool] = WeakKeyDictionary()


def _looks_given(column: Column) -> bool:
    """Whether values are single words of one short length, or nearly so; worked out once for each column."""
    found = _GIVEN.get(column)
    if found is None:
        values = column.present_values
        found = len(values) > 1 and " " not in together(values)
        if found:
            times = np.bincount(lengths(values))
            usual = int(times.argmax())
            found = usual <= _LONGEST_CODE and bool(times[usual] >= _ALIKE * len(values))
        _GIVEN[column] = found
    return found


def free_name(column: Column) -> bool:
    """Whether values are words as people choose them, and not codes that were given out."""
    last = words(column.name)[-1:]
    return (
        column_type(column).meant is Kind.TEXT
        and not codelike(column)
        and not set(last) & (IDENTIFIER_WORDS - LABEL_WORDS)
    )
