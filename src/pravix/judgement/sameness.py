"""Which tables of different sources hold one kind of thing, and which of their columns say the same about it.

Weighed in bits as links are: what the names of two keys say, how surprising it is that they have so many
values in common, and whether what both tables say about a common thing agrees. The chance of that many common
values is bounded as by H. Chernoff, "A measure of asymptotic efficiency for tests of a hypothesis based on
the sum of observations", Annals of Mathematical Statistics 23(4), 1952.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property, lru_cache
from itertools import count, islice, permutations, product
from math import log2
from operator import eq
from typing import overload

import numpy as np
from numpy.typing import NDArray

from pravix.judgement.kinds import uses
from pravix.judgement.linking import GENERIC_WORDS, NEVER_A_KEY, ORDINALS, singular, span
from pravix.judgement.use import Use
from pravix.judgement.weights import LINK, SAMENESS
from pravix.relation.relation import Column, Positions, Relation
from pravix.relation.texts import Span, chosen
from pravix.relation.types import Kind, column_type
from pravix.relation.words import noun, words
from pravix.sources.coding import Numbering

_NAME = ["name"]
_SCREENED = 60
_CHUNK = 4
_DIFFERENCES_NAMED = 3

Cell = str | None
"""A cell of a table that is put together from several: None where no source knows it."""

_Both = tuple[Positions, Positions]
"""The places of some things in two tables."""


class _Cells(Sequence[Cell]):
    """The cells of a column, made when they are asked for."""

    def __init__(self, column: Column) -> None:
        self._column = column

    def __len__(self) -> int:
        return len(self._column.codes)

    @overload
    def __getitem__(self, place: int) -> Cell: ...
    @overload
    def __getitem__(self, place: Span) -> list[Cell]: ...
    def __getitem__(self, place: int | Span) -> Cell | list[Cell]:
        if isinstance(place, slice):
            return self.at(np.arange(len(self))[place])
        return self._column.text(place)

    def __iter__(self) -> Iterator[Cell]:
        return iter(self._column.texts())

    def at(self, places: Positions) -> list[Cell]:
        """Return the cells at some places."""
        return [*chosen(self._column.values, self._column.codes[places].tolist())]


@dataclass(frozen=True, eq=False)
class Keyed:
    """A table called ``name``: its cells by column, the keys of its rows, and their row numbers.

    ``numbering`` numbers the values of its key and those of others.
    """

    name: str
    cells: Mapping[str, Sequence[Cell]]
    keys: tuple[tuple[str, ...], ...]
    row_numbers: NDArray[np.int64] | range
    rows: Relation | None = None
    numbering: Numbering | None = None

    @classmethod
    def of(
        cls, name: str, rows: Relation, keys: Sequence[tuple[str, ...]], numbering: Numbering | None = None
    ) -> Keyed:
        """Return the rows of a relation as such a table."""
        cells = {column.name: _Cells(column) for column in rows.columns}
        return cls(name, cells, tuple(keys), rows.row_numbers, rows, numbering)

    @cached_property
    def columns(self) -> Mapping[str, Column]:
        """The columns as coded ones, what is unknown taken for a blank."""
        if self.rows is not None:
            return {column.name: column for column in self.rows.columns}
        return {
            name: Column.from_texts(name, (cell or "" for cell in cells))
            for name, cells in self.cells.items()
        }

    @cached_property
    def uses(self) -> dict[str, Use]:
        """What kind of thing each column holds."""
        return uses(list(self.columns.values()))

    def is_number(self, name: str) -> bool:
        """Whether a column holds numbers."""
        return column_type(self.columns[name]).kind in (Kind.INTEGER, Kind.DECIMAL)

    def cells_at(self, name: str, places: Positions) -> list[Cell]:
        """Return the cells of a column in some rows, by their places."""
        cells = self.cells[name]
        if isinstance(cells, _Cells):
            return cells.at(places)
        return [cells[place] for place in places.tolist()]

    def places(self, key: Sequence[str]) -> Mapping[tuple[Cell, ...], int]:
        """Return the place of each row by its key."""
        told = tuple(key)
        if told not in self._places:
            values = zip(*(self.cells[name] for name in key), strict=True)
            self._places[told] = dict(zip(values, count(), strict=False))
        return self._places[told]

    @cached_property
    def _places(self) -> dict[tuple[str, ...], Mapping[tuple[Cell, ...], int]]:
        return {}

    def numbers(self, name: str, numbering: Numbering) -> NDArray[np.int32]:
        """Return the number of each cell of a column; -1 for a blank."""
        known = self._numbers.get(name)
        if known is None or known[0] is not numbering:
            known = self._numbers[name] = numbering, numbering.by_row(self.columns[name])
        return known[1]

    def numbers_in_order(self, name: str, numbering: Numbering) -> tuple[Positions, NDArray[np.int32]]:
        """Return the places of the rows in the order of these numbers, and the numbers in it."""
        known = self._in_order.get(name)
        if known is None or known[0] is not numbering:
            numbers = self.numbers(name, numbering)
            order = np.argsort(numbers, kind="stable")
            known = self._in_order[name] = numbering, (order, numbers[order])
        return known[1]

    @cached_property
    def _numbers(self) -> dict[str, tuple[Numbering, NDArray[np.int32]]]:
        return {}

    @cached_property
    def _in_order(self) -> dict[str, tuple[Numbering, tuple[Positions, NDArray[np.int32]]]]:
        return {}

    def nouns(self, key: Sequence[str]) -> set[str]:
        """Return the nouns for its things: of the table's name, and of the columns of a key."""
        told = tuple(key)
        if told not in self._nouns:
            of_key = {word for name in key for word in singular(noun(name))}
            self._nouns[told] = _telling({*singular(words(self.name)), *of_key}) - GENERIC_WORDS
        return self._nouns[told]

    @cached_property
    def _nouns(self) -> dict[tuple[str, ...], set[str]]:
        return {}


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
        return SAMENESS["same words"] if _telling(mine) else SAMENESS["nameless"]
    if nouns:
        alike = _facet(mine, nouns) == _facet(theirs, nouns)
        return SAMENESS["same words" if alike else "shared noun"]
    return SAMENESS["unrelated"]


