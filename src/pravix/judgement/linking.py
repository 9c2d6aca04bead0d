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
from weakref import WeakKeyDictionary

from pravix.discovery.inclusions import Columns, Inclusion, Tables, inclusions
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


@dataclass(frozen=True)
class Link:
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
    relations: Mapping[str, Relation], known: Mapping[str, tuple[tuple[str, ...], ...]] | None = None
) -> Linked:
    """Return the links among tables, whose keys are searched where they are not ``known``.

    Cost: that of ``inclusions``, and of the search for keys.
    """
    tables = Tables(relations)
    kinds = {name: uses(relation.columns) for name, relation in relations.items()}
    keys = known or {name: referable_keys(relation, kinds[name]) for name, relation in relations.items()}
    weighed: dict[Columns, list[Link]] = {}
    for found in inclusions(tables, keys):
        link = _weighed(found, relations, kinds, keys)
        weighed.setdefault(found.here, []).append(link)
    best, others, doubtful = [], {}, []
    for here, candidates in weighed.items():
        candidates.sort(key=lambda link: (-link.total, -link.inclusion.share, str(link.inclusion.there)))
        if candidates[0].believed:
            best.append(candidates[0])
            others[here] = tuple(candidates[1:])
        elif candidates[0].values >= LINK["speaking"] and candidates[0].total >= LINK["doubtful from"]:
            doubtful.append(candidates[0])
    links = tuple(_without_needless(_without_mutual(best)))
    doubtful.sort(key=lambda link: -link.total)
    ends = {frozenset((link.inclusion.here, link.inclusion.there)) for link in links}
    left = [one for one in doubtful if frozenset((one.inclusion.here, one.inclusion.there)) not in ends]
    return Linked(links, others, keys, tuple(left[:_MOST_DOUBTFUL]))


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


def _weighed(
    found: Inclusion,
    relations: Mapping[str, Relation],
    kinds: Mapping[str, Mapping[str, Use]],
    keys: Mapping[str, Sequence[tuple[str, ...]]],
) -> Link:
    here, there = found.here, found.there
    values = sum(
        _luck(relations[here.table].column(one), relations[there.table].column(other))
        for one, other in zip(here.names, there.names, strict=True)
    )
    names = [
        _names(one, there.table, other, here.table == there.table)
        for one, other in zip(here.names, there.names, strict=True)
    ]
    fit = _kinds(found, kinds, keys)
    orphans = 0.0 if found.exact else LINK["orphans"] + LINK["each orphan share"] * (1 - found.share)
    together = min(names) if len(names) == 1 or min(names) > 0 else LINK["unfit"]
    return Link(found, min(values, LINK["values cap"]), together, fit, orphans)


def _luck(here: Column, there: Column) -> float:
    """Return how surprising it is, in bits, that the values of one column are among those of another."""
    one, other = column_type(here), column_type(there)
    distinct = here.distinct
    if one.kind is Kind.INTEGER and other.kind is Kind.INTEGER:
        lows, highs = zip(span(here), span(there), strict=True)
        chance = there.distinct / (max(highs) - min(lows) + 1)
        return min(-log2(min(chance, 1.0)) * distinct, LINK["values cap"])
    return min(LINK["word bits"] * (distinct - 1), LINK["values cap"])


def span(column: Column) -> tuple[int, int]:
    """Return the smallest and the largest of a column of whole numbers; worked out once for each column."""
    column = column.same_values
    found = _SPANS.get(column)
    if found is None:
        numbers = [int(value) for value in column.present_values]
        found = _SPANS[column] = min(numbers), max(numbers)
    return found


def _names(here: str, table: str, there: str, itself: bool) -> float:
    """Return what names say: is the column called like the key, or after the table that it refers to?

    Within one table only a name that ends in the key's name does, or in its noun: ``mother_hive_no`` or
    ``mother_hive`` and ``hive_no``.
    """
    mine, key = words(here), words(there)
    if set(key) <= ORDINALS:
        return LINK["unrelated"]
    if itself:
        ends = (key, noun(there))
        alike = any(mine[-len(end) :] == end and len(mine) > len(end) for end in ends if end)
        return LINK["shared noun"] if alike else LINK["unrelated"]
    if mine == key:
        return LINK["generic name"] if set(mine) <= GENERIC_WORDS else LINK["same name"]
    of_key = noun(there) if set(noun(there)) - GENERIC_WORDS else []
    nouns = {*singular(words(table)), *singular(of_key)}
    if nouns and nouns <= set(singular(mine)):
        return LINK["names the table"]
    return LINK["shared noun"] if nouns & set(singular(mine)) else LINK["unrelated"]


def singular(found: Sequence[str]) -> list[str]:
    """Return words in the singular, as far as their ends tell."""
    return list(_singular(tuple(found)))


@lru_cache(maxsize=20_000)
def _singular(found: tuple[str, ...]) -> list[str]:
    return [word[:-3] + "y" if word.endswith("ies") else word.removesuffix("s") for word in found]


def _kinds(
    found: Inclusion,
    kinds: Mapping[str, Mapping[str, Use]],
    keys: Mapping[str, Sequence[tuple[str, ...]]],
) -> float:
    """Return what the kinds of both sides say, and whether the columns are a key of their own table."""
    here = [kinds[found.here.table][name] for name in found.here.names]
    bits = LINK["unfit"] if len(here) == 1 and here[0] in NEVER_A_KEY else 0.0
    bits += 1.0 if found.there.names == keys[found.there.table][0] else -1.0
    if found.here.names in keys[found.here.table]:
        bits += LINK["keyed here"]
    return bits


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
