"""Names made to fit a database: not too long, and different in all that it tells apart."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from pravix.databases.database import Database


def fitted(document: Mapping[str, Any], database: Database) -> dict[str, Any]:
    """Return a design whose names fit a database; where all do, the design is as it was.

    ``view_columns`` says what the flat view calls each column of the file.
    """
    tables = _names(
        [table["name"] for table in document["tables"]], database, database.key_ending, relations=True
    )
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


def renamed(document: Mapping[str, Any], tables: Mapping[str, str]) -> dict[str, Any]:
    """Return a design whose tables have other names, by their names; columns keep theirs."""
    columns = {
        table["name"]: {column["name"]: column["name"] for column in table["columns"]}
        for table in document["tables"]
    }

    def one(part: Mapping[str, Any]) -> dict[str, Any]:
        return {
            **part,
            "main": tables[part["main"]],
            "tables": [_table(table, tables, columns) for table in part["tables"]],
            "rebuild": [_rebuilt(entry, tables, columns) for entry in part["rebuild"]],
        }

    if "parts" not in document:
        return one(document)
    made = [_table(table, tables, columns) for table in document["tables"]]
    return {
        **document,
        "tables": made,
        "parts": {name: one(part) for name, part in document["parts"].items()},
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


def _names(
    names: Iterable[str], database: Database, spare: int = 0, relations: bool = False
) -> dict[str, str]:
    """Return a name for each: cut to what the database allows, numbered where it would meet another.

    ``spare`` letters are left for what the database puts behind it.
    """
    free = Names(database, relations=relations)
    return {name: free.free(name, spare) for name in names}


class Names:
    """The names that are taken in a database, where names must differ in all that it tells apart.

    Those of ``relations`` are the names of tables, views and indexes.
    """

    def __init__(self, database: Database, taken: Iterable[str] = (), relations: bool = False) -> None:
        self._database = database
        self._relations = relations
        self._taken = set(map(database.folded, taken))

    def free(self, name: str, spare: int = 0) -> str:
        """Return a name that fits, with room for ``spare`` letters, and is not taken; and take it."""
        database, number = self._database, 1
        fit = database.fit(name, spare, self._relations)
        while database.folded(fit) in self._taken:
            number += 1
            ending = f"_{number}"
            fit = database.fit(name, spare + len(ending), self._relations) + ending
        self._taken.add(database.folded(fit))
        return fit


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


def _rebuilt(
    entry: Mapping[str, Any], tables: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]
) -> dict[str, Any]:
    if "table" not in entry:
        return dict(entry)
    own = columns[entry["table"]]
    places = {key: own[entry[key]] for key in ("fact", "position")}
    return {**entry, "table": tables[entry["table"]], **places}
