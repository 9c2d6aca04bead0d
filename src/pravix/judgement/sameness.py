"""Which tables of different sources hold one kind of thing, and which of their columns say the same about it.

Weighed in bits as links are: what the names of two keys say, how surprising it is that they have so many
values in common, and whether what both tables say about a common thing agrees. The chance of that many common
values is bounded as by H. Chernoff, "A measure of asymptotic efficiency for tests of a hypothesis based on
the sum of observations", Annals of Mathematical Statistics 23(4), 1952.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import permutations, product
from math import log2

from pravix.judgement.keyed import (
    Both,
    Keyed,
    agreeing_at,
    cells_side_by_side,
    in_both,
    in_common,
    telling,
)
from pravix.judgement.linking import GENERIC_WORDS, NEVER_A_KEY, ORDINALS, singular, span
from pravix.judgement.weights import LINK, SAMENESS
from pravix.relation.relation import Column
from pravix.relation.types import Kind, column_type
from pravix.relation.words import words

_NAME = ["name"]
_SCREENED = 60
_DIFFERENCES_NAMED = 3


@dataclass(frozen=True)
class Disagreeing:
    """Two columns that seem to be meant for the same but differ for ``count`` things.

    ``examples`` are the first of these: the key, what stands here, and what stands there.
    """

    here: str
    there: str
    count: int
    examples: tuple[tuple[tuple[str, ...], str, str], ...]


@dataclass(frozen=True)
class Facts:
    """What two tables say about their common things.

    ``common`` is their number as far as they were looked at, ``shared`` pairs the columns that say the same
    wherever both speak, ``contradicting`` those that are called alike but differ for most things. ``wonders``
    counts the shared ones that cannot agree by luck.
    """

    common: int
    shared: tuple[tuple[str, str], ...]
    differing: tuple[Disagreeing, ...]
    contradicting: tuple[tuple[str, str], ...]
    wonders: int


@dataclass(frozen=True)
class Sameness:
    """That two tables are keyed by the same things: the two keys, column by column, and the bits for it.

    ``second`` speaks against a key that is not the primary one of its table.
    """

    here: tuple[str, ...]
    there: tuple[str, ...]
    names: float
    values: float
    facts: float
    second: float

    @property
    def total(self) -> float:
        """All bits together."""
        return self.names + self.values + self.facts + self.second

    @property
    def believed(self) -> bool:
        """Whether they are taken for one kind of thing."""
        return self.total >= LINK["believed from"]


def same_things(one: Keyed, other: Keyed) -> Sameness | None:
    """Return the best reason to believe that two tables hold one kind of thing; None where there is none.

    Linear in the cells of both, for each pair of keys with names that do not speak against it.
    """
    found = []
    for here, key in product(one.keys, other.keys):
        if len(here) != len(key) or not here or _unfit(one, here) or _unfit(other, key):
            continue
        there = max(permutations(key), key=lambda order: _names(one, here, other, order))
        names = _names(one, here, other, there)
        values = _values(one, here, other, there)
        if names <= SAMENESS["unrelated"] or (values < 0 and names < SAMENESS["same words"]):
            continue
        facts = facts_of(one, here, other, there)
        told = SAMENESS["agreeing fact"] if facts.common else SAMENESS["fact of the name"]
        surprising = SAMENESS["a wonder"] * facts.wonders
        facts_bits = min(told * len(facts.shared) + surprising, SAMENESS["facts cap"])
        nouns = one.nouns(here) & other.nouns(there)
        for name, _ in facts.contradicting:
            is_name = _facet(singular(words(name)), nouns) == _NAME
            facts_bits += SAMENESS["other names"] if is_name else SAMENESS["contradicting fact"]
        second = SAMENESS["second key"] * ((here != one.keys[0]) + (key != other.keys[0]))
        found.append(Sameness(here, there, names, values, facts_bits, second))
    best = max(found, key=lambda sameness: sameness.total, default=None)
    return best if best is not None and best.believed else None


def _unfit(table: Keyed, key: Sequence[str]) -> bool:
    """Return whether a key says nothing about a thing: a measure, a date, or only the place in a list."""
    return len(key) == 1 and (table.uses[key[0]] in NEVER_A_KEY or set(words(key[0])) <= ORDINALS)


def _names(one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str]) -> float:
    """Return what the names of two keys say: of the least alike of their columns."""
    shared = one.nouns(here) & other.nouns(there)
    return min(_alike(name, called, shared) for name, called in zip(here, there, strict=True))


def _alike(one: str, other: str, nouns: Collection[str]) -> float:
    """Return what two names say about columns of tables that share the ``nouns`` for their things."""
    mine, theirs = singular(words(one)), singular(words(other))
    if mine == theirs and not set(mine) <= GENERIC_WORDS:
        return SAMENESS["same words"] if telling(mine) else SAMENESS["nameless"]
    if nouns:
        alike = _facet(mine, nouns) == _facet(theirs, nouns)
        return SAMENESS["same words" if alike else "shared noun"]
    return SAMENESS["unrelated"]


def _facet(name: Sequence[str], nouns: Collection[str]) -> list[str]:
    """Return the words of a name without the thing's own: keeper_phone of a keeper is a phone."""
    return [word for word in name if word not in nouns] or _NAME


