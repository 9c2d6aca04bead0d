"""Values typed several ways within one column: case, spaces, punctuation, accents, near-spellings."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pravix.first_normal_form.finding import Finding, Topic
from pravix.first_normal_form.footnotes import marked_numbers
from pravix.relation.grouping import group_numbers
from pravix.relation.relation import BLANK, Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.wording import counted, joined, shortened

SPELLING = Topic("spelling", "Values typed several ways", "spellings")

_MOST_VALUES = 3000
_SHORTEST = 5
_TIMES_RARER = 4
_RARE = 3


@dataclass(frozen=True)
class Variant:
    """One value that is likely another one typed wrongly: how often each occurs, and what tells.

    ``witness`` is a column in whose groups both stand, empty where none says so.
    """

    column: str
    now: str
    instead: str
    times: int
    times_instead: int
    why: str
    sure: float
    witness: str = ""

    @property
    def told(self) -> str:
        """In what it looks typed wrongly, and which column says so."""
        return f"{self.why}; both stand beside the same {self.witness}" if self.witness else self.why


def variants(relation: Relation) -> list[Variant]:
    """Return the values that look like another value of their column typed wrongly.

    Values that differ only in case, spaces, punctuation or accents are variants of the most frequent
    one. A value that is one or two keystrokes from another, much more frequent one is a variant where
    some third column, in whose groups the frequent value is otherwise alone, holds both together; or
    where it is rare and only letters within a longer word differ. Quadratic in the different values of
    a column, which are at most 3,000.
    """
    found = []
    for column in relation.columns:
        found += _variants(column, relation)
    return found


def _variants(column: Column, relation: Relation) -> list[Variant]:
    values = column.present_values
    if not 2 <= len(values) <= _MOST_VALUES or column_type(column).meant is not Kind.TEXT:
        return []
    if marked_numbers(column):
        return []
    counts = {column.values[code]: int(count) for code, count in enumerate(column.counts)}
    alike: dict[str, list[str]] = {}
    for value in values:
        alike.setdefault(plain(value), []).append(value)
    found, leading = [], []
    for same in alike.values():
        best = max(same, key=lambda value: (counts[value], value))
        leading.append(best)
        for value in same:
            if value != best:
                why = _difference(value, best)
                found.append(Variant(column.name, value, best, counts[value], counts[best], why, 0.97))
    frequencies = {value: sum(counts[other] for other in alike[plain(value)]) for value in leading}
    return found + _near(column, leading, frequencies, relation)


def plain(value: str) -> str:
    """Return a value in small letters without accents, punctuation and spaces."""
    letters = unicodedata.normalize("NFKD", value.casefold())
    return re.sub(r"[\W_]+", "", "".join(mark for mark in letters if not unicodedata.combining(mark)))


def misspelling(now: str, instead: str) -> str:
    """Return in what a text that should be another one looks typed wrongly; empty where it does not."""
    from rapidfuzz.distance import OSA

    if plain(now) == plain(instead):
        return _difference(now, instead)
    near = OSA.distance(now.casefold(), instead.casefold(), score_cutoff=2) <= _allowed(now)
    if near and min(len(now), len(instead)) >= _SHORTEST and _same_words(now, instead):
        return "a near-spelling"
    return ""


def _difference(one: str, other: str) -> str:
    if one.casefold() == other.casefold():
        return "capital and small letters"
    if re.sub(r"\s+", "", one) == re.sub(r"\s+", "", other):
        return "spaces"
    return "spaces, punctuation or accents"


def _near(column: Column, values: Sequence[str], times: dict[str, int], relation: Relation) -> list[Variant]:
    from rapidfuzz import process
    from rapidfuzz.distance import OSA

    long = [value for value in values if len(value) >= _SHORTEST]
    if len(long) < 2:
        return []
    lowered = [value.casefold() for value in long]
    distances = process.cdist(lowered, lowered, scorer=OSA.distance, score_cutoff=2, dtype=np.uint8)
    found = []
    for place, value in enumerate(long):
        near = [
            other
            for other in np.flatnonzero((distances[place] > 0) & (distances[place] <= _allowed(value)))
            if times[long[other]] >= _TIMES_RARER * times[value] and _same_words(value, long[other])
        ]
        if not near:
            continue
        best = long[min(near, key=lambda other: (distances[place][other], -times[long[other]]))]
        witness = _witness(column, value, best, relation)
        if witness or (
            times[value] <= _RARE and times[best] >= 2 * _TIMES_RARER * times[value] and len(value) >= 7
        ):
            sure = 0.95 if witness else 0.75
            why = "a near-spelling"
            found.append(Variant(column.name, value, best, times[value], times[best], why, sure, witness))
    return found


def _allowed(value: str) -> int:
    return 1 if len(value) < 8 else 2


def _same_words(one: str, other: str) -> bool:
    """Whether digits and short words agree, so that Store A is not taken for Store B."""
    if re.findall(r"\d+", one) != re.findall(r"\d+", other):
        return False
    first, second = one.casefold().split(), other.casefold().split()
    if len(first) != len(second):
        return "".join(first) == "".join(second)
    return all(a == b or min(len(a), len(b)) >= 4 for a, b in zip(first, second, strict=True))


def _witness(column: Column, value: str, best: str, relation: Relation) -> str:
    """Return a column in whose groups the two values stand together, and the better one nearly alone."""
    wrong = column.codes == column.values.index(value)
    right = column.codes == column.values.index(best)
    for other in relation.columns:
        if other is column or not 2 <= other.distinct <= relation.row_count / 2:
            continue
        beside = np.unique(other.codes[wrong])
        if BLANK in beside:
            continue
        inside = np.isin(other.codes, beside)
        groups = group_numbers([other.codes[inside]], int(inside.sum()))
        explained = (right | wrong)[inside]
        if (
            len(beside) <= wrong.sum()
            and explained.mean() >= 0.95
            and np.all(np.bincount(groups, right[inside]) > 0)
        ):
            return other.name
    return ""


def find_spellings(relation: Relation) -> list[Finding]:
    """Return a finding for each column with values typed several ways."""
    by_column: dict[str, list[Variant]] = {}
    for variant in variants(relation):
        by_column.setdefault(variant.column, []).append(variant)
    return [_finding(name, found, relation) for name, found in by_column.items()]


def _finding(name: str, found: Sequence[Variant], relation: Relation) -> Finding:
    examples = [
        f"{shortened(variant.now, 30)} ({variant.times}) for {shortened(variant.instead, 30)} "
        f"({variant.times_instead}; {variant.why})"
        for variant in found[:4]
    ]
    more = f" and {len(found) - 4} more" if len(found) > 4 else ""
    rows = [row for variant in found for row in rows_of(relation, variant)]
    return Finding(
        topic=SPELLING,
        columns=(name,),
        told=f"{name} has {counted(len(found), 'value')} typed another way: {joined(examples)}{more}",
        sure=min(variant.sure for variant in found),
        rows=tuple(sorted(rows)[:5]),
    )


def rows_of(relation: Relation, variant: Variant) -> list[int]:
    """Return the numbers of the rows that hold a variant."""
    column = relation.column(variant.column)
    rows: list[int] = relation.row_numbers[column.codes == column.values.index(variant.now)].tolist()
    return rows
