"""The data dictionary: every table and column with its meaning, type, key, values and origin."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import astuple, dataclass
from typing import Any

from pravix.folder.harmless import harmless
from pravix.wording import counted, joined, printable, shortened

HEADINGS = ("Table", "Column", "Meaning", "Type", "Key", "Blank", "Values", "Examples", "From", "Rests on")


@dataclass(frozen=True)
class Entry:
    """One column of the dictionary, every field a text; see ``HEADINGS``."""

    table: str
    column: str
    meaning: str
    type: str
    key: str
    blank: str
    values: str
    examples: str
    origin: str
    rests_on: str


def entries(document: Mapping[str, Any]) -> list[Entry]:
    """Return an entry for each column of a design, table by table."""
    evidence = {one["column"]: one for one in document.get("findings", {}).get("evidence", [])}
    return [
        Entry(
            table=table["name"],
            column=column["name"],
            meaning=column.get("meaning", ""),
            type=column["type"],
            key=_key(table, column["name"]),
            blank="may be blank" if column["nullable"] else "always filled",
            values=_values(table, column),
            examples=", ".join(shortened(value) for value in column["examples"]),
            origin=_origin(table, column),
            rests_on=_rests_on(table, column, evidence),
        )
        for table in document["tables"]
        for column in table["columns"]
    ]


def _key(table: Mapping[str, Any], column: str) -> str:
    told = ["primary key"] if column in table["primary_key"] else []
    told += ["unique"] if [column] in table["candidate_keys"][1:] else []
    for link in table["foreign_keys"]:
        if column in link["columns"]:
            told.append(f"refers to {link['references']['table']}")
    return ", ".join(dict.fromkeys(told))


def _values(table: Mapping[str, Any], column: Mapping[str, Any]) -> str:
    codes = column.get("codes", {})
    told = []
    for check in table["checks"]:
        if check["column"] == column["name"] and check["kind"] == "values":
            listed = [f"{value}: {codes[value]}" if value in codes else value for value in check["values"]]
            told.append(f"one of {', '.join(listed)}")
        elif check["column"] == column["name"] and check["kind"] == "range":
            told.append(f"{check['values'][0]} to {check['values'][1]}")
    rest = {value: text for value, text in codes.items() if not any(value in one for one in told)}
    return "; ".join([*told, *(f"{value}: {text}" for value, text in rest.items())])


def _origin(table: Mapping[str, Any], column: Mapping[str, Any]) -> str:
    roles = [one["columns"][column["name"]] for one in table.get("roles", [])]
    if found := column.get("origins") or roles:
        return joined(found)
    if column["source"] is not None:
        return str(column["source"])
    return str(column.get("stands_for", column["name"]) or "added")


def _rests_on(
    table: Mapping[str, Any], column: Mapping[str, Any], evidence: Mapping[str, Mapping[str, str]]
) -> str:
    flat = [one["columns"][column["name"]] for one in table.get("roles", [])] or [
        column.get("stands_for", column["name"])
    ]
    found = next((evidence[name] for name in flat if name in evidence), None)
    if found is None or column["name"] in table["primary_key"]:
        return ""
    return f"{found['rule']} ({found['standing']}): {found['why']}"


def lacking_meaning(document: Mapping[str, Any]) -> list[str]:
    """Return the columns of the file, in the order of the tables, that have no meaning yet."""
    flat = [
        _origin(table, column)
        for table in document["tables"]
        for column in table["columns"]
        if not column.get("meaning") and _origin(table, column) != "added"
    ]
    return list(dict.fromkeys(flat))


def as_csv(document: Mapping[str, Any]) -> str:
    """Return the dictionary as CSV; no cell of it can be run by a spreadsheet."""
    made = io.StringIO()
    writer = csv.writer(made, lineterminator="\n")
    writer.writerow(HEADINGS)
    writer.writerows(map(harmless, astuple(entry)) for entry in entries(document))
    return made.getvalue()


def as_markdown(document: Mapping[str, Any]) -> str:
    """Return the dictionary as Markdown, a heading and a table for each table of the design."""
    found = entries(document)
    lines = ["# Data dictionary", ""]
    for table in document["tables"]:
        lines += [f"## {marked(table['name'])}", ""]
        meaning = f"{marked(table['meaning'])}. " if table.get("meaning") else ""
        key = joined([marked(name) for name in table["primary_key"]]) or "none"
        lines += [f"{meaning}{counted(table['rows'], 'row')}; primary key: {key}.", ""]
        lines += [_line(HEADINGS[1:]), _line(["---"] * (len(HEADINGS) - 1))]
        own = [entry for entry in found if entry.table == table["name"]]
        lines += [_line([marked(cell) for cell in astuple(entry)[1:]]) for entry in own]
        lines.append("")
    return "\n".join(lines)


def _line(cells: Sequence[str]) -> str:
    return f"| {' | '.join(cells)} |"


def marked(text: str) -> str:
    """Return a text of the file in which nothing is a mark of Markdown or HTML."""
    line = printable(" ".join(text.split()))
    for mark in "\\`*_[]<>|#":
        line = line.replace(mark, {"<": "&lt;", ">": "&gt;"}.get(mark, f"\\{mark}"))
    return line
