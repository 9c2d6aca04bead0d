"""The proof of a design repeated from its folder alone: loaded, checked and joined back in SQLite."""

from __future__ import annotations

import csv
import sqlite3
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from pravix.errors import InputError
from pravix.handover import dialects
from pravix.handover.joining import TableDocument, flat_columns, flat_join, natural_key, parts
from pravix.handover.marks import of_rows, plain
from pravix.handover.opened import open_folder
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.dependency import Dependency, written_dependency
from pravix.theory.normal_forms import normal_form
from pravix.wording import counted, joined, shortened

_NAMED = 3

Claim = tuple[bool, str]
"""Whether something holds, and what, in a sentence."""


def prove_folder(folder: Path) -> list[Claim]:
    """Return what was checked of a folder of results, each with whether it holds.

    Raises InputError where a file is missing or is not what the design says.
    """
    document = open_folder(folder).fitted(dialects.database("sqlite")).document
    try:
        tables = document["tables"]
        database = sqlite3.connect(":memory:")
        database.executescript((folder / "schema.sql").read_text(encoding="utf-8"))
        broken = [text for table in tables for text in _load(database, folder, table)]
        claims = [(not broken, _constraints_told(broken, tables))]
        for source, part in parts(document).items():
            main = next(table for table in tables if table["name"] == _main(part)["name"])
            holds, told = _rejoined(database, part, main["file"], _lines(folder, main, _main(part)))
            claims.append((holds, _said_of(source, told)))
        algebra = {source: _by_algebra(part) for source, part in parts(document).items()}
        return [*claims, *_together(algebra), *_merged_forms(document)]
    except (KeyError, TypeError) as error:
        raise InputError(f"design.json in {folder} lacks {error}", "Write the folder again.") from None
    except (OSError, UnicodeDecodeError, sqlite3.Error) as error:
        raise InputError(
            f"the folder {folder} cannot be proved: {error}", "Write the folder again."
        ) from None


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


def _key(table: Mapping[str, Any], cells: Sequence[object]) -> tuple[str, ...]:
    """Return the primary key at the beginning of some cells, in a form that can be compared."""
    types = {column["name"]: column["type"] for column in table["columns"]}
    kinds = [types[name] for name in table["primary_key"]]
    return tuple(plain(cell, kind) for cell, kind in zip(cells, kinds, strict=False))


def _main(document: Mapping[str, Any]) -> Mapping[str, Any]:
    found: Mapping[str, Any] = next(one for one in document["tables"] if one["name"] == document["main"])
    return found


def _said_of(source: str, claim: str) -> str:
    return f"{source}: {claim}" if source else claim


def _together(algebra: Mapping[str, Sequence[Claim]]) -> list[Claim]:
    """Return the claims about several sources, those that hold for all of them once."""
    found: list[Claim] = []
    for claims in zip(*algebra.values(), strict=True):
        if all(holds for holds, _ in claims) and len({told for _, told in claims}) == 1:
            sources = f"each of the {len(claims)} sources" if len(claims) > 1 else ""
            found.append((True, _said_of(sources, claims[0][1])))
        else:
            pairs = zip(algebra, claims, strict=True)
            found += [(holds, _said_of(source, told)) for source, (holds, told) in pairs]
    return found


def _merged_forms(document: Mapping[str, Any]) -> list[Claim]:
    """Return whether the merged tables of a design for several sources are in third normal form."""
    columns = {table["name"]: _names(table) for table in document["tables"]}
    low = []
    for name, rules in document.get("rules", {}).items():
        known = [Dependency(frozenset(rule["determinant"]), rule["dependent"]) for rule in rules]
        if not normal_form(columns[name], known).form.third:
            low.append(name)
    if not document.get("rules"):
        return []
    return [
        (not low, f"Not in 3NF: {joined(low)}." if low else "The merged tables are in third normal form.")
    ]


def _lines(folder: Path, table: Mapping[str, Any], main: Mapping[str, Any]) -> dict[tuple[str, ...], int]:
    """Return the line in a table's file of each primary key of the main table that it holds."""
    places = [_names(table).index(name) for name in main["primary_key"]]
    with (folder / table["file"]).open(encoding="utf-8", newline="") as file:
        reader = csv.reader(file)
        next(reader, None)
        return {_key(main, [row[place] for place in places]): reader.line_num for row in reader}


