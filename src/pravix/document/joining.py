"""How the tables of a design are joined back into flat rows: which table, in which role, on which columns.

Works on the design as ``design.json`` has it, so that a folder is enough.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

TableDocument = Mapping[str, Any]
"""A table as ``design.json`` describes it."""


@dataclass(frozen=True)
class Place:
    """Where a flat column is found: the alias of a joined table, its column there, and its type."""

    alias: str
    column: str
    type: str


@dataclass(frozen=True)
class Joined:
    """A table in the join, in one role; ``on`` pairs places of tables before it with its own columns."""

    table: TableDocument
    alias: str
    role: str
    on: tuple[tuple[Place, str], ...] = ()

    def flat_columns(self) -> dict[str, str]:
        """For each flat column that it gives, its own column."""
        return flat_columns(self.table, self.role)

    def place(self, column: str) -> Place:
        """Return the place of one of its columns."""
        types = {entry["name"]: entry["type"] for entry in self.table["columns"]}
        return Place(self.alias, column, types[column])


@dataclass
class FlatJoin:
    """All tables in the order in which they are joined, and where each flat column is found."""

    tables: list[Joined] = field(default_factory=list)
    places: dict[str, Place] = field(default_factory=dict)

    def from_clause(self, quoted: Callable[[str], str]) -> str:
        """Return the SQL between FROM and WHERE; ``quoted`` quotes a name."""
        first, *others = self.tables
        parts = [f"{quoted(first.table['name'])} {first.alias}"]
        for one in others:
            name = f"{quoted(one.table['name'])} {one.alias}"
            conditions = [
                f"{there.alias}.{quoted(there.column)} = {one.alias}.{quoted(own)}" for there, own in one.on
            ]
            on = " AND ".join(conditions)
            parts.append(f"LEFT JOIN {name} ON {on}" if on else f"CROSS JOIN {name}")
        return "\n  ".join(parts)


def parts(document: Mapping[str, Any]) -> Mapping[str, Mapping[str, Any]]:
    """Return the design of each source by its name; a design for one source is its own, without a name."""
    found: Mapping[str, Mapping[str, Any]] = document.get("parts", {"": document})
    return found


def flat_columns(table: TableDocument, role: str = "") -> dict[str, str]:
    """Return, for each flat column that a table gives in a role, its own column."""
    roles = {one["role"]: one["columns"] for one in table.get("roles", [])}
    if role in roles:
        return {flat: name for name, flat in roles[role].items()}
    named = {column["name"]: column.get("stands_for", column["name"]) for column in table["columns"]}
    return {flat: name for name, flat in named.items() if flat is not None}


def natural_key(table: TableDocument) -> list[str]:
    """Return the first candidate key of a table that holds no number made by Pravix."""
    keys: list[list[str]] = table["candidate_keys"] or [table["primary_key"]]
    return next((key for key in keys if table.get("surrogate") not in key), keys[0])


def flat_join(document: Mapping[str, Any]) -> FlatJoin:
    """Return the join of all tables to the main one: along the references, and else by known keys.

    A table that nothing refers to is joined as soon as the flat columns of one of its keys are known; one
    without a key gives its one row to all. Child tables are left out: they hold several rows for one.
    """
    by_name = {table["name"]: table for table in document["tables"]}
    join, seen = FlatJoin(), {(document["main"], "")}
    _reach(join, Joined(by_name[document["main"]], "t0", ""), by_name, seen)
    waiting = [
        (table, role)
        for table in document["tables"]
        if "repairs" not in table
        for role in [one["role"] for one in table.get("roles", [])] or [""]
    ]
    found = True
    while found:
        found = False
        for table, role in waiting:
            on = _by_known_key(join, table, role)
            if (table["name"], role) not in seen and on is not None:
                seen.add((table["name"], role))
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
        for flat, name in one.flat_columns().items():
            join.places.setdefault(flat, one.place(name))
        for link in one.table["foreign_keys"]:
            other = by_name[link["references"]["table"]]
            role = (link.get("role") or one.role) if other.get("roles") else ""
            if (other["name"], role) not in seen:
                seen.add((other["name"], role))
                pairs = zip(link["columns"], link["references"]["columns"], strict=True)
                on = tuple((one.place(here), there) for here, there in pairs)
                reached.append(Joined(other, f"t{len(join.tables)}", role, on))
                join.tables.append(reached[-1])
        for beside in by_name.values():
            if beside.get("apart_from") == one.table["name"] and (beside["name"], one.role) not in seen:
                seen.add((beside["name"], one.role))
                back = beside["foreign_keys"][0]
                pairs = zip(back["references"]["columns"], back["columns"], strict=True)
                on = tuple((one.place(there), here) for there, here in pairs)
                reached.append(Joined(beside, f"t{len(join.tables)}", one.role, on))
                join.tables.append(reached[-1])


def _by_known_key(join: FlatJoin, table: TableDocument, role: str) -> tuple[tuple[Place, str], ...] | None:
    """Return how a table is joined by the flat columns of one of its keys; None where none is known."""
    flat = {name: column for column, name in flat_columns(table, role).items()}
    for key in table["candidate_keys"] or [[]]:
        if all(flat.get(name) in join.places for name in key):
            return tuple((join.places[flat[name]], name) for name in key)
    return None
