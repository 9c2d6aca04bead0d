"""The README of a folder of results, for a colleague who does not have Pravix."""

from __future__ import annotations

from pravix.document.model import Document, JointDocument, LinkDocument, TableDocument
from pravix.folder.dictionary import marked
from pravix.folder.formats import format_of
from pravix.folder.metadata import CSVW_FILE, PACKAGE_FILE
from pravix.sql.view import views
from pravix.wording import counted, joined

_METADATA = {
    CSVW_FILE: "the tables' columns, types and keys as metadata for the web (CSVW, a W3C recommendation)",
    PACKAGE_FILE: "the same as a data package with Table Schema",
}


def guide(document: Document, safe_cells: bool) -> str:
    """Return the README: what each file is, what each table holds, and how to use them."""
    files = [(table.file or "").endswith(".csv") for table in document.tables]
    lines = [
        *_begun(document),
        "",
        "| File | What it is |",
        "| --- | --- |",
        *(f"| {marked(table.file)} | {_told(table)} |" for table in document.tables if table.file),
        f"| schema.sql | what creates these tables in SQLite, and {_views(document)} |",
        "| design.json | the same design for programs: keys, links, rules, steps and proof |",
        *(f"| {name} | {told} |" for name, told in _METADATA.items() if not safe_cells and all(files)),
        "| README.md | this page |",
        "",
        _rows_told(document),
    ]
    if safe_cells:
        lines.append("A cell that a spreadsheet could run as a formula has an apostrophe before it.")
    links = [_link(table, link) for table in document.tables for link in table.foreign_keys]
    return "\n".join(
        [
            *lines,
            "",
            "## How the tables belong together",
            "",
            *(links or ["There is one table."]),
            "",
            "## With Pravix",
            "",
            "`pravix prove .` repeats the proof; `pravix load . sqlite:///tables.db` loads the tables into a",
            "database; `pravix report . report.html` tells how they came about.",
            "",
        ]
    )


def _rows_told(document: Document) -> str:
    """Return what somebody must know who looks for the rows."""
    if document.tables[0].file:
        return format_of(document.tables[0].file).told
    places = [part.elsewhere.place for part in document.parts.values() if part.elsewhere is not None]
    return f"The rows are not here: they are in {joined([marked(place) for place in places])}."


def _begun(document: Document) -> list[str]:
    """Return the heading and what the tables were made from."""
    tables = counted(len(document.tables), "table")
    if not isinstance(document, JointDocument):
        source = document.source
        size = f"{counted(source.rows, 'row')} and {counted(len(source.columns), 'column')}"
        return [
            "# Tables made from one flat file",
            "",
            f"A file of {size} was split into {tables}, so that every fact is",
            "stored once. Put together again, they give exactly the rows of the file.",
        ]
    sources = [
        f"{marked(name)} ({counted(part.source.rows, 'row')})" for name, part in document.parts.items()
    ]
    return [
        "# Tables made from several files",
        "",
        f"{joined(sources)} became {tables},",
        "so that every fact is stored once. Put together again, they give exactly the rows of each file.",
    ]


def _views(document: Document) -> str:
    names = list(views(document))
    return f"the view {names[0]}" if len(names) == 1 else f"the views {joined(names)}"


def _told(table: TableDocument) -> str:
    meaning = f"{marked(table.meaning)}; " if table.meaning else ""
    key = joined([marked(name) for name in table.primary_key])
    one = f"one for each {key}" if key else "the same for every row"
    return f"{meaning}{counted(table.rows, 'row')}, {one}"


def _link(table: TableDocument, link: LinkDocument) -> str:
    other = link.references
    here, there = marked(", ".join(link.columns)), marked(", ".join(other.columns))
    return f"- {marked(table.name)}.{here} is the key {there} of {marked(other.table)}"
