"""Tables of several designs that hold one kind of thing: which they are, and their rows put together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import combinations

from pravix.design.model import Design, Table
from pravix.design.naming import free_name
from pravix.judgement.linking import GENERIC_WORDS
from pravix.judgement.sameness import Cell, Facts, Keyed, facts_of, same_things
from pravix.relation.words import words


@dataclass(frozen=True, eq=False)
class Member:
    """A table of the design of one source; ``main`` says that its rows are those of the source."""

    source: str
    table: Table
    main: bool

    @property
    def name(self) -> str:
        """The name of its things; that of its source where its key is only called a number or a line."""
        bare = set(words(self.table.name)) <= GENERIC_WORDS | {"row"}
        return self.source if self.main and bare else self.table.name

    @cached_property
    def keyed(self) -> Keyed:
        """Its rows, keys and names, to be compared with those of others."""
        return Keyed.of(self.name, self.table.rows, self.table.keys)


@dataclass(frozen=True)
class Difference:
    """One thing about which two sources differ: its key, and what stands in which row of each."""

    key: tuple[str, ...]
    here: str
    row: int
    there: str
    other_row: int


@dataclass(frozen=True)
class Differing:
    """Two columns of a merged table that seem to be meant for the same but differ for ``count`` things.

    ``column`` is as ``source`` has it, ``other`` as ``other_source`` has it.
    """

    column: str
    source: str
    other: str
    other_source: str
    count: int
    examples: tuple[Difference, ...]


@dataclass(frozen=True, eq=False)
class Group:
    """Tables for one kind of thing, each with its key, column by column alike, and the least bits for it."""

    keys: Mapping[Member, tuple[str, ...]]
    bits: float

    @cached_property
    def members(self) -> tuple[Member, ...]:
        """The tables, the one that gives the names first: its key bears the name of the thing."""
        order = {member: place for place, member in enumerate(self.keys)}

        def fitness(member: Member) -> tuple[bool, int, int]:
            bare = all(set(words(name)) <= GENERIC_WORDS for name in self.keys[member])
            return bare, -len(member.table.columns), order[member]

        return tuple(sorted(self.keys, key=fitness))

    @cached_property
    def partial(self) -> Mapping[Member, tuple[str, ...]]:
        """The members whose rows are those of their source and only some of the things.

        For each, the columns that it shares with others; the rest stays in a table of its own.
        """
        held = {member: set(member.keyed.places(self.keys[member])) for member in self.keys}
        every = set().union(*held.values())
        return {
            member: self._shared(member) for member in self.members if member.main and held[member] != every
        }

    def _shared(self, member: Member) -> tuple[str, ...]:
        shared = {
            name
            for other in self.keys
            if other is not member
            for name, _ in facts_of(member.keyed, self.keys[member], other.keyed, self.keys[other]).shared
        }
        return tuple(name for name in member.table.column_names if name in shared)

    def without_idle(self) -> Group | None:
        """Return the group without partial members that share nothing; None where fewer than two are left."""
        idle = [member for member, shared in self.partial.items() if not shared]
        if not idle:
            return self
        keys = {member: key for member, key in self.keys.items() if member is not idle[0]}
        return Group(keys, self.bits).without_idle() if len(keys) > 1 else None


def groups_of(designs: Mapping[str, Design]) -> list[Group]:
    """Return the groups of tables that hold one kind of thing, each at most one table of a source.

    Quadratic in the tables; each pair linear in its cells.
    """
    members = [
        Member(source, table, table.name == design.main)
        for source, design in designs.items()
        for table in design.tables
        if _can_merge(table, design)
    ]
    found = [
        (sameness, one, other)
        for one, other in combinations(members, 2)
        if one.source != other.source and (sameness := same_things(one.keyed, other.keyed)) is not None
    ]
    found.sort(key=lambda entry: -entry[0].total)
    group_of: dict[Member, dict[Member, tuple[str, ...]]] = {member: {} for member in members}
    bits: dict[int, float] = {}
    for sameness, one, other in found:
        mine, theirs = group_of[one] or {one: sameness.here}, group_of[other] or {other: sameness.there}
        apart = not {member.source for member in mine} & {member.source for member in theirs}
        if apart and mine[one] == sameness.here and theirs[other] == sameness.there:
            together = mine | theirs
            group_of |= dict.fromkeys(together, together)
            bits[id(together)] = sameness.total
    whole = {id(group): group for group in group_of.values() if len(group) > 1}
    groups = [Group(group, bits[number]).without_idle() for number, group in whole.items()]
    return [group for group in groups if group is not None]


def _can_merge(table: Table, design: Design) -> bool:
    """Return whether rows of other sources may stand among those of a table: it is looked up by a key."""
    known = set(table.flat_names.values()) if table.made_from is None and not table.apart_from else set()
    added = set(design.row_key) - set(design.relation.names)
    return bool(table.primary_key) and set(table.primary_key) <= known - added


@dataclass(eq=False)
class MergedRows:
    """The rows of a group: the cells by column, and what each member's columns are called there."""

    key: tuple[str, ...]
    cells: dict[str, list[Cell]] = field(default_factory=dict)
    called: dict[Member, dict[str, str]] = field(default_factory=dict)
    differing: list[Differing] = field(default_factory=list)
    shared: list[tuple[str, Member, str]] = field(default_factory=list)
    """Columns that a later member shares: as they are called, that member, and its own name for them."""


