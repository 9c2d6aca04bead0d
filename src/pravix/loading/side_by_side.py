"""The query that puts chosen columns side by side, with only the joins that they need.

Tables (a table with roles once for each role) and references form a graph; the smallest part of it that holds
the wanted columns is the join. (Source: the Steiner tree in graphs, K. Mehlhorn, "A faster approximation
algorithm for the Steiner problem in graphs", Information Processing Letters 27, 1988, as NetworkX has it.)
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.document.model import Document, JointDocument, TableDocument
from pravix.errors import InputError
from pravix.first_normal_form.rebuilt import FromChild
from pravix.folder.reader import Folder
from pravix.loading.sandbox import loaded_in_memory
from pravix.sql.identifiers import fitted
from pravix.wording import counted, joined, shortened

_Node = tuple[str, str]
"""A table and the role in which it stands."""


@dataclass(frozen=True)
class Recombination:
    """A query with its ``columns``; ``path`` names the tables in the order in which they are joined.

    ``multiplied`` are tables that hold several rows for one of the first table.
    """

    sql: str
    columns: tuple[str, ...]
    path: tuple[str, ...]
    multiplied: tuple[str, ...]

    @property
    def joins(self) -> int:
        """How many joins it takes."""
        return len(self.path) - 1


@dataclass(frozen=True)
class _Join:
    """A reference between two nodes: pairs of columns, and whether a referring row may refer to none."""

    source: _Node
    target: _Node
    pairs: tuple[tuple[str, str], ...]
    optional: bool


def recombined(document: Document, wanted: Sequence[str], kind: Database | None = None) -> Recombination:
    """Return the query for some columns: those of the file, or ``table.column``.

    Raises InputError for a column that no table has, for one that stands in several roles (it says which),
    where nothing joins the tables, or where two paths are equally short.
    """
    kind = kind or database("sqlite")
    document = fitted(document, kind)
    by_name = {table.name: table for table in document.tables}
    joins = _joins(document, by_name)
    chosen = [_place(document, column) for column in wanted]
    nodes = list(dict.fromkeys(node for node, _ in chosen))
    tree = _tree(nodes, joins)
    ordered, multiplied = _in_order(tree, nodes)
    aliases = {ordered[0][0]: "t0"}
    clause = f"{kind.quoted(ordered[0][0][0])} t0"
    outer: set[_Node] = set()
    for node, via in ordered[1:]:
        aliases[node] = f"t{len(aliases)}"
        clause += f"\n  {_joined(node, via, aliases, outer, kind)}"
    cells = [
        f"{aliases[node]}.{kind.quoted(own)} AS {kind.quoted(name)}"
        for (node, own), name in zip(chosen, wanted, strict=True)
    ]
    listed = ",\n  ".join(cells)
    path = tuple(f"{name} ({role})" if role else name for (name, role), _ in ordered)
    only = _in_its_role(ordered[0][0], tree, joins, kind)
    return Recombination(f"SELECT\n  {listed}\nFROM {clause}{only}", tuple(wanted), path, multiplied)


def _in_its_role(first: _Node, tree: Sequence[_Join], joins: Sequence[_Join], kind: Database) -> str:
    """Return the condition that leaves of a table with several roles the rows of one; nothing for others."""
    if not first[1] or any(join.target == first for join in tree):
        return ""
    wanted = []
    for join in joins:
        if join.target == first:
            pairs = " AND ".join(f"r.{kind.quoted(a)} = t0.{kind.quoted(b)}" for a, b in join.pairs)
            wanted.append(f"EXISTS (SELECT 1 FROM {kind.quoted(join.source[0])} r WHERE {pairs})")
    return f"\nWHERE {' OR '.join(wanted)}" if wanted else ""


def _place(document: Document, column: str) -> tuple[_Node, str]:
    """Return the node and its own column for a wanted one: where it is described, not where it refers."""
    found: list[tuple[bool, _Node, str, str]] = []
    several = isinstance(document, JointDocument)
    for table in document.tables:
        referring = {name for link in table.foreign_keys for name in link.columns}
        for role in table.role_names:
            for flat, own in table.flat_columns(role).items():
                if column in (flat, f"{table.name}.{own}", own if several else None):
                    found.append((own in referring, (table.name, role), own, flat))
        added = set(table.column_names) - set(table.flat_columns().values())
        for own in added if not table.roles else ():
            if column in (f"{table.name}.{own}", own if several else None):
                found.append((own in referring, (table.name, ""), own, f"{table.name}.{own}"))
    rebuild = [entry for part in document.parts.values() for entry in part.rebuild]
    built = next((entry for entry in rebuild if entry.column == column), None)
    if not found and built is not None:
        made_of = f"{built.table}.{built.fact}" if isinstance(built, FromChild) else joined(built.needs)
        raise InputError(
            f"{column} is stored in no table: it is put together from {made_of}",
            "Ask for that, or take it from the view of the flat rows.",
        )
    if not found:
        columns = (
            [f"{table.name}.{name}" for table in document.tables for name in table.column_names]
            if isinstance(document, JointDocument)
            else document.source.columns
        )
        known = joined([shortened(name) for name in columns[:30]])
        raise InputError(f"no table has a column {shortened(column)}", f"Known are {known}.")
    best = [one for one in found if one[0] == min(found)[0]]
    flats = list(dict.fromkeys(flat for *_, flat in best))
    if len(flats) > 1:
        where = "places" if several else "roles"
        raise InputError(f"{column} stands in several {where}", f"Which do you mean: {joined(flats, 'or')}?")
    return best[0][1], best[0][2]


def _joins(document: Document, by_name: Mapping[str, TableDocument]) -> list[_Join]:
    found = []
    for table in document.tables:
        for role in table.role_names:
            for link in table.foreign_keys:
                other = by_name[link.references.table]
                there = (link.role or role) if other.roles else ""
                pairs = tuple(zip(link.columns, link.references.columns, strict=True))
                optional = link.cardinality.optional
                found.append(_Join((table.name, role), (other.name, there), pairs, optional))
    return found


def _tree(nodes: Sequence[_Node], joins: Sequence[_Join]) -> list[_Join]:
    """Return the references of the smallest connected part that holds all nodes; empty for a single one."""
    import networkx

    if len(nodes) == 1:
        return []
    graph = networkx.Graph()
    graph.add_nodes_from(nodes)
    between: dict[frozenset[_Node], list[_Join]] = {}
    for join in joins:
        between.setdefault(frozenset((join.source, join.target)), []).append(join)
        graph.add_edge(join.source, join.target, join=join)
    if any(not networkx.has_path(graph, nodes[0], node) for node in nodes):
        apart = joined([name for name, _ in nodes])
        raise InputError(f"nothing joins {apart}", "Choose columns of tables that refer to each other.")
    for one in nodes:
        for other in nodes:
            if one < other:
                _check_one_path(graph, one, other)
    tree = networkx.algorithms.approximation.steiner_tree(graph, nodes, method="mehlhorn")
    chosen = sorted((data["join"] for _, _, data in tree.edges(data=True)), key=joins.index)
    for join in chosen:
        _check_one_reference(between[frozenset((join.source, join.target))])
    return chosen


def _check_one_reference(joins: Sequence[_Join]) -> None:
    """Raise InputError where several references lead from one table to the other."""
    if len(joins) > 1:
        ways = joined([", ".join(here for here, _ in join.pairs) for join in joins], "or by")
        raise InputError(
            f"{_named(joins[0].source)} and {_named(joins[0].target)} are joined in several ways: by {ways}",
            "Take the view of the flat rows, which has all of them.",
        )


def _check_one_path(graph: Any, one: _Node, other: _Node) -> None:
    """Raise InputError where two shortest paths lead from one table to the other."""
    import networkx

    paths = list(networkx.all_shortest_paths(graph, one, other))
    if len(paths) > 1:
        told = [joined([_named(node) for node in path[1:-1]]) or "a direct reference" for path in paths[:3]]
        raise InputError(
            f"{_named(one)} and {_named(other)} are joined in several ways: by {joined(told, 'or by')}",
            "Ask for a column of the table that you mean as well.",
        )


def _named(node: _Node) -> str:
    return f"{node[0]} ({node[1]})" if node[1] else node[0]


def _in_order(
    tree: Sequence[_Join], nodes: Sequence[_Node]
) -> tuple[list[tuple[_Node, _Join | None]], tuple[str, ...]]:
    """Return the nodes in the order of the join, each with its reference, and those that multiply rows.

    The first is one that none refers to, so that the others are found by references where that is possible.
    """
    every = list(dict.fromkeys([*nodes, *(node for join in tree for node in (join.source, join.target))]))
    referred = {join.target for join in tree}
    first = next((node for node in every if node not in referred), every[0])
    ordered: list[tuple[_Node, _Join | None]] = [(first, None)]
    reached, multiplied = {first}, []
    waiting = list(tree)
    while waiting:
        forward = [join for join in waiting if join.source in reached]
        join = (forward or [join for join in waiting if join.target in reached])[0]
        waiting.remove(join)
        new = join.target if join.source in reached else join.source
        if new == join.source:
            multiplied.append(_named(new))
        reached.add(new)
        ordered.append((new, join))
    return ordered, tuple(multiplied)


def _joined(
    node: _Node, via: _Join | None, aliases: Mapping[_Node, str], outer: set[_Node], kind: Database
) -> str:
    """Return the JOIN for one table: outer where a row may have none there; then add it to ``outer``."""
    if via is None:
        return ""
    forward = via.target == node
    if via.optional or not forward or (via.source if forward else via.target) in outer:
        outer.add(node)
    here, there = aliases[via.source], aliases[via.target]
    on = " AND ".join(f"{here}.{kind.quoted(one)} = {there}.{kind.quoted(other)}" for one, other in via.pairs)
    return f"{'LEFT ' if node in outer else ''}JOIN {kind.quoted(node[0])} {aliases[node]} ON {on}"


def run(folder: Folder, query: Recombination) -> list[tuple[object, ...]]:
    """Return the rows of a query, from the folder's tables in an SQLite database in memory."""
    try:
        with loaded_in_memory(folder) as (connection, _):
            return connection.execute(query.sql).fetchall()
    except sqlite3.Error as error:
        raise InputError(f"the query cannot be run: {error}", "See: pravix prove") from None


def told(query: Recombination) -> str:
    """Return how many joins a query takes and what it runs through, in a sentence."""
    if query.joins == 0:
        return f"All of these columns stand in {query.path[0]}: no join."
    text = f"{counted(query.joins, 'join')}: {' - '.join(query.path)}."
    if query.multiplied:
        text += f" A row comes once for each of its rows in {joined(query.multiplied)}."
    return text
