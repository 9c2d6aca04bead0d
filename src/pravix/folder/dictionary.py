"""The data dictionary: every table and column with its meaning, type, key, values and origin."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, astuple, dataclass
from pathlib import Path

from pravix.document.model import ColumnDocument, Document, TableDocument
from pravix.document.story import PlaceEvidence
from pravix.errors import InputError
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


Evidence = Mapping[str, PlaceEvidence]
"""What each column of the files rests on, by its name; by ``source.column`` where there are several files."""


def evidence_of(document: Document) -> Evidence:
    """Return what the columns of the files rest on, as far as a design tells."""
    return {
        f"{source}.{one.column}" if source else one.column: one
        for source, part in document.parts.items()
        if part.basis is not None
        for one in part.basis.evidence
    }


def entries(tables: Sequence[TableDocument], evidence: Evidence) -> list[Entry]:
    """Return an entry for each column of a design, table by table."""
    return [
        Entry(
            table=table.name,
            column=column.name,
            meaning=column.meaning,
            type=column.type,
            key=_key(table, column.name),
            blank="may be blank" if column.nullable else "always filled",
            values=_values(table, column),
            examples=", ".join(shortened(value) for value in column.examples),
            origin=_origin(table, column),
            rests_on=_rests_on(table, column, evidence),
        )
        for table in tables
        for column in table.columns
    ]


def _key(table: TableDocument, column: str) -> str:
    told = ["primary key"] if column in table.primary_key else []
    told += ["unique"] if (column,) in table.candidate_keys[1:] else []
    for link in table.foreign_keys:
        if column in link.columns:
            told.append(f"refers to {link.references.table}")
    return ", ".join(dict.fromkeys(told))


def _values(table: TableDocument, column: ColumnDocument) -> str:
    codes = column.codes
    told = []
    for check in table.checks:
        if check.column == column.name and check.kind == "values":
            listed = [f"{value}: {codes[value]}" if value in codes else value for value in check.values]
            told.append(f"one of {', '.join(listed)}")
        elif check.column == column.name and check.kind == "range":
            told.append(f"{check.values[0]} to {check.values[1]}")
    rest = {value: text for value, text in codes.items() if not any(value in one for one in told)}
    return "; ".join([*told, *(f"{value}: {text}" for value, text in rest.items())])


def _flat(table: TableDocument, column: ColumnDocument) -> list[str]:
    """Return the flat columns that a column stands for, in any role and any file; none for one added."""
    if column.origins:
        return list(column.origins)
    if table.roles:
        return [role.columns[column.name] for role in table.roles if column.name in role.columns]
    return [column.flat] if column.flat is not None else []


def _origin(table: TableDocument, column: ColumnDocument) -> str:
    if column.origins or table.roles or column.source is None:
        return joined(_flat(table, column)) or "added"
    return column.source


def _rests_on(table: TableDocument, column: ColumnDocument, evidence: Evidence) -> str:
    found = next((evidence[name] for name in _flat(table, column) if name in evidence), None)
    if found is None or column.name in table.primary_key:
        return ""
    return f"{found.rule} ({found.standing}): {found.why}"


def lacking_meaning(document: Document) -> list[str]:
    """Return the columns of the file, in the order of the tables, that have no meaning yet."""
    flat = [
        _origin(table, column)
        for table in document.tables
        for column in table.columns
        if not column.meaning and _origin(table, column) != "added"
    ]
    return list(dict.fromkeys(flat))


def for_file(document: Document, path: str | Path) -> str:
    """Return the dictionary as the ending of a file says. Raises InputError for another ending."""
    write = {".md": as_markdown, ".csv": as_csv, ".json": as_json}.get(Path(path).suffix.lower())
    if write is None:
        hint = "Give a file that ends in .md, .csv or .json."
        raise InputError(f"{path} is neither Markdown nor CSV nor JSON", hint)
    return write(document)


def as_csv(document: Document) -> str:
    """Return the dictionary as CSV; no cell of it can be run by a spreadsheet."""
    made = io.StringIO()
    writer = csv.writer(made, lineterminator="\n")
    writer.writerow(HEADINGS)
    writer.writerows(
        map(harmless, astuple(entry)) for entry in entries(document.tables, evidence_of(document))
    )
    return made.getvalue()


def as_json(document: Document) -> str:
    """Return the dictionary as JSON: the tables, each with its columns."""
    found = entries(document.tables, evidence_of(document))
    tables = [
        {
            "table": table.name,
            "meaning": table.meaning,
            "rows": table.rows,
            "primary_key": list(table.primary_key),
            "columns": [_told(entry) for entry in found if entry.table == table.name],
        }
        for table in document.tables
    ]
    told = {"format": "pravix.dictionary", "version": 1, "tables": tables}
    return json.dumps(told, ensure_ascii=False, indent=1) + "\n"


def _told(entry: Entry) -> dict[str, str]:
    return {name: value for name, value in asdict(entry).items() if name != "table"}


def as_markdown(document: Document) -> str:
    """Return the dictionary as Markdown, a heading and a table for each table of the design."""
    found = entries(document.tables, evidence_of(document))
    lines = ["# Data dictionary", ""]
    for table in document.tables:
        lines += [f"## {marked(table.name)}", ""]
        meaning = f"{marked(table.meaning)}. " if table.meaning else ""
        key = joined([marked(name) for name in table.primary_key]) or "none"
        lines += [f"{meaning}{counted(table.rows, 'row')}; primary key: {key}.", ""]
        lines += [_line(HEADINGS[1:]), _line(["---"] * (len(HEADINGS) - 1))]
        own = [entry for entry in found if entry.table == table.name]
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
