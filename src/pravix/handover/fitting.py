"""Names made to fit a database: not too long, and different in all that it tells apart."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from pravix.handover.dialects import Database

_LIMITS = {"postgresql": 63, "mysql": 64, "mariadb": 64, "sqlserver": 128}
_FOLDING = ("sqlite", "mysql", "mariadb", "sqlserver")


def fitted(document: Mapping[str, Any], database: Database) -> dict[str, Any]:
    """Return a design whose names fit a database; where all do, the design is as it was.

    ``view_columns`` says what the flat view calls each column of the file.
    """
    tables = _names([table["name"] for table in document["tables"]], database)
    columns = {
        table["name"]: _names([column["name"] for column in table["columns"]], database)
        for table in document["tables"]
    }
    if "parts" not in document:
        return _fitted(document, tables, columns, database)
    return {
        **document,
        "tables": [_table(table, tables, columns) for table in document["tables"]],
        "parts": {name: _fitted(part, tables, columns, database) for name, part in document["parts"].items()},
    }


def _fitted(
    document: Mapping[str, Any],
    tables: Mapping[str, str],
    columns: Mapping[str, Mapping[str, str]],
    database: Database,
) -> dict[str, Any]:
    """Return the design of one source with other names for the tables and, in each, for its columns."""
    needed = [name for entry in document["rebuild"] for name in entry.get("columns", [])]
    view = _names(dict.fromkeys([*document["source"]["columns"], *needed]), database)
    return {
        **document,
        "main": tables[document["main"]],
        "tables": [_table(table, tables, columns) for table in document["tables"]],
        "rebuild": [_rebuilt(entry, tables, columns) for entry in document["rebuild"]],
        "view_columns": view,
    }


def _names(names: Iterable[str], database: Database) -> dict[str, str]:
    """Return a name for each: cut to what the database allows, numbered where it would meet another."""
    most = _LIMITS.get(database.name)
    folding = database.name in _FOLDING
    taken: set[str] = set()
    found = {}
    for name in names:
        fit, number = _cut(name, most), 1
        while (fit.lower() if folding else fit) in taken:
            number += 1
            ending = f"_{number}"
            fit = _cut(name, most and most - len(ending)) + ending
        taken.add(fit.lower() if folding else fit)
        found[name] = fit
    return found


def _cut(name: str, most: int | None) -> str:
    """Return a name of at most so many bytes; no NUL, which no database takes."""
    name = name.replace("\0", "_")
    return name if most is None else name.encode()[:most].decode(errors="ignore")


def _table(
    table: Mapping[str, Any], tables: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]
) -> dict[str, Any]:
    own = columns[table["name"]]
    made = {
        **table,
        "name": tables[table["name"]],
        "columns": [
            {
                **column,
                "name": own[column["name"]],
                "stands_for": column.get("stands_for", column["name"]),
            }
            for column in table["columns"]
        ],
        "primary_key": [own[name] for name in table["primary_key"]],
        "candidate_keys": [[own[name] for name in key] for key in table["candidate_keys"]],
        "foreign_keys": [
            {
                **link,
                "columns": [own[name] for name in link["columns"]],
                "references": {
                    "table": tables[link["references"]["table"]],
                    "columns": [
                        columns[link["references"]["table"]][n] for n in link["references"]["columns"]
                    ],
                },
            }
            for link in table["foreign_keys"]
        ],
        "checks": [{**check, "column": own[check["column"]]} for check in table["checks"]],
    }
    if "roles" in table:
        made["roles"] = [
            {**role, "columns": {own[name]: flat for name, flat in role["columns"].items()}}
            for role in table["roles"]
        ]
    if "surrogate" in table:
        made["surrogate"] = own[table["surrogate"]]
    if "apart_from" in table:
        made["apart_from"] = tables[table["apart_from"]]
    return made


def _referred(
    link: Mapping[str, Any], tables: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]
) -> dict[str, Any]:
    there = columns[link["table"]]
    return {"table": tables[link["table"]], "columns": [there[name] for name in link["columns"]]}


def _rebuilt(
    entry: Mapping[str, Any], tables: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]
) -> dict[str, Any]:
    if "table" not in entry:
        return dict(entry)
    own = columns[entry["table"]]
    places = {key: own[entry[key]] for key in ("fact", "position")}
    return {**entry, "table": tables[entry["table"]], **places}
