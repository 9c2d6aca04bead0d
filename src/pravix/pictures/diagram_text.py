"""The diagram as text for documents: Mermaid, Graphviz, and the relations as textbooks write them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from html import escape

from pravix.pictures.drawn import DrawnTable
from pravix.relation.types import Kind
from pravix.wording import printable


def mermaid(tables: Sequence[DrawnTable]) -> str:
    """Return an entity-relationship diagram in the language of Mermaid.

    Names that its grammar does not take are replaced by plain ones, with the true name beside them.
    """
    lines = ["erDiagram"]
    names = {table.name: f"t{number}" for number, table in enumerate(tables)}
    for table in tables:
        lines.append(f'    {names[table.name]}["{_plain(table.name)}"] {{')
        referring = {name for link in table.foreign_keys for name in link.columns}
        for column in table.columns:
            keys = ["PK"] if column.name in table.primary_key else []
            keys += ["FK"] if column.name in referring else []
            marks = f" {', '.join(keys)}" if keys else ""
            kind, word = _word(Kind.of_type(column.type).value), _word(column.name)
            told = "" if word == column.name else f' "{_plain(column.name)}"'
            lines.append(f"        {kind} {word}{marks}{told}")
        lines.append("    }")
    for table in tables:
        for link in table.foreign_keys:
            many = "|o" if link.cardinality.single else "}o"
            one = "o|" if link.cardinality.optional else "||"
            other = names[link.references.table]
            label = _plain(", ".join(link.columns))
            lines.append(f'    {names[table.name]} {many}--{one} {other} : "{label}"')
    return "\n".join(lines) + "\n"


def _word(name: str) -> str:
    kept = "".join(mark if mark.isascii() and mark.isalnum() else "_" for mark in name) or "_"
    return kept if kept[0].isalpha() else f"c{kept}"


def _plain(name: str) -> str:
    """Return a name that can stand in double quotes: no quotes, one line, angle brackets as words."""
    line = printable(" ".join(name.split()))
    return line.replace('"', "''").replace("<", "&lt;").replace(">", "&gt;")


def graphviz(tables: Sequence[DrawnTable]) -> str:
    """Return the diagram in the DOT language, tables as HTML-like labels."""
    lines = ["digraph tables {", "  rankdir=LR;", '  node [shape=plain, fontname="monospace"];']
    names = {table.name: f"t{number}" for number, table in enumerate(tables)}
    for table in tables:
        rows = [f'<tr><td bgcolor="#24505f"><font color="white"><b>{_cell(table.name)}</b></font></td></tr>']
        for number, column in enumerate(table.columns):
            mark = "PK " if column.name in table.primary_key else ""
            rows.append(f'<tr><td align="left" port="c{number}">{mark}{_cell(column.name)}</td></tr>')
        label = f'<table border="0" cellborder="1" cellspacing="0">{"".join(rows)}</table>'
        lines.append(f"  {names[table.name]} [label=<{label}>];")
    places = {
        table.name: {column.name: number for number, column in enumerate(table.columns)} for table in tables
    }
    for table in tables:
        for link in table.foreign_keys:
            other = link.references.table
            here = places[table.name][link.columns[0]]
            there = places[other][link.references.columns[0]]
            tail = "tee" if link.cardinality.single else "crow"
            head = "odottee" if link.cardinality.optional else "teetee"
            look = f"dir=both, arrowtail={tail}, arrowhead={head}"
            lines.append(f"  {names[table.name]}:c{here} -> {names[other]}:c{there} [{look}];")
    return "\n".join([*lines, "}"]) + "\n"


def _cell(name: str) -> str:
    return escape(printable(" ".join(name.split()))) or "&#160;"


def relations_text(tables: Sequence[DrawnTable]) -> str:
    """Return each relation on one line, ``Drum(_drum_no_, ...)``: the key between low lines."""
    lines = []
    for table in tables:
        columns = ", ".join(
            f"_{column.name}_" if column.name in table.primary_key else column.name
            for column in table.columns
        )
        lines.append(f"{table.name}({columns})")
        for link in table.foreign_keys:
            there = f"{link.references.table}({', '.join(link.references.columns)})"
            lines.append(f"    {', '.join(link.columns)} refers to {there}")
    return "\n".join(lines) + "\n"


def relations_html(tables: Sequence[DrawnTable]) -> str:
    """Return the relations as a list in HTML, keys underlined and references in italics."""
    items = []
    for table in tables:
        referring = {name for link in table.foreign_keys for name in link.columns}
        columns = []
        for column in table.columns:
            told = escape(printable(column.name))
            told = f"<i>{told}</i>" if column.name in referring else told
            columns.append(f"<u>{told}</u>" if column.name in table.primary_key else told)
        items.append(f"<li><b>{escape(printable(table.name))}</b>({', '.join(columns)})</li>")
    return '<ul class="relations">\n' + "\n".join(items) + "\n</ul>\n"


TEXTS: Mapping[str, Callable[[Sequence[DrawnTable]], str]] = {
    ".mmd": mermaid,
    ".dot": graphviz,
    ".txt": relations_text,
    ".html": relations_html,
}
"""What writes a file of each ending."""
