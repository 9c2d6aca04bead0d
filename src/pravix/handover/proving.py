"""The proof of a design repeated from its folder alone: the tables loaded, checked and joined back in SQLite.

What the folder must give back is known by a mark in ``design.json`` that does not depend on the order of
the rows: the sum of their hashes. (Source: D. Clarke, S. Devadas, M. van Dijk, B. Gassend and G. E. Suh,
"Incremental multiset hash functions and their application to memory integrity checking", ASIACRYPT 2003.)
"""

from __future__ import annotations

import csv
import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path
from typing import Any

from pravix.errors import InputError
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.dependency import Dependency, written_dependency
from pravix.theory.normal_forms import normal_form
from pravix.wording import counted, joined, shortened

_BYTES = 16
_NAMED = 3

Claim = tuple[bool, str]
"""Whether something holds, and what, in a sentence."""


def rows_mark(rows: Iterable[Sequence[object]], types: Sequence[str]) -> str:
    """Return a mark of rows as a multiset; ``types`` says which columns hold numbers, as design.json does.

    Numbers count by their value, so that a database that stores 15.50 as 15.5 gives the same mark.
    Linear in the cells.
    """
    total = 0
    for row in rows:
        cells = [_plain(cell, kind) for cell, kind in zip(row, types, strict=True)]
        text = json.dumps(cells, ensure_ascii=False).encode(errors="surrogatepass")
        total += int.from_bytes(blake2b(text, digest_size=_BYTES).digest())
    return f"{total % 2 ** (8 * _BYTES):032x}"


def _plain(cell: object, kind: str) -> str:
    if cell is None or cell == "":
        return ""
    try:
        if kind == "integer":
            return str(int(str(cell)))
        return repr(float(str(cell))) if kind.startswith("decimal") else str(cell)
    except ValueError:
        return str(cell)


@dataclass(frozen=True)
class _Joined:
    """A table in the join: its entry in design.json, its alias, and the role it stands in."""

    table: Mapping[str, Any]
    alias: str
    role: str

    def flat_columns(self) -> dict[str, str]:
        """For each flat column that it gives, its own column."""
        roles = {one["role"]: one["columns"] for one in self.table.get("roles", [])}
        if self.role in roles:
            return {flat: name for name, flat in roles[self.role].items()}
        return {column["name"]: column["name"] for column in self.table["columns"]}


def prove_folder(folder: Path) -> list[Claim]:
    """Return what was checked of a folder of results, each with whether it holds.

    Raises InputError where a file is missing or is not what the design says.
    """
    document = _read(folder)
    try:
        tables = document["tables"]
        database = sqlite3.connect(":memory:")
        database.executescript((folder / "schema.sql").read_text(encoding="utf-8"))
        broken = [text for table in tables for text in _load(database, folder, table)]
        claims = [(not broken, _constraints_told(broken, tables))]
        claims.append(_rejoined(database, document))
        return [*claims, *_by_algebra(document)]
    except (KeyError, TypeError) as error:
        raise InputError(f"design.json in {folder} lacks {error}", "Write the folder again.") from None
    except (OSError, UnicodeDecodeError, sqlite3.Error) as error:
        raise InputError(
            f"the folder {folder} cannot be proved: {error}", "Write the folder again."
        ) from None


def _read(folder: Path) -> dict[str, Any]:
    try:
        document: dict[str, Any] = json.loads((folder / "design.json").read_text(encoding="utf-8"))
    except OSError as error:
        hint = "Give a folder that pravix decompose --out wrote."
        raise InputError(f"{folder} holds no design.json: {error.strerror}", hint) from None
    except ValueError as error:
        raise InputError(f"design.json in {folder} is not JSON: {error}", "Write the folder again.") from None
    return document


def _load(database: sqlite3.Connection, folder: Path, table: Mapping[str, Any]) -> list[str]:
    """Load a table row by row; return what the constraints refused, with the line of its file."""
    name, refused = table["file"], []
    marks = ", ".join("?" * len(table["columns"]))
    statement = f"INSERT INTO {_quoted(table['name'])} VALUES ({marks})"
    with (folder / name).open(encoding="utf-8", newline="") as file:
        reader = csv.reader(file)
        next(reader, None)
        for row in reader:
            try:
                database.execute(statement, [cell if cell else None for cell in row])
            except (sqlite3.IntegrityError, sqlite3.ProgrammingError) as error:
                refused.append(f"{name}, line {reader.line_num}: {error}")
    return refused