def _telling(found: Collection[str]) -> set[str]:
    """Return the words that tell something: no single letters, no numbers."""
    return {word for word in found if len(word) > 1 and not word.isdigit()}


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
    return found.kind, found.pattern


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
    first = _in_both(one, here, other, there, _SCREENED)
    nouns = one.nouns(here) & other.nouns(there)
    likely = [
        (name, called)
        for name, called in product(one.cells, other.cells)
        if name not in here and called not in there and _may_agree(one, name, other, called, first, nouns)
    ]
    if not likely:
        return Facts(len(first[0]), (), (), (), 0)
    places = _in_both(one, here, other, there)
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


def _may_agree(
    one: Keyed,
    here: str,
    other: Keyed,
    there: str,
    places: _Both,
    nouns: Collection[str],
) -> bool:
    """Return whether two columns are called alike, or may agree as far as some of the places tell."""
    agreeing = sum(map(eq, *_cells(one, here, other, there, places)))
    mostly = agreeing >= SAMENESS["mostly"] * len(places[0])
    return mostly or _alike(here, there, nouns) >= SAMENESS["same words"]


def in_common(one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str]) -> int:
    """Return how many things two tables have in common, by their keys."""
    return len(_in_both(one, here, other, there)[0])


def _in_both(
    one: Keyed, here: Sequence[str], other: Keyed, there: Sequence[str], most: int | None = None
) -> _Both:
    """Return the places of the first things that two tables have in common, by their keys.

    n log n in the rows, the less the sooner there are as many as wanted.
    """
    if len(here) > 1 or one.rows is None or other.rows is None:
        known = other.places(there)
        found = ((place, known[value]) for value, place in one.places(here).items() if value in known)
        both = np.array(list(islice(found, most)), dtype=np.intp).reshape(-1, 2)
        return both[:, 0], both[:, 1]
    numbering = one.numbering
    if numbering is None or not numbering.covers((one.columns[here[0]], other.columns[there[0]])):
        numbering = Numbering((one.columns[here[0]], other.columns[there[0]]))
    numbers, (order, ordered) = one.numbers(here[0], numbering), other.numbers_in_order(there[0], numbering)
    mine, theirs, count = [order[:0]], [order[:0]], 0
    step = len(numbers) if most is None else _CHUNK * most
    for start in range(0, len(numbers) if len(ordered) else 0, max(step, 1)):
        some = numbers[start : start + step]
        found_at = np.minimum(np.searchsorted(ordered, some), len(ordered) - 1)
        (hits,) = np.nonzero((ordered[found_at] == some) & (some >= 0))
        mine.append(hits + start)
        theirs.append(order[found_at[hits]])
        count += len(hits)
        if most is not None and count >= most:
            break
    return np.concatenate(mine)[:most], np.concatenate(theirs)[:most]


def _cells(
    one: Keyed, here: str, other: Keyed, there: str, places: _Both
) -> tuple[Sequence[Cell], Sequence[Cell]]:
    """Return the cells of two columns at pairs of places; numbers, where both hold them, by their value."""
    cells, others = one.cells_at(here, places[0]), other.cells_at(there, places[1])
    if one.is_number(here) and other.is_number(there):
        return list(map(_in_one_form, cells)), list(map(_in_one_form, others))
    return cells, others


@lru_cache(maxsize=100_000)
def _in_one_form(number: Cell) -> Cell:
    """Return a number in the form that equal ones share: 18.0 as 18."""
    return f"{Decimal(number).normalize():f}" if number else number


@dataclass(frozen=True)
class _Pair:
    """Two columns compared: whether they are called alike, what their agreement tells, where they differ."""

    here: str
    there: str
    named: bool
    bits: float
    lost: list[int]


def _compared(one: Keyed, here: str, other: Keyed, there: str, places: _Both, named: bool) -> _Pair:
    """Compare two columns at pairs of places.

    The bits tell how surprising it is that so many cells agree: a value that half of the rows hold tells
    one, a rare one more, a blank nothing.
    """
    pairs = list(zip(*_cells(one, here, other, there, places), strict=True))
    lost = [
        number
        for number, (cell, told) in enumerate(pairs)
        if cell != told and cell is not None and told is not None
    ]
    frequency = Counter(told for _, told in pairs if told)
    agreeing = [told for cell, told in pairs if told and cell == told]
    bits = sum(-log2(frequency[told] / frequency.total()) for told in agreeing)
    kinds = {column_type(column).kind for column in (one.columns[here], other.columns[there])}
    named = named and (len(kinds) == 1 or kinds == {Kind.INTEGER, Kind.DECIMAL})
    return _Pair(here, there, named, bits, lost)
