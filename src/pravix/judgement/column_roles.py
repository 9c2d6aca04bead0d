"""What a column is, with probabilities: an identifier, a name, a quantity, a time, and so on.

A multinomial logistic regression over what the words of the name say, what form the values have, how they
are spread and what the other names of the header say. No single term decides. ``tools/fit_roles.py`` fits
the weights and measures them on sources left out.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from enum import Enum
from math import exp, log2
from statistics import mean, median
from weakref import WeakKeyDictionary

import numpy as np

from pravix.judgement.role_weights import ROLE_WEIGHTS
from pravix.judgement.standards import checked, share_of
from pravix.relation.hashes import text_hashes
from pravix.relation.lexicon import (
    CATEGORY_WORDS,
    CLOCK_WORDS,
    CONTACT_WORDS,
    COORDINATE_WORDS,
    COUNT_WORDS,
    DAY_WORDS,
    FLAG_WORDS,
    GLUED,
    HOUR_WORDS,
    IDENTIFIER_WORDS,
    LABEL_WORDS,
    MEASURE_WORDS,
    MOMENT_WORDS,
    PERIOD_WORDS,
    PERSON_WORDS,
    PLACE_WORDS,
    REMARK_WORDS,
)
from pravix.relation.relation import Column
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words


class ColumnRole(Enum):
    """What the values of a column are to the people who wrote them."""

    IDENTIFIER = "identifier"
    NAME = "name"
    CATEGORY = "category"
    QUANTITY = "quantity"
    TIME = "time"
    FLAG = "flag"
    CONTACT = "contact"
    COORDINATE = "coordinate"
    TEXT = "free text"


Terms = Mapping[str, float]
Probabilities = Mapping[ColumnRole, float]

_CONTACT_FORM = re.compile(r"[^@\s]+@[^@\s]+\.[a-z]+|(?:\+\d|0\d+[ /-])[\d ()/-]{4,}", re.IGNORECASE)
_LOOKED_AT = 500
_SHORTEST_STEM = 3
_YEARS = range(1700, 2101)
_EPOCH = range(500_000_000, 2_000_000_000)
"""Seconds since 1970, of the years from 1985 to 2033."""

_DAY = 86_400
_SIXTY = 60
_DAYS = 31
_CLOCK = 2400
_FULL_CIRCLE = 360
_FEW = 5
_SERIAL = 12
_PLACES = 4
_WORD_LISTS: Mapping[str, frozenset[str]] = {
    "identifier": IDENTIFIER_WORDS - LABEL_WORDS,
    "name": LABEL_WORDS,
    "contact": CONTACT_WORDS,
    "measure": MEASURE_WORDS,
    "count": COUNT_WORDS,
    "period": PERIOD_WORDS,
    "day": DAY_WORDS,
    "clock": CLOCK_WORDS,
    "hour": HOUR_WORDS,
    "moment": MOMENT_WORDS,
    "person": PERSON_WORDS,
    "place": PLACE_WORDS,
    "category": CATEGORY_WORDS,
    "flag": FLAG_WORDS,
    "coordinate": COORDINATE_WORDS,
    "remark": REMARK_WORDS,
}
_STANDARDS = ("countries", "currencies", "languages", "units", "zones", "country names", "months and days")
_DIGIT, _CAPITAL, _SMALL = re.compile(r"\d+"), re.compile(r"[A-Z]+"), re.compile(r"[a-z]+")

_KNOWN: WeakKeyDictionary[Column, Terms] = WeakKeyDictionary()
_SOME: WeakKeyDictionary[Column, Sequence[str]] = WeakKeyDictionary()


def column_roles(columns: Sequence[Column]) -> dict[str, Probabilities]:
    """Return how likely each column of a table is to be what, the probabilities of one adding up to 1.

    Neither the order of the rows nor that of the columns matters. Linear in the different values, and
    quadratic in the columns.
    """
    header = header_terms([column.name for column in columns])
    return {column.name: probabilities(terms(column) | header[column.name]) for column in columns}


def probabilities(found: Terms) -> Probabilities:
    """Return the probability of each role, given the terms of a column. What has no weight says nothing."""
    known = [(ROLE_WEIGHTS[term], value) for term, value in found.items() if term in ROLE_WEIGHTS]
    sums = [sum(weights[place] * value for weights, value in known) for place in range(len(ColumnRole))]
    shares = [exp(one - max(sums)) for one in sums]
    return {role: share / sum(shares) for role, share in zip(ColumnRole, shares, strict=True)}


def terms(column: Column) -> dict[str, float]:
    """Return what the name and the values of a column say, each term about between -1 and 4."""
    found = _KNOWN.get(column)
    if found is None:
        found = _KNOWN[column] = {
            term: value
            for source in (
                _of_name(column.name),
                _of_form(column),
                _of_numbers(column),
                _of_standards(column),
            )
            for term, value in source
            if value
        }
    return dict(found)


def looked_at(column: Column) -> Sequence[str]:
    """Return the values of a column, or as many of them as suffice, whatever the order of the rows."""
    values = column.present_values
    if len(values) <= _LOOKED_AT:
        return values
    column = column.same_values
    found = _SOME.get(column)
    if found is None:
        found = _SOME[column] = _some(values)
    return found


def _some(values: Sequence[str]) -> list[str]:
    """Return the values with the smallest hashes."""
    hashes = text_hashes(values)
    last = np.partition(hashes, _LOOKED_AT - 1)[_LOOKED_AT - 1]
    chosen = [(int(hashes[place]), values[place]) for place in np.flatnonzero(hashes <= last).tolist()]
    return [value for _, value in sorted(chosen)[:_LOOKED_AT]]


def told(name: str) -> list[str]:
    """Return the words of a name without the numbers at its end: Iso2, alpha_3."""
    found = words(name)
    while len(found) > 1 and found[-1].isdigit():
        found.pop()
    return found


def _of_name(name: str) -> Iterator[tuple[str, float]]:
    yield "any", 1.0
    found = told(name)
    last, rest = found[-1:], found[:-1]
    for about, known in _WORD_LISTS.items():
        yield f"last word: {about}", float(any(word in known for word in last))
        yield f"earlier word: {about}", float(any(word in known for word in rest))
    identifies = any(word in IDENTIFIER_WORDS - LABEL_WORDS for word in last)
    yield "identifier of a period", float(identifies and any(word in PERIOD_WORDS for word in rest))
    for about, known in (("identifier", frozenset(GLUED)), ("name", LABEL_WORDS), ("period", PERIOD_WORDS)):
        yield f"glued ending: {about}", float(any(_glued(word, known) for word in last))
    yield "words", min(3.0, len(found) - 1.0)
    yield "is a letter", float(bool(last) and len(last[0]) == 1)
    yield "in the plural", float(bool(last) and last[0].endswith("s") and not last[0].endswith("ss"))


def _glued(word: str, known: frozenset[str]) -> bool:
    """Whether a word ends like another without a gap: tailnum, custid."""
    return any(
        word != one and word.endswith(one) and len(word) >= len(one) + _SHORTEST_STEM
        for one in known
        if len(one) > 1
    )


def _of_form(column: Column) -> Iterator[tuple[str, float]]:
    """Yield what the forms of the values say, by quantiles and shares and never by the extremes."""
    kind, values = column_type(column).meant, looked_at(column)
    if not values:
        return
    number = len(values)
    yield f"type: {kind.value}", 1.0
    yield "values", min(10.0, log2(column.distinct)) / 4
    rows = max(1, column.filled)
    yield "repeated", min(10.0, log2(rows / column.distinct)) / 4
    yield "two values", float(column.distinct == 2)
    yield "few values", float(column.distinct <= _FEW)
    if kind in (Kind.INTEGER, Kind.DECIMAL):
        return
    lengths = sorted(map(len, values))
    yield "usual length", log2(1 + lengths[(number * 9) // 10 - (number > 1)]) / 3
    yield "one length", Counter(lengths).most_common(1)[0][1] / number
    shapes = Counter(map(_shape, values))
    yield "one form", shapes.most_common(1)[0][1] / number
    yield "spaces", sum(" " in value for value in values) / number
    yield "several words", sum(min(8, value.count(" ")) for value in values) / number / 2
    yield "digits", sum(any(map(str.isdigit, value)) for value in values) / number
    yield "capitals only", sum(value.isupper() for value in values) / number
    yield "begins small", sum(value[0].islower() for value in values) / number
    yield (
        "begins capital, goes on small",
        sum(value[:1].isupper() and value[1:2].islower() for value in values) / number,
    )
    yield "punctuation", sum(any(mark in value for mark in ",;!?") for value in values) / number
    yield "contact form", float(all(map(_CONTACT_FORM.fullmatch, values)))
    yield "single letters", float(lengths[-1] == 1)


def _shape(value: str) -> str:
    return _SMALL.sub("a", _CAPITAL.sub("A", _DIGIT.sub("9", value)))


def _of_numbers(column: Column) -> Iterator[tuple[str, float]]:
    """Yield what the spread of numbers says."""
    kind = column_type(column).meant
    if kind not in (Kind.INTEGER, Kind.DECIMAL):
        return
    values = looked_at(column)
    numbers = sorted(map(float, values))
    low, high = numbers[0], numbers[-1]
    places = [len(value.partition(".")[2]) for value in values]
    if kind is Kind.DECIMAL:
        yield "one number of places", float(len(set(places)) == 1)
        yield "many places", float(median(places) >= _PLACES)
        yield (
            "within a circle",
            float(median(places) >= _PLACES and low >= -_FULL_CIRCLE and high <= _FULL_CIRCLE),
        )
        return
    whole = [int(one) for one in numbers]
    years = low in _YEARS and high in _YEARS
    yield "years", float(years)
    yield "negative", float(low < 0)
    yield "nought and one", float(low >= 0 and high <= 1)
    yield "from nought", float(low == 0 and high > 1)
    for bound, name in ((_DAYS, "days"), (_SIXTY, "sixty")):
        yield f"within {name}", float(low >= 0 and high <= bound)
    yield (
        "a clock",
        float(low >= 0 and high <= _CLOCK and high > _SIXTY and all(one % 100 < _SIXTY for one in whole)),
    )
    yield "an epoch", float(epoch(column))
    yield "one length of digits", float(len(set(map(len, values))) == 1 and len(values[0]) > 2 and not years)
    yield "no gap", float(column.distinct == high - low + 1 > _SERIAL)
    yield "short run", float(1 < column.distinct == high - low + 1 <= _SERIAL)
    yield (
        "gaps",
        min(4.0, log2(1 + (high - low + 1) / (50 * column.distinct)) / 2) if len(numbers) > _FEW else 0.0,
    )
    yield "magnitudes", min(4.0, log2((1 + abs(high)) / (1 + abs(low)))) / 4
    yield (
        "skew",
        max(-1.0, min(2.0, (mean(numbers) - median(numbers)) / (high - low))) * 4 if high > low else 0.0,
    )
    round_ones = sum(one % 10 == 0 for one in whole) / len(whole)
    yield "round", max(0.0, round_ones - 0.15) if high > _SIXTY else 0.0


def epoch(column: Column) -> bool:
    """Whether whole numbers are seconds since 1970."""
    if column_type(column).kind is not Kind.INTEGER:
        return False
    numbers = list(map(int, looked_at(column)))
    low, high = min(numbers), max(numbers)
    return low in _EPOCH and high in _EPOCH and high - low > _DAY


def _of_standards(column: Column) -> Iterator[tuple[str, float]]:
    kind = column_type(column).meant
    values = looked_at(column)
    if kind in (Kind.TEXT, Kind.CODE) and values:
        for name in _STANDARDS:
            yield f"in a list: {name}", max(0.0, 2 * share_of(values, name) - 1)
    if kind in (Kind.TEXT, Kind.CODE, Kind.INTEGER):
        yield "check digits", float(checked(values))


def header_terms(names: Sequence[str]) -> dict[str, dict[str, float]]:
    """Return what the other names of a header say of each column: the nouns that they share."""
    told_by = {name: tuple(told(name)) for name in names}
    prefixes = Counter(own[:length] for own in told_by.values() for length in range(1, len(own)))
    identify = IDENTIFIER_WORDS - LABEL_WORDS
    coded = {own[:-1] for own in told_by.values() if len(own) > 1 and own[-1] in identify}
    named = {own[:-1] for own in told_by.values() if len(own) > 1 and own[-1] in LABEL_WORDS}
    whole = set(told_by.values())

    def of(own: tuple[str, ...]) -> dict[str, float]:
        noun = own[:-1]
        return {
            "begins other names": float(own in prefixes),
            "has a code beside it": float(own in coded),
            "has a name beside it": float(own in named),
            "describes another": float(any(own[:length] in whole for length in range(1, len(own)))),
            "noun is coded": float(bool(noun) and noun in coded),
            "noun is shared": min(3.0, prefixes[noun] - 1.0) if noun else 0.0,
        }

    return {name: {term: value for term, value in of(own).items() if value} for name, own in told_by.items()}
