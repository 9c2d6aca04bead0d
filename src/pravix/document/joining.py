"""How the tables of a design are joined back into flat rows: which table, in which role, on which columns.

Works on the design as a document, so that a folder is enough.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from msgspec.structs import replace

from pravix.document.model import LinkDocument, PartDocument, TableDocument
from pravix.relation.types import Kind


@dataclass(frozen=True)
class Place:
    """Where a flat column is found: the alias of a joined table, its column there, and its kind."""

    alias: str
    column: str
    kind: Kind


@dataclass(frozen=True)
class Joined:
    """A table in the join, in one role; ``on`` pairs places of tables before it with its own columns."""

    table: TableDocument
    alias: str
    role: str
    on: tuple[tuple[Place, str], ...] = ()

    def place(self, column: str) -> Place:
        """Return the place of one of its columns."""
        return Place(self.alias, column, self.table.column(column).kind)


@dataclass
class FlatJoin:
    """All tables in the order in which they are joined, and where each flat column is found."""

    tables: list[Joined] = field(default_factory=list)
    places: dict[str, Place] = field(default_factory=dict)
    mark: str = "t"

    @property
    def alias(self) -> str:
        """The alias of the table that is joined next."""
        return f"{self.mark}{len(self.tables)}"

    def from_clause(self, quoted: Callable[[str], str]) -> str:
        """Return the SQL between FROM and WHERE; ``quoted`` quotes a name."""
        first, *others = self.tables
        parts = [f"{quoted(first.table.name)} {first.alias}"]
        for one in others:
            name = f"{quoted(one.table.name)} {one.alias}"
            conditions = [
                f"{there.alias}.{quoted(there.column)} = {one.alias}.{quoted(own)}" for there, own in one.on
            ]
            on = " AND ".join(conditions)
            parts.append(f"LEFT JOIN {name} ON {on}" if on else f"CROSS JOIN {name}")
        return "\n  ".join(parts)


def flat_join(document: PartDocument) -> FlatJoin:
    """Return the join of all tables to the main one: along the references, and else by known keys.

    A table that nothing refers to is joined as soon as the flat columns of one of its keys are known; one
    without a key gives its one row to all. The tables of parts are left out: they hold several rows for one.
    """
    return _joined_to(document.by_name[document.main], document, "t")


@dataclass(frozen=True)
class PartJoin:
    """The tables that hold the parts of a list or family, joined to its ``child`` table.

    ``home`` is the reference by which the child belongs to another table; None where that has one row.
    """

    child: TableDocument
    home: LinkDocument | None
    join: FlatJoin

    def place(self, fact: str) -> Place:
        """Return where a fact of a part is found."""
        return self.join.places.get(fact) or self.join.tables[0].place(fact)

    def leads_to(self, one: Joined) -> bool:
        """Whether the child belongs to a table of another join, in its role there."""
        home = self.home
        return home is not None and one.table.name == home.references.table and one.role == home.role


def part_join(document: PartDocument, child: TableDocument) -> PartJoin:
    """Return the join of the tables of the parts that a child table has."""
    by_name = document.by_name
    home = next(
        (
            link
            for link in child.foreign_keys
            if not child.part_of or by_name[link.references.table].part_of != child.part_of
        ),
        None,
    )
    others = tuple(link for link in child.foreign_keys if link is not home) if child.part_of else ()
    return PartJoin(child, home, _joined_to(replace(child, foreign_keys=others), document, "c"))


def _joined_to(main: TableDocument, document: PartDocument, mark: str) -> FlatJoin:
    by_name = document.by_name
    join, seen = FlatJoin(mark=mark), {(main.name, "")}
    _reach(join, Joined(main, f"{mark}0", ""), by_name, seen)
    waiting = [
        (table, role)
        for table in document.tables
        if table.part_of == main.part_of and table.repairs is None and not (main.repairs and not main.part_of)
        for role in table.role_names
    ]
    found = True
    while found:
        found = False
        for table, role in waiting:
            on = _by_known_key(join, table, role)
            if (table.name, role) not in seen and on is not None:
                seen.add((table.name, role))
                _reach(join, Joined(table, join.alias, role, on), by_name, seen)
                found = True
    return join


def _reach(
    join: FlatJoin, begin: Joined, by_name: Mapping[str, TableDocument], seen: set[tuple[str, str]]
) -> None:
    """Add a table to the join, with what was set apart from it and all that its references lead to."""
    reached = [begin]
    join.tables.append(begin)
    for one in reached:
        for flat, name in one.table.flat_columns(one.role).items():
            join.places.setdefault(flat, one.place(name))
        for link in one.table.foreign_keys:
            if link.by_values:
                continue
            other = by_name[link.references.table]
            role = (link.role or one.role) if other.roles else ""
            if (other.name, role) not in seen:
                seen.add((other.name, role))
                pairs = zip(link.columns, link.references.columns, strict=True)
                on = tuple((one.place(here), there) for here, there in pairs)
                reached.append(Joined(other, join.alias, role, on))
                join.tables.append(reached[-1])
        for beside in by_name.values():
            if beside.independent_of == one.table.name and (beside.name, "") not in seen:
                seen.add((beside.name, ""))
                there = {flat: name for flat, name in beside.flat_columns().items() if flat in join.places}
                on = tuple((join.places[flat], name) for flat, name in there.items())
                reached.append(Joined(beside, join.alias, "", on))
                join.tables.append(reached[-1])
            if beside.apart_from == one.table.name and (beside.name, one.role) not in seen:
                seen.add((beside.name, one.role))
                back = beside.foreign_keys[0]
                pairs = zip(back.references.columns, back.columns, strict=True)
                on = tuple((one.place(there), here) for there, here in pairs)
                reached.append(Joined(beside, join.alias, one.role, on))
                join.tables.append(reached[-1])


def _by_known_key(join: FlatJoin, table: TableDocument, role: str) -> tuple[tuple[Place, str], ...] | None:
    """Return how a table is joined by one of its keys; None where none is known.

    A column of a key is known by its flat column, or where it is the number of a row that is joined already.
    """
    known = {
        name: join.places[flat] for flat, name in table.flat_columns(role).items() if flat in join.places
    }
    for link in table.foreign_keys:
        for one in join.tables:
            if one.table.name == link.references.table and one.role == (link.role or role) * bool(one.role):
                for name, there in zip(link.columns, link.references.columns, strict=True):
                    known.setdefault(name, one.place(there))
    for key in table.candidate_keys or ((),):
        if all(name in known for name in key):
            return tuple((known[name], name) for name in key)
    return None
