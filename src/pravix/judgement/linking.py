"""Which inclusions are links: weighed in bits, like rules, with what speaks for and against each.

The values speak first: how unlikely it is that all of them were among the keys by luck. Whole numbers from 1
upwards are in every such key, so they say nothing; codes and words say much. Names, the kinds of both sides
and orphans are added as a prior (see ``model``).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import log2
from typing import NamedTuple
from weakref import WeakKeyDictionary

from pravix.discovery.inclusions import Columns, Inclusion, Tables, inclusions, with_orphans
from pravix.discovery.search import discover_keys
from pravix.judgement.column_roles import column_roles
from pravix.judgement.kinds import uses
from pravix.judgement.row_key import kinds_bits
from pravix.judgement.use import Use
from pravix.judgement.weights import LINK
from pravix.relation.lexicon import IDENTIFIER_WORDS, LABEL_WORDS
from pravix.relation.relation import Column, Relation
from pravix.relation.types import Kind, column_type
from pravix.relation.words import noun, words
from pravix.sources.coding import Numbering, whole_numbers

_LARGEST_KEY = 3
_COMPOSITES = 3
_MOST_DOUBTFUL = 8
ORDINALS = frozenset({"line", "rank", "position", "row", "seq", "sequence", "order", "copies", "count"})
GENERIC_WORDS = IDENTIFIER_WORDS | LABEL_WORDS | ORDINALS
NEVER_A_KEY = (
    Use.MEASURE,
    Use.MOMENT,
    Use.PERIOD,
    Use.PROSE,
    Use.MARK,
    Use.CONTACT,
)

_SPANS: WeakKeyDictionary[Column, tuple[int, int]] = WeakKeyDictionary()


class Link(NamedTuple):
    """An inclusion with its bits: what the values say, the names, the kinds, and the orphans."""

    inclusion: Inclusion
    values: float
    names: float
    kinds: float
    orphans: float

    @property
    def total(self) -> float:
        """All bits together."""
        return self.values + self.names + self.kinds + self.orphans

    @property
    def believed(self) -> bool:
        """Whether it is taken for a link."""
        return self.total >= LINK["believed from"]


@dataclass(frozen=True)
class Linked:
    """What was found among several tables: the links, and for each the other candidates, best first.

    ``keys`` are the keys of each table that may be referred to, the one that leads first. ``doubtful`` are
    the likeliest of the inclusions that are not believed: the analyst may know better.
    """

    links: tuple[Link, ...]
    others: Mapping[Columns, tuple[Link, ...]]
    keys: Mapping[str, tuple[tuple[str, ...], ...]]
    doubtful: tuple[Link, ...] = ()


def linked(
    relations: Mapping[str, Relation],
    known: Mapping[str, tuple[tuple[str, ...], ...]] | None = None,
    numbering: Numbering | None = None,
) -> Linked:
    """Return the links among tables, whose keys are searched where they are not ``known``.

    Cost: that of ``inclusions``, and of the search for keys.
    """
    tables = Tables(relations, numbering)
    kinds = {name: uses(relation.columns) for name, relation in relations.items()}
    keys = known or {name: referable_keys(relation, kinds[name]) for name, relation in relations.items()}
    weighed: dict[Columns, list[Link]] = {}
    weigh = _Scales(relations, kinds, keys)
    for found in inclusions(tables, keys):
        weighed.setdefault(found.here, []).append(weigh(found))
    best, others, doubtful = [], {}, []
    for here, candidates in weighed.items():
        first = max(candidates, key=lambda link: (link.total, link.inclusion.share))
        if first.believed:
            candidates.sort(key=lambda link: (-link.total, -link.inclusion.share, str(link.inclusion.there)))
            first, *further = (_with_orphans(tables, one) for one in candidates)
            best.append(first)
            others[here] = tuple(further)
        elif first.values >= LINK["speaking"] and first.total >= LINK["doubtful from"]:
            doubtful.append(first)
    links = tuple(_without_needless(_without_mutual(best)))
    doubtful.sort(key=lambda link: -link.total)
    ends = {frozenset((link.inclusion.here, link.inclusion.there)) for link in links}
    left = [one for one in doubtful if frozenset((one.inclusion.here, one.inclusion.there)) not in ends]
    return Linked(links, others, keys, tuple(_with_orphans(tables, one) for one in left[:_MOST_DOUBTFUL]))


def _with_orphans(tables: Tables, link: Link) -> Link:
    return link if link.inclusion.exact else link._replace(inclusion=with_orphans(tables, link.inclusion))


def referable_keys(relation: Relation, kinds: Mapping[str, Use]) -> tuple[tuple[str, ...], ...]:
    """Return the keys by which rows may be referred to: single columns, and the best composite ones."""
    if relation.row_count == 0:
        return ()
    found = discover_keys(relation, largest=_LARGEST_KEY).keys
    blank = {column.name for column in relation.columns if column.blanks}
    usable = [key for key in found if key and not key & blank]
    place = {name: number for number, name in enumerate(relation.names)}
    roles = column_roles(relation.columns)

    def best_first(key: frozenset[str]) -> tuple[float, list[int]]:
        return -kinds_bits(key, roles), sorted(place[name] for name in key)

    fit = [key for key in usable if len(key) == 1 and kinds[next(iter(key))] not in NEVER_A_KEY]
    composite = sorted((key for key in usable if len(key) > 1), key=best_first)[:_COMPOSITES]
    chosen = sorted([*fit, *composite], key=best_first)
    return tuple(tuple(sorted(key, key=place.__getitem__)) for key in chosen)


class _Side:
    """A column as one end of a link: what its name, its kind and its values say, worked out once.

    ``fit`` is what its kind says of it as the end that refers, ``leads`` whether it is the first key.
    """

    def __init__(self, table: str, column: Column, use: Use, keys: Sequence[tuple[str, ...]]) -> None:
        self.words = words(column.name)
        self.singular = frozenset(singular(self.words))
        self.noun = noun(column.name)
        of_key = self.noun if set(self.noun) - GENERIC_WORDS else []
        self.nouns = frozenset((*singular(words(table)), *singular(of_key)))
        self.counts_rows = set(self.words) <= ORDINALS
        self.generic = set(self.words) <= GENERIC_WORDS
        self.distinct = column.distinct
        self.span = span(column) if column_type(column).kind is Kind.INTEGER else None
        keyed = LINK["keyed here"] if (column.name,) in keys else 0.0
        self.fit = keyed + (LINK["unfit"] if use in NEVER_A_KEY else 0.0)
        self.leads = 1.0 if keys and keys[0] == (column.name,) else -1.0


class _Scales:
    """Weighs inclusions among some tables."""

    def __init__(
        self,
        relations: Mapping[str, Relation],
        kinds: Mapping[str, Mapping[str, Use]],
        keys: Mapping[str, Sequence[tuple[str, ...]]],
    ) -> None:
        self._keys = keys
        self._sides = {
            Columns(table, (column.name,)): _Side(table, column, kinds[table][column.name], keys[table])
            for table, relation in relations.items()
            for column in relation.columns
        }

    def __call__(self, found: Inclusion) -> Link:
        """Return an inclusion with what speaks for it and against it."""
        here, there = found.here, found.there
        orphans = 0.0 if found.exact else LINK["orphans"] + LINK["each orphan share"] * (1 - found.share)
        itself = here.table == there.table
        if len(here.names) == 1:
            side, end = self._sides[here], self._sides[there]
            values, names, fit = _luck(side, end), _names(side, end, itself), side.fit + end.leads
        else:
            sides = [self._sides[Columns(here.table, (name,))] for name in here.names]
            ends = [self._sides[Columns(there.table, (name,))] for name in there.names]
            values = sum(map(_luck, sides, ends))
            least = min(_names(side, end, itself) for side, end in zip(sides, ends, strict=True))
            names = least if least > 0 else LINK["unfit"]
            fit = 1.0 if there.names == self._keys[there.table][0] else -1.0
            fit += LINK["keyed here"] if here.names in self._keys[here.table] else 0.0
        return Link(found, min(values, LINK["values cap"]), names, fit, orphans)


def _luck(here: _Side, there: _Side) -> float:
    """Return how surprising it is, in bits, that the values of one column are among those of another."""
    if here.span is not None and there.span is not None:
        (low, high), (least, most) = here.span, there.span
        width = (high if high > most else most) - (low if low < least else least) + 1
        return 0.0 if width <= there.distinct else -log2(there.distinct / width) * here.distinct
    return LINK["word bits"] * (here.distinct - 1)


def span(column: Column) -> tuple[int, int]:
    """Return the smallest and the largest of a column of whole numbers; worked out once for each column."""
    column = column.same_values
    found = _SPANS.get(column)
    if found is None:
        numbers = whole_numbers(column.present_values)
        found = _SPANS[column] = int(numbers.min()), int(numbers.max())
    return found


def _names(here: _Side, there: _Side, itself: bool) -> float:
    """Return what names say: is the column called like the key, or after the table that it refers to?

    Within one table only a name that ends in the key's name does, or in its noun: ``mother_hive_no`` or
    ``mother_hive`` and ``hive_no``.
    """
    if there.counts_rows:
        return LINK["unrelated"]
    mine, key = here.words, there.words
    if itself:
        ends = (key, there.noun)
        alike = any(mine[-len(end) :] == end and len(mine) > len(end) for end in ends if end)
        return LINK["shared noun"] if alike else LINK["unrelated"]
    if mine == key:
        return LINK["generic name"] if here.generic else LINK["same name"]
    if here.singular.isdisjoint(there.nouns):
        return LINK["unrelated"]
    return LINK["names the table"] if there.nouns <= here.singular else LINK["shared noun"]


def singular(found: Sequence[str]) -> list[str]:
    """Return words in the singular, as far as their ends tell."""
    return list(_singular(tuple(found)))


@lru_cache(maxsize=20_000)
def _singular(found: tuple[str, ...]) -> list[str]:
    return [word[:-3] + "y" if word.endswith("ies") else word.removesuffix("s") for word in found]


def _without_mutual(links: Sequence[Link]) -> list[Link]:
    """Return the links without those that turn another around.

    Of two tables one to one, that whose name the key bears is referred to; else a row of the smaller is there
    for some rows of the other only, so it refers.
    """
    sides = {(link.inclusion.here, link.inclusion.there): link for link in links}

    def preference(link: Link) -> tuple[bool, int, str]:
        here, there = link.inclusion.here, link.inclusion.there
        return not _bears(there) or _bears(here), link.inclusion.values, str(here)

    kept = []
    for (here, there), link in sides.items():
        back = sides.get((there, here))
        if back is None or preference(link) < preference(back):
            kept.append(link)
    return kept


def _bears(columns: Columns) -> bool:
    """Return whether some columns bear the name of their table."""
    found = {word for name in columns.names for word in singular(words(name))}
    return set(singular(words(columns.table))) <= found


def _without_needless(links: Sequence[Link]) -> list[Link]:
    """Return the links without single ones that a composite one of the same table carries on."""
    kept = []
    for link in links:
        here, there = link.inclusion.here, link.inclusion.there
        wider = [
            other.inclusion
            for other in links
            if other.inclusion.here.table == here.table and set(here.names) < set(other.inclusion.here.names)
        ]
        carried = any(
            next_link.inclusion.here.table == wide.there.table and next_link.inclusion.there == there
            for wide in wider
            for next_link in links
        )
        if not carried:
            kept.append(link)
    return kept
