"""Tables of several designs that hold one kind of thing: which they are, and their rows put together."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import combinations

from pravix.design.model import Design, Table
from pravix.design.naming import free_name
from pravix.judgement.keyed import Cell, Keyed
from pravix.judgement.linking import GENERIC_WORDS
from pravix.judgement.sameness import Facts, Sameness, facts_of, same_things
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
        blank = {column.name for column in self.table.rows.columns if column.blanks}
        return Keyed.of(self.name, self.table.rows, [key for key in self.table.keys if not blank & set(key)])


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


@dataclass(frozen=True)
class Attached:
    """A table in a group: its rows are known by ``own`` columns, which hold what ``via`` holds in ``to``."""

    member: Member
    own: tuple[str, ...]
    to: Member | None = None
    via: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Group:
    """Tables for one kind of thing: the one that gives the names and the key, then each by an earlier one."""

    attached: tuple[Attached, ...]
    bits: float

    @property
    def members(self) -> tuple[Member, ...]:
        """The tables, in the order in which they are put together."""
        return tuple(one.member for one in self.attached)

    @cached_property
    def partial(self) -> Mapping[Member, tuple[str, ...]]:
        """The members whose rows are those of their source and only some of the things.

        For each, the columns that it shares with others, and those by which it is known; the rest stays in a
        table of its own.
        """
        whole = _put_together(self, {member: member.table.column_names for member in self.members})
        rows = len(next(iter(whole.cells.values())))
        used = {(one.member, name) for one in self.attached for name in one.own}
        used |= {(one.to, name) for one in self.attached if one.to is not None for name in one.via}
        found = {}
        for member in self.members:
            if member.main and member.table.rows.row_count != rows:
                elsewhere = {
                    name
                    for other in self.members
                    if other is not member
                    for name in whole.called[other].values()
                }
                own = whole.called[member]
                found[member] = tuple(
                    name
                    for name in member.table.column_names
                    if own[name] in elsewhere or (member, name) in used
                )
        return found

    def key_of(self, member: Member) -> tuple[str, ...]:
        """Return the columns by which a source finds its things there: its primary key where that is."""
        one = next(one for one in self.attached if one.member is member)
        there = {*self.partial.get(member, member.table.column_names), *one.own}
        return member.table.primary_key if set(member.table.primary_key) <= there else one.own

    @cached_property
    def rows(self) -> MergedRows:
        """The rows of all members by their keys: those of the first, then what the others add."""
        return _put_together(
            self, {one: self.partial.get(one, one.table.column_names) for one in self.members}
        )

    def misfit(self) -> Member | None:
        """Return a member that would be lost in the group; None where all fit.

        That is a partial member that shares nothing, or one without the columns by which another finds its
        things.
        """
        known = {one.member: set(one.own) for one in self.attached}
        for member, shared in self.partial.items():
            if set(shared) <= known[member]:
                return member
        for member in self.members:
            own = self.rows.called[member]
            key = [own[name] for name in self.key_of(member)]
            values = list(zip(*(self.rows.cells[name] for name in key), strict=True))
            if not all(all(value) for value in values) or len(set(values)) < len(values):
                lacking = (one for one in self.members if not set(key) <= set(self.rows.called[one].values()))
                return next(lacking, member)
        return None


@dataclass(frozen=True)
class _Edge:
    """Two tables that hold one kind of thing, with the keys by which they do."""

    one: Member
    other: Member
    sameness: Sameness


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
    edges = [
        _Edge(one, other, sameness)
        for one, other in combinations(members, 2)
        if one.source != other.source and (sameness := same_things(one.keyed, other.keyed)) is not None
    ]
    edges.sort(key=lambda edge: -edge.sameness.total)
    while True:
        groups = _grouped(edges)
        misfits = [(group, group.misfit()) for group in groups]
        lost = {(group, member) for group, member in misfits if member is not None}
        if not lost:
            return groups
        edges = [edge for edge in edges if not any(_ties(edge, group, member) for group, member in lost)]


def _ties(edge: _Edge, group: Group, member: Member | None) -> bool:
    """Return whether an edge ties a member to the others of a group."""
    ends = {edge.one, edge.other}
    return member in ends and ends <= set(group.members)


def _can_merge(table: Table, design: Design) -> bool:
    """Return whether rows of other sources may stand among those of a table: it is looked up by a key."""
    known = set(table.flat_names.values()) if table.made_from is None and not table.apart_from else set()
    added = set(design.row_key) - set(design.relation.names)
    return bool(table.primary_key) and set(table.primary_key) <= known - added


def _grouped(edges: Sequence[_Edge]) -> list[Group]:
    """Return the groups that edges make, the strongest first; no group gets two tables of one source."""
    inside: dict[Member, list[_Edge]] = {}
    together: dict[Member, frozenset[Member]] = {}
    for edge in edges:
        mine = together.get(edge.one, frozenset({edge.one}))
        theirs = together.get(edge.other, frozenset({edge.other}))
        if mine is theirs or {one.source for one in mine} & {one.source for one in theirs}:
            continue
        both = mine | theirs
        joined = [edge, *inside.get(edge.one, []), *inside.get(edge.other, [])]
        together |= dict.fromkeys(both, both)
        inside |= dict.fromkeys(both, joined)
    return [_attached(group, inside[next(iter(group))]) for group in dict.fromkeys(together.values())]


def _attached(members: Collection[Member], edges: Sequence[_Edge]) -> Group:
    """Return the members of a group in an order in which each is tied to an earlier one.

    The first is one whose key bears the name of its thing, and of these one with most columns.
    """
    order = list(dict.fromkeys(end for edge in edges for end in (edge.one, edge.other)))

    def fitness(member: Member) -> tuple[bool, int, int]:
        bare = all(set(words(name)) <= GENERIC_WORDS for name in member.table.primary_key)
        return bare, -len(member.table.columns), order.index(member)

    first = min(members, key=fitness)
    found = [Attached(first, first.table.primary_key)]
    waiting = sorted(edges, key=lambda edge: -edge.sameness.total)
    while waiting:
        inside = {one.member for one in found}
        edge = next(edge for edge in waiting if (edge.one in inside) != (edge.other in inside))
        waiting.remove(edge)
        if edge.one in inside:
            found.append(Attached(edge.other, edge.sameness.there, edge.one, edge.sameness.here))
        else:
            found.append(Attached(edge.one, edge.sameness.here, edge.other, edge.sameness.there))
    return Group(tuple(found), min(edge.sameness.total for edge in edges))


@dataclass(eq=False)
class MergedRows:
    """The rows of a group: the cells by column, and what each member's columns are called there."""

    key: tuple[str, ...]
    cells: dict[str, list[Cell]] = field(default_factory=dict)
    called: dict[Member, dict[str, str]] = field(default_factory=dict)
    differing: list[Differing] = field(default_factory=list)


