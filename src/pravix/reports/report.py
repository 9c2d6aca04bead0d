"""The report to pass around: one HTML page that fetches nothing, or Markdown for version control."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Sequence
from dataclasses import astuple, dataclass
from functools import partial
from html import escape
from importlib.metadata import version
from pathlib import Path

from jinja2 import Environment, PackageLoader, StrictUndefined

from pravix.document.model import Document, TableDocument
from pravix.folder.dictionary import HEADINGS, Entry, as_markdown, entries, evidence_of, marked
from pravix.judgement.decisions import surely
from pravix.pictures.diagram import diagram_layout, write_diagram
from pravix.pictures.diagram_text import relations_html
from pravix.reports.story import Story, story_of
from pravix.wording import counted, printable

_PARTS = (
    ("diagram", "Diagram"),
    ("tables", "Tables"),
    ("story", "How they came about"),
    ("links", "Links"),
    ("evidence", "Evidence and questions"),
    ("dictionary", "Data dictionary"),
    ("proof", "Proof"),
)


def report_html(document: Document, name: str) -> str:
    """Return the report on a design as one HTML page; ``name`` is what it is about."""
    story = story_of(document)
    found = entries(story.tables, evidence_of(document))
    return _rendered(
        "report.html.j2",
        True,
        story,
        name=name,
        parts=[part for part in _PARTS if part[0] != "evidence" or story.basis],
        relations=relations_html(story.tables),
        diagram=_drawn(story.tables),
        headings=HEADINGS,
        dictionary=[astuple(entry) for entry in found],
        about=_about(story, found),
    )


@dataclass(frozen=True)
class _About:
    """What the drawing tells of a table when it is chosen: ``steps`` are numbers of those that made it."""

    table: TableDocument
    columns: Sequence[Entry]
    steps: Sequence[int]


def _about(story: Story, found: Sequence[Entry]) -> list[_About]:
    return [
        _About(
            table,
            [entry for entry in found if entry.table == table.name],
            [number for number, step in enumerate(story.steps, 1) if step.to == table.name],
        )
        for table in story.tables
    ]


def report_markdown(document: Document, name: str) -> str:
    """Return the report as Markdown."""
    dictionary = as_markdown(document).replace("\n## ", "\n### ").replace("# Data", "## Data", 1)
    return _rendered("report.md.j2", False, story_of(document), name=marked(name), dictionary_text=dictionary)


def _rendered(template: str, escape: bool, story: Story, **values: object) -> str:
    environment = Environment(
        loader=PackageLoader("pravix.reports"),
        autoescape=escape,
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        finalize=_shown,
    )
    environment.filters["mark"] = marked
    words = {word + "s": partial(_count, word=word) for word in ("row", "column", "table", "join")}
    made = environment.get_template(template)
    return made.render(
        design=story,
        subject=story.subject,
        files=story.files,
        sure={table.name: surely(table.confidence) for table in story.tables},
        **values,
        **words,
        number=lambda value: f"{value:,}",
        version=version("pravix"),
    )


def _shown(value: object) -> object:
    """Return what a page shows of a value: control characters, which no page may hold, as visible marks."""
    return printable(value) if type(value) is str else value


def _count(number: int, word: str) -> str:
    return counted(number, word)


def _drawn(tables: Sequence[TableDocument]) -> str:
    """Return the diagram as an SVG element that an HTML page takes, each box a link to what is told of it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "diagram.svg"
        write_diagram(tables, str(path))
        drawn = path.read_text(encoding="utf-8")
    drawn = re.sub(r"<metadata>.*?</metadata>", "", drawn[drawn.index("<svg") :], flags=re.DOTALL)
    drawn = drawn.replace('role="img"', 'role="group"', 1)  # For the links in it are to be spoken.
    layout, _ = diagram_layout(tables)
    links = []
    for number, table in enumerate(tables, 1):
        left, top, width, height = layout.boxes[table.name]
        told = escape(printable(f"{table.name}, {counted(table.rows, 'row')}"))
        links.append(
            f'<a href="#about-{number}" class="box" aria-label="{told}"><title>{told}</title>'
            f'<rect x="{left:.1f}" y="{top:.1f}" width="{width:.1f}" height="{height:.1f}"/></a>'
        )
    end = drawn.rindex("</svg>")
    return f"{drawn[:end]}{''.join(links)}{drawn[end:]}"
