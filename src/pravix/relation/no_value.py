"""Words that stand for no value: NA, n/a, NULL and their like, as people and programs write them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from itertools import groupby
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from pravix.relation.grouping import blank_in
from pravix.relation.relation import Column, Relation
from pravix.relation.texts import Texts

UNMISTAKABLE = frozenset("N/A n/a #N/A #NULL! NULL null (null) <null> <NA> NaN nan NAN (blank)".split())
"""Words that mean nothing else."""

_OTHERS = frozenset("NA na N.A. n.a. Null None none NONE nil Nil - -- --- ? . ..".split())
"""Words that may mean something as well: NA is Namibia, Null a name."""

_COMMON = frozenset("None none NONE nil Nil".split())
"""Those of them that are common words, and may be an answer like others."""

_RUNS = ("[A-Z]+", "[a-z]+", "[0-9]+", "[^A-Za-z0-9]+")

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
    alike = {word: _written_like(word) for word in found.values() if word not in UNMISTAKABLE}
    values = (
        [value for code, value in enumerate(column.values) if value and code not in found] if alike else []
    )
    meant = {word for word, pattern in alike.items() if any(map(pattern.fullmatch, values))}
    return tuple(code for code, word in found.items() if word not in meant)


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


def _written_like(word: str) -> re.Pattern[str]:
    """Return what finds texts that are written as a word is: in the same runs of capitals, small letters,
    digits and other marks; those with any letter where it is a common word.
    """
    if word in _COMMON:
        return re.compile(".*[A-Za-z].*", re.DOTALL)
    kinds = (next(run for run in _RUNS if re.fullmatch(run, mark)) for mark in word)
    return re.compile("".join(run for run, _ in groupby(kinds)))
