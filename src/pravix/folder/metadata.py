"""What the tables of a folder are, in open formats: for the web (CSVW) and as a data package (Table Schema).

Sources: J. Tennison, G. Kellogg and I. Herman, *Model for Tabular Data and Metadata on the Web* and *Metadata
Vocabulary for Tabular Data*, W3C Recommendations, 2015; *Data Package* and *Table Schema*, datapackage.org.
"""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Mapping, Sequence
from urllib.parse import quote

from pravix.design.naming import free_name
from pravix.document.model import ColumnDocument, Document, LinkDocument, TableDocument
from pravix.relation.types import Kind

CSVW_FILE = "csv-metadata.json"
PACKAGE_FILE = "datapackage.json"

_CSV = ".csv"
_DATATYPES = {Kind.INTEGER: "integer", Kind.DECIMAL: "decimal"}
_TYPES = {Kind.INTEGER: "integer", Kind.DECIMAL: "number"}
_PACKAGE_DAYS = {Kind.DATE: "date", Kind.MOMENT: "datetime", Kind.TIME: "time"}
_CSVW_DAYS: Mapping[Kind, object] = {
    Kind.DATE: "date",
    Kind.MOMENT: {"base": "datetime", "format": "yyyy-MM-dd HH:mm:ss"},
    Kind.TIME: "time",
}

Told = dict[str, object]


def metadata(document: Document) -> Mapping[str, str]:
    """Return the files of metadata by name, for tables that are CSV files; none for others."""
    tables = [table for table in document.tables if table.file and table.file.endswith(_CSV)]
    if len(tables) < len(document.tables) or not tables:
        return {}
    by_name = {table.name: table for table in tables}
    names = _resource_names(tables)
    csvw: Told = {
        "@context": "http://www.w3.org/ns/csvw",
        "tables": [_csvw_table(table, by_name) for table in tables],
    }
    package = {
        "$schema": "https://datapackage.org/profiles/1.0/datapackage.json",
        "profile": "tabular-data-package",
        "name": "tables",
        "resources": [_resource(table, names) for table in tables],
    }
    return {CSVW_FILE: _text(csvw), PACKAGE_FILE: _text(package)}


def _text(document: Mapping[str, object]) -> str:
    return json.dumps(document, ensure_ascii=False, indent=1) + "\n"


def _plain_names(table: TableDocument) -> dict[str, str]:
    """Return names of columns that CSVW allows in any case; their titles are those of the file."""
    return {column.name: f"c{place}" for place, column in enumerate(table.columns, 1)}


def _csvw_table(table: TableDocument, tables: Mapping[str, TableDocument]) -> Told:
    names = _plain_names(table)
    schema: Told = {
        "columns": [_csvw_column(column, names[column.name]) for column in table.columns],
        "primaryKey": [names[name] for name in table.primary_key],
    }
    keys = [
        {
            "columnReference": [names[name] for name in link.columns],
            "reference": _reference(link, tables[link.references.table]),
        }
        for link in table.foreign_keys
    ]
    told: Told = {"url": quote(table.file), "dc:title": table.name, "tableSchema": schema}
    if keys:
        schema["foreignKeys"] = keys
    return told if not table.meaning else {**told, "dc:description": table.meaning}


def _reference(link: LinkDocument, there: TableDocument) -> Told:
    names = _plain_names(there)
    columns = [names[name] for name in link.references.columns]
    return {"resource": quote(there.file), "columnReference": columns}


def _csvw_column(column: ColumnDocument, name: str) -> Told:
    known = {**_DATATYPES, **(_CSVW_DAYS if column.iso else {})}
    told: Told = {"name": name, "titles": column.name, "datatype": known.get(column.kind, "string")}
    if not column.nullable:
        told["required"] = True
    return told if not column.meaning else {**told, "dc:description": column.meaning}


def _resource_names(tables: Sequence[TableDocument]) -> dict[str, str]:
    """Return names that a data package allows: small letters and digits, all different."""
    found: dict[str, str] = {}
    for table in tables:
        plain = unicodedata.normalize("NFKD", table.name).encode("ascii", "ignore").decode().lower()
        found[table.name] = free_name(
            re.sub(r"[^a-z0-9_]+", "_", plain).strip("_") or "table", found.values()
        )
    return found


def _resource(table: TableDocument, names: Mapping[str, str]) -> Told:
    schema: Told = {
        "fields": [_field(column) for column in table.columns],
        "missingValues": [""],
        "primaryKey": list(table.primary_key),
    }
    if table.foreign_keys:
        schema["foreignKeys"] = [_foreign_key(link, table.name, names) for link in table.foreign_keys]
    return {
        "profile": "tabular-data-resource",
        "name": names[table.name],
        "title": table.name,
        "path": table.file,
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "schema": schema,
        **({"description": table.meaning} if table.meaning else {}),
    }


def _field(column: ColumnDocument) -> Told:
    known = {**_TYPES, **(_PACKAGE_DAYS if column.iso else {})}
    told: Told = {"name": column.name, "type": known.get(column.kind, "string")}
    if column.iso and column.kind is Kind.MOMENT:
        told["format"] = "%Y-%m-%d %H:%M:%S"
    if not column.nullable:
        told["constraints"] = {"required": True}
    return told if not column.meaning else {**told, "description": column.meaning}


def _foreign_key(link: LinkDocument, table: str, names: Mapping[str, str]) -> Told:
    resource = "" if link.references.table == table else names[link.references.table]
    return {
        "fields": list(link.columns),
        "reference": {"resource": resource, "fields": list(link.references.columns)},
    }