def _constraints_told(broken: Sequence[str], tables: Sequence[Mapping[str, Any]]) -> str:
    if broken:
        more = f" and {len(broken) - _NAMED} more" if len(broken) > _NAMED else ""
        return f"Rows that the keys and references refuse: {joined(broken[:_NAMED])}{more}."
    links = sum(len(table["foreign_keys"]) for table in tables)
    return (
        f"All rows obey the keys and references ({counted(len(tables), 'table')}, {counted(links, 'link')})."
    )


def _rejoined(database: sqlite3.Connection, document: Mapping[str, Any]) -> Claim:
    """Join the tables back in the database and compare the rows with the mark of the file's."""
    wanted = document["rows_mark"]
    sources, places = _join(document)
    lacking = [name for name in wanted["columns"] if name not in places]
    if lacking:
        return False, f"No table gives back {joined([shortened(name) for name in lacking])}."
    chosen = [places[name] for name in wanted["columns"]]
    columns = ", ".join(f"{alias}.{_quoted(name)}" for alias, name, _ in chosen) or "1"
    rows = database.execute(f"SELECT {columns} FROM {sources}").fetchall()
    count = counted(len(rows), "row")
    if len(rows) != document["source"]["rows"]:
        return False, f"The tables join to {count}, but the file had {document['source']['rows']:,}."
    if rows_mark(rows, [kind for _, _, kind in chosen]) != wanted["mark"]:
        return False, f"The tables join to {count}, but not to those of the file: a cell was changed."
    return True, f"The tables join back to exactly the {count} of the file, in SQLite."


def _join(document: Mapping[str, Any]) -> tuple[str, dict[str, tuple[str, str, str]]]:
    """Return the FROM clause, and for each flat column the alias, column and type that give it."""
    by_name = {table["name"]: table for table in document["tables"]}
    main = _Joined(by_name[document["main"]], "t0", "")
    clause, reached = f"{_quoted(document['main'])} t0", [main]
    places: dict[str, tuple[str, str, str]] = {}
    seen = {(document["main"], "")}
    for one in reached:
        types = {column["name"]: column["type"] for column in one.table["columns"]}
        for flat, name in one.flat_columns().items():
            places.setdefault(flat, (one.alias, name, types[name]))
        for link in one.table["foreign_keys"]:
            other, role = link["references"]["table"], link.get("role") or one.role
            if (other, role) not in seen:
                seen.add((other, role))
                joined_table = _Joined(by_name[other], f"t{len(reached)}", role)
                reached.append(joined_table)
                pairs = zip(link["columns"], link["references"]["columns"], strict=True)
                on = " AND ".join(
                    f"{one.alias}.{_quoted(here)} = {joined_table.alias}.{_quoted(there)}"
                    for here, there in pairs
                )
                clause += f" LEFT JOIN {_quoted(other)} {joined_table.alias} ON {on}"
    for table in document["tables"]:
        if not table["primary_key"] and "repairs" not in table and table["name"] != document["main"]:
            alias = f"t{len(reached)}"
            reached.append(_Joined(table, alias, ""))
            clause += f" CROSS JOIN {_quoted(table['name'])} {alias}"
            places |= {column["name"]: (alias, column["name"], column["type"]) for column in table["columns"]}
    return clause, places


def _by_algebra(document: Mapping[str, Any]) -> list[Claim]:
    """Return the claims that need no rows: the chase, preserved rules, and each table's normal form."""
    rules = [
        Dependency(frozenset(rule["determinant"]), rule["dependent"]) for rule in document["dependencies"]
    ]
    parts = [table for table in document["tables"] if "repairs" not in table]
    schemes = {
        f"{table['name']} {role}".strip(): frozenset(_Joined(table, "", role).flat_columns())
        for table in parts
        for role in [one["role"] for one in table.get("roles", [])] or [""]
    }
    stored = frozenset().union(*schemes.values())
    kept = [rule for rule in rules if rule.columns <= stored]
    lost = lost_dependencies(list(schemes.values()), kept)
    below = [name for name, columns in schemes.items() if not normal_form(columns, kept).form.third]
    told = joined([written_dependency(sorted(rule.determinant), [rule.dependent]) for rule in lost])
    return [
        (is_lossless(stored, list(schemes.values()), kept), "The chase shows that the join is lossless."),
        (
            not lost,
            f"No single table can check {told}." if lost else "Each rule can be checked in one table.",
        ),
        (not below, f"Not in 3NF: {joined(below)}." if below else "Every table is in third normal form."),
    ]


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