def merged_rows(group: Group) -> MergedRows:
    """Return the rows of all members by their keys: those of the first, then what the others add."""
    first = group.members[0]
    merged = MergedRows(group.keys[first])
    provider: dict[str, Member] = {}
    places: dict[tuple[Cell, ...], int] = {}
    for member in group.members:
        key = group.keys[member]
        kept = [*key, *group.partial.get(member, [c for c in member.table.column_names if c not in key])]
        so_far = Keyed(first.name, merged.cells, (merged.key,), range(len(places)))
        cells = {name: member.keyed.cells[name] for name in kept}
        offered = Keyed(member.name, cells, (key,), member.keyed.row_numbers)
        facts = facts_of(so_far, merged.key, offered, key) if places else Facts(0, (), (), 0)
        called = dict(zip(key, merged.key, strict=True)) | {own: name for name, own in facts.shared}
        differing = {one.there for one in facts.differing}
        for own in kept:
            if own not in called:
                wanted = f"{own}_{member.source}" if own in differing and own in merged.cells else own
                called[own] = free_name(wanted, merged.cells.keys() | set(called.values()))
                provider[called[own]] = member
        for name in called.values():
            merged.cells.setdefault(name, [None] * len(places))
        for place, value in enumerate(zip(*(offered.cells[name] for name in key), strict=True)):
            if value not in places:
                places[value] = len(places)
                for column in merged.cells.values():
                    column.append(None)
            for own in kept:
                merged.cells[called[own]][places[value]] = offered.cells[own][place]
        merged.called[member] = called
        merged.shared += [(name, member, own) for name, own in facts.shared]
        merged.differing += _told(facts, called, member, provider, group)
    return merged


def _told(
    facts: Facts,
    called: Mapping[str, str],
    member: Member,
    provider: Mapping[str, Member],
    group: Group,
) -> list[Differing]:
    """Return the differing columns with the rows of the sources that gave them."""
    found = []
    for one in facts.differing:
        giver = provider[one.here]
        places = giver.keyed.places(group.keys[giver])
        own_places = member.keyed.places(group.keys[member])
        examples = tuple(
            Difference(
                key,
                here,
                giver.keyed.row_numbers[places[key]] if key in places else 0,
                there,
                member.keyed.row_numbers[own_places[key]],
            )
            for key, here, there in one.examples
        )
        other = called[one.there]
        found.append(Differing(one.here, giver.source, other, member.source, one.count, examples))
    return found


def names_of(groups: Sequence[Group], designs: Mapping[str, Design]) -> dict[tuple[str, str], str]:
    """Return a name for each table of each source: one for all members of a group, else all different."""
    names: dict[tuple[str, str], str] = {}
    taken: list[str] = []
    for group in groups:
        first = group.members[0]
        taken.append(free_name(first.name, taken))
        for member in group.members:
            if member not in group.partial:
                names[member.source, member.table.name] = taken[-1]
    for source, design in designs.items():
        for table in design.tables:
            if (source, table.name) in names:
                continue
            wanted = Member(source, table, table.name == design.main).name
            if wanted.lower() in map(str.lower, taken):
                wanted = source if table.name == design.main else f"{wanted}_{source}"
            taken.append(free_name(wanted, taken))
            names[source, table.name] = taken[-1]
    return names