def _put_together(group: Group, columns: Mapping[Member, Sequence[str]]) -> MergedRows:
    """Return the rows of a group with some columns of each member."""
    first = group.members[0]
    merged = MergedRows(first.table.primary_key)
    provider: dict[str, Member] = {}
    count = 0
    for one in group.attached:
        member = one.member
        via = tuple(merged.called[one.to][name] for name in one.via) if one.to is not None else one.own
        kept = [*one.own, *(name for name in columns[member] if name not in one.own)]
        cells = {name: member.keyed.cells[name] for name in kept}
        offered = Keyed(member.name, cells, (one.own,), member.keyed.row_numbers)
        so_far = Keyed(first.name, merged.cells, (via,), range(count))
        facts = facts_of(so_far, via, offered, one.own) if count else Facts(0, (), (), (), 0)
        called = dict(zip(one.own, via, strict=True)) | {own: name for name, own in facts.shared}
        differing = {pair.there for pair in facts.differing}
        for own in kept:
            if own not in called:
                wanted = f"{own}_{member.source}" if own in differing and own in merged.cells else own
                called[own] = free_name(wanted, merged.cells.keys() | set(called.values()))
            provider.setdefault(called[own], member)
        for name in called.values():
            merged.cells.setdefault(name, [None] * count)
        places = dict(so_far.places(via)) if count else {}
        for place, value in enumerate(zip(*(offered.cells[name] for name in one.own), strict=True)):
            if value not in places:
                places[value] = count
                count += 1
                for column in merged.cells.values():
                    column.append(None)
            for own in kept:
                merged.cells[called[own]][places[value]] = offered.cells[own][place]
        merged.called[member] = called
        merged.differing += _told(facts, called, one, provider)
    return merged


def _told(
    facts: Facts, called: Mapping[str, str], attached: Attached, provider: Mapping[str, Member]
) -> list[Differing]:
    """Return the differing columns with the rows of the sources that gave them."""
    found = []
    member, to = attached.member, attached.to
    for one in facts.differing if to is not None else ():
        giver = provider[one.here]
        places = member.keyed.places(attached.own)
        others = giver.keyed.places(attached.via) if giver is to else {}
        examples = tuple(
            Difference(
                key,
                here,
                int(giver.keyed.row_numbers[others[key]]) if key in others else 0,
                there,
                int(member.keyed.row_numbers[places[key]]),
            )
            for key, here, there in one.examples
        )
        other = called[one.there]
        found.append(Differing(one.here, giver.source, other, member.source, one.count, examples))
    return found


def names_of(
    groups: Sequence[Group], designs: Mapping[str, Design]
) -> tuple[dict[tuple[str, str], str], list[str]]:
    """Return a name for each table of each source, and for each group.

    The members of a group share its name, but for those that keep a table of their own.
    """
    names: dict[tuple[str, str], str] = {}
    taken: list[str] = []
    for group in groups:
        taken.append(free_name(group.members[0].name, taken))
        for member in group.members:
            if member not in group.partial:
                names[member.source, member.table.name] = taken[-1]
    merged = list(taken)
    for source, design in designs.items():
        for table in design.tables:
            if (source, table.name) in names:
                continue
            wanted = Member(source, table, table.name == design.main).name
            if wanted.lower() in map(str.lower, taken):
                wanted = source if table.name == design.main else f"{wanted}_{source}"
            taken.append(free_name(wanted, taken))
            names[source, table.name] = taken[-1]
    return names, merged
