"""How the tables of a design are joined back into flat rows: which table, in which role, on which columns.

Works on the design as a document, so that a folder is enough.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from pravix.document.model import PartDocument, TableDocument
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
    without a key gives its one row to all. Child tables are left out: they hold several rows for one.
    """
    by_name = document.by_name
    join, seen = FlatJoin(), {(document.main, "")}
    _reach(join, Joined(by_name[document.main], "t0", ""), by_name, seen)
    waiting = [
        (table, role) for table in document.tables if table.repairs is None for role in table.role_names
    ]
    found = True
    while found:
        found = False
        for table, role in waiting:
            on = _by_known_key(join, table, role)
            if (table.name, role) not in seen and on is not None:
                seen.add((table.name, role))
                _reach(join, Joined(table, f"t{len(join.tables)}", role, on), by_name, seen)
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
            other = by_name[link.references.table]
            role = (link.role or one.role) if other.roles else ""
            if (other.name, role) not in seen:
                seen.add((other.name, role))
                pairs = zip(link.columns, link.references.columns, strict=True)
                on = tuple((one.place(here), there) for here, there in pairs)
                reached.append(Joined(other, f"t{len(join.tables)}", role, on))
                join.tables.append(reached[-1])
        for beside in by_name.values():
            if beside.apart_from == one.table.name and (beside.name, one.role) not in seen:
                seen.add((beside.name, one.role))
                back = beside.foreign_keys[0]
                pairs = zip(back.references.columns, back.columns, strict=True)
                on = tuple((one.place(there), here) for there, here in pairs)
                reached.append(Joined(beside, f"t{len(join.tables)}", one.role, on))
                join.tables.append(reached[-1])


def _by_known_key(join: FlatJoin, table: TableDocument, role: str) -> tuple[tuple[Place, str], ...] | None:
    """Return how a table is joined by the flat columns of one of its keys; None where none is known."""
    flat = {name: column for column, name in table.flat_columns(role).items()}
    for key in table.candidate_keys or ((),):
        if all(flat.get(name) in join.places for name in key):
            return tuple((join.places[flat[name]], name) for name in key)
    return None