def _values(one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str]) -> float:
    """Return how surprising it is, in bits, that two keys have so many values in common.

    That they have none speaks against one kind of thing, the more where they are written in another shape.
    """
    least = min(len(one.row_numbers), len(other.row_numbers))
    share = in_common(one, here, other, there) / least if least else 0.0
    if share == 0:
        alike = all(
            _shape(one.columns[name]) == _shape(other.columns[called])
            for name, called in zip(here, there, strict=True)
        )
        return SAMENESS["nothing in common"] if alike else SAMENESS["other shape"]
    chance = 1.0
    for name, called in zip(here, there, strict=True):
        chance *= _chance(one.columns[name], other.columns[called])
    if share <= chance:
        return 0.0
    told = share * log2(share / chance)
    if share < 1:
        told += (1 - share) * log2((1 - share) / (1 - chance))
    return min(least * told, SAMENESS["values cap"])


def _shape(column: Column) -> tuple[Kind, str]:
    found = column_type(column)
    return found.meant, found.pattern


def _chance(one: Column, other: Column) -> float:
    """Return how likely it is that a value of one column is by luck among those of another."""
    if all(column_type(column).kind is Kind.INTEGER for column in (one, other)):
        lows, highs = zip(span(one), span(other), strict=True)
        return min(1.0, max(one.distinct, other.distinct) / (max(highs) - min(lows) + 1))
    return SAMENESS["chance of a word"]


def facts_of(
    one: Keyed,
    here: Sequence[str],
    other: Keyed,
    there: Sequence[str],
    wonder_from: float = SAMENESS["by values from"],
) -> Facts:
    """Return which columns of two tables, keyed by ``here`` and ``there``, say the same about common things.

    Columns say the same where they agree on all common things and are called alike, or where that they agree
    is too surprising for luck. Linear in the common things, for each pair of columns.
    """
    first = in_both(one, here, other, there, _SCREENED)
    nouns = one.nouns(here) & other.nouns(there)
    mine = [name for name in one.cells if name not in here]
    theirs = [name for name in other.cells if name not in there]
    mostly = agreeing_at(one, mine, other, theirs, first) >= SAMENESS["mostly"] * len(first[0])
    likely = [
        (name, called)
        for (name, called), alike in zip(product(mine, theirs), mostly.flat, strict=True)
        if alike or _alike(name, called, nouns) >= SAMENESS["same words"]
    ]
    if not likely:
        return Facts(len(first[0]), (), (), (), 0)
    places = in_both(one, here, other, there)
    common = len(places[0])
    compared = [
        _compared(one, name, other, called, places, _alike(name, called, nouns) >= SAMENESS["same words"])
        for name, called in likely
    ]
    shared: list[tuple[str, str]] = []
    differing: list[Disagreeing] = []
    used: set[tuple[str, str]] = set()
    wonders = 0
    contradicting: list[tuple[str, str]] = []
    for pair in sorted(compared, key=lambda pair: (bool(pair.lost), not pair.named, -pair.bits)):
        ends = {("here", pair.here), ("there", pair.there)}
        wonder = pair.bits >= wonder_from and common >= SAMENESS["least common"]
        if ends & used or not (pair.named or wonder):
            continue
        if not pair.lost:
            shared.append((pair.here, pair.there))
            wonders += wonder
        elif len(pair.lost) <= (SAMENESS["mostly"] if pair.named else 1 - SAMENESS["nearly"]) * common:
            examples = []
            for number in pair.lost[:_DIFFERENCES_NAMED]:
                place, other_place = int(places[0][number]), int(places[1][number])
                cells = one.cells[pair.here][place], other.cells[pair.there][other_place]
                key = tuple(one.cells[name][place] or "" for name in here)
                examples.append((key, cells[0] or "", cells[1] or ""))
            differing.append(Disagreeing(pair.here, pair.there, len(pair.lost), tuple(examples)))
        else:
            if pair.named:
                contradicting.append((pair.here, pair.there))
            continue
        used |= ends
    return Facts(common, tuple(shared), tuple(differing), tuple(contradicting), wonders)


@dataclass(frozen=True)
class _Pair:
    """Two columns compared: whether they are called alike, what their agreement tells, where they differ."""

    here: str
    there: str
    named: bool
    bits: float
    lost: list[int]


def _compared(one: Keyed, here: str, other: Keyed, there: str, places: Both, named: bool) -> _Pair:
    """Compare two columns at pairs of places.

    The bits tell how surprising it is that so many cells agree: a value that half of the rows hold tells
    one, a rare one more, a blank nothing.
    """
    pairs = list(zip(*cells_side_by_side(one, here, other, there, places), strict=True))
    lost = [
        number
        for number, (cell, told) in enumerate(pairs)
        if cell != told and cell is not None and told is not None
    ]
    frequency = Counter(told for _, told in pairs if told)
    agreeing = [told for cell, told in pairs if told and cell == told]
    bits = sum(-log2(frequency[told] / frequency.total()) for told in agreeing)
    kinds = {column_type(column).meant for column in (one.columns[here], other.columns[there])}
    named = named and (len(kinds) == 1 or kinds == {Kind.INTEGER, Kind.DECIMAL})
    return _Pair(here, there, named, bits, lost)