def _rejoined(
    database: sqlite3.Connection,
    document: Mapping[str, Any],
    file: str,
    lines: Mapping[tuple[str, ...], int],
) -> Claim:
    """Join the tables back in the database and compare the rows with the mark of the source's.

    ``lines`` tells the line of each row of the main table in its ``file``.
    """
    wanted = document["rows_mark"]
    join = flat_join(document)
    lacking = [name for name in wanted["columns"] if name not in join.places]
    if lacking:
        return False, f"No table gives back {joined([shortened(name) for name in lacking])}."
    chosen = [join.places[name] for name in wanted["columns"]]
    columns = ", ".join(f"{place.alias}.{_quoted(place.column)}" for place in chosen) or "1"
    main = _main(document)
    key = [f"t0.{_quoted(name)}" for name in main["primary_key"]]
    found_rows = database.execute(
        f"SELECT {', '.join([*key, columns])} FROM {join.from_clause(_quoted)}"
    ).fetchall()
    rows = sorted((lines.get(_key(main, row), 0), row[len(key) :]) for row in found_rows)
    cells, kinds = [row for _, row in rows], [place.type for place in chosen]
    count = counted(len(rows), "row")
    hashes = of_rows(cells, kinds)
    if len(rows) == document["source"]["rows"] and hashes.mark == wanted["mark"]:
        return True, f"The tables join back to exactly the {count} of the file, in SQLite."
    found = hashes.blocks(wanted["block_rows"])
    pairs = enumerate(zip(found, wanted["blocks"], strict=False))
    block = next((n for n, (one, other) in pairs if one != other), min(len(found), len(wanted["blocks"])))
    line = block * wanted["block_rows"]
    had = f"but the file had {document['source']['rows']:,}"
    if len(rows) == document["source"]["rows"]:
        had = "but not to those of the file"
    at = f"line {rows[line][0]} of {file}" if line < len(rows) else f"the end of {file}"
    return False, f"The tables join to {count}, {had}: the first that differs is {at}."


def _by_algebra(document: Mapping[str, Any]) -> list[Claim]:
    """Return the claims that need no rows: the chase, preserved rules, and each table's normal form."""
    rules = [
        Dependency(frozenset(rule["determinant"]), rule["dependent"]) for rule in document["dependencies"]
    ]
    parts = [table for table in document["tables"] if "repairs" not in table]
    by_name = {table["name"]: table for table in document["tables"]}
    schemes = {
        f"{table['name']} {role}".strip(): _scheme(table, role, by_name)
        for table in parts
        for role in [one["role"] for one in table.get("roles", [])] or [""]
    }
    stored = frozenset().union(*schemes.values())
    kept = [rule for rule in rules if rule.columns <= stored]
    lost = lost_dependencies(list(schemes.values()), kept)
    wished = set(document["proof"].get("wished_below", []))
    low = [name for name, columns in schemes.items() if not normal_form(columns, kept).form.third]
    below = [name for name in low if name not in wished]
    form = "Every table is in third normal form."
    if low:
        form = f"Below third normal form as was wished: {joined(low)}; every other table is in it."
    told = joined([written_dependency(sorted(rule.determinant), [rule.dependent]) for rule in lost])
    return [
        (is_lossless(stored, list(schemes.values()), kept), "The chase shows that the join is lossless."),
        (
            not lost,
            f"No single table can check {told}." if lost else "Each rule can be checked in one table.",
        ),
        (not below, f"Not in 3NF: {joined(below)}." if below else form),
    ]


def _scheme(table: TableDocument, role: str, by_name: Mapping[str, TableDocument]) -> frozenset[str]:
    """Return the flat columns that a table states: its own, and those that its numbers stand for."""
    flat = flat_columns(table, role)
    added = set(_names(table)) - set(flat.values()) - {table.get("surrogate")}
    return frozenset(flat) | _stood_for(table, role, sorted(added), by_name)


def _stood_for(
    table: TableDocument, role: str, columns: Sequence[str], by_name: Mapping[str, TableDocument]
) -> frozenset[str]:
    """Return the flat columns that some columns of a table state, numbers by the key that they lead to."""
    flat = {name: column for column, name in flat_columns(table, role).items()}
    stated = {flat[name] for name in columns if name in flat}
    for link in table["foreign_keys"]:
        other = by_name[link["references"]["table"]]
        if set(link["columns"]) <= set(columns) and link["references"]["columns"] == [other.get("surrogate")]:
            stated |= _stood_for(other, link.get("role") or role, natural_key(other), by_name)
    return frozenset(stated)


def _names(table: Mapping[str, Any]) -> list[str]:
    return [column["name"] for column in table["columns"]]


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
