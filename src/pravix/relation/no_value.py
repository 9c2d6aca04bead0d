"""Words that stand for no value: NA, n/a, NULL and their like, as people and programs write them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from pravix.relation.grouping import blank_in
from pravix.relation.relation import Column, Relation
from pravix.relation.texts import Texts

UNMISTAKABLE = frozenset("N/A n/a #N/A #NULL! NULL Null null (null) <null> <NA> NaN nan NAN (blank)".split())
"""Words that mean nothing else."""

_OTHERS = frozenset("NA na N.A. n.a. None none NONE nil Nil - -- --- ? . ..".split())
"""Words that may mean something as well: NA is Namibia."""

_RUNS = (
    (re.compile("[^A-Za-z0-9]+"), "."),
    (re.compile("[A-Z]+"), "A"),
    (re.compile("[a-z]+"), "a"),
    (re.compile("[0-9]+"), "9"),
)

_KNOWN: WeakKeyDictionary[Column, tuple[int, ...]] = WeakKeyDictionary()


def no_value_codes(column: Column) -> tuple[int, ...]:
    """Return the codes of a column's values that look like words for no value; worked out once for each.

    One that may mean something as well counts only where no other value is written as it is: NA among
    numbers, but not among the codes of countries. Linear in the different values.
    """
    column = column.same_values
    found = _KNOWN.get(column)
    if found is None:
        found = _KNOWN[column] = _no_value_codes(column)
    return found


def _no_value_codes(column: Column) -> tuple[int, ...]:
    found = {code: word for code, word in _words(column.values) if column.counts[code]}
    others = column.distinct - len(found)
    if not found or others < 1:
        return ()
    doubtful = {_shape(word) for word in found.values() if word not in UNMISTAKABLE}
    if doubtful:
        doubtful &= {_shape(value) for code, value in enumerate(column.values) if code not in found and value}
    return tuple(code for code, word in found.items() if word in UNMISTAKABLE or _shape(word) not in doubtful)


def says_nothing_in(relation: Relation, names: Iterable[str]) -> NDArray[np.bool_]:
    """Return, for each row, whether any of the columns named is blank or holds a word for no value."""
    names = list(names)
    nothing = blank_in(relation, names)
    for column in map(relation.column, names):
        if codes := no_value_codes(column):
            nothing |= np.isin(column.codes, codes)
    return nothing


def _words(values: Sequence[str]) -> list[tuple[int, str]]:
    """Return the words for no value among different values, each with its place."""
    if not isinstance(values, Texts):
        return [(n, value) for n, value in enumerate(values) if value in UNMISTAKABLE or value in _OTHERS]
    found, sizes = [], np.diff(values.bounds)
    for word in sorted(UNMISTAKABLE | _OTHERS):
        places = np.flatnonzero(sizes == len(word))
        for offset, letter in enumerate(word.encode()):
            places = places[values.data[values.bounds[places] + offset] == letter]
        found += [(int(place), word) for place in places]
    return found


def _shape(value: str) -> str:
    """Return how a value is written: which runs of capitals, small letters, digits and others it has."""
    for run, mark in _RUNS:
        value = run.sub(mark, value)
    return value
