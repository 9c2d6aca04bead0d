"""The report to pass around: one HTML page that fetches nothing, or Markdown for version control."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Sequence
from dataclasses import astuple
from functools import partial
from importlib.metadata import version
from pathlib import Path

from jinja2 import Environment, PackageLoader, StrictUndefined

from pravix.document.model import Document, TableDocument
from pravix.folder.dictionary import HEADINGS, as_markdown, entries, evidence_of, marked
from pravix.judgement.decisions import surely
from pravix.pictures.diagram import write_diagram
from pravix.pictures.diagram_text import relations_html
from pravix.reports.story import Story, story_of
from pravix.wording import counted, printable

_PARTS = (
    ("tables", "Tables"),
    ("diagram", "Diagram"),
    ("story", "How they came about"),
    ("links", "Links"),
    ("evidence", "Evidence and questions"),
    ("dictionary", "Data dictionary"),
    ("proof", "Proof"),
)


def report_html(document: Document, name: str) -> str:
    """Return the report on a design as one HTML page; ``name`` is what it is about."""
    story = story_of(document)
    return _rendered(
        "report.html.j2",
        True,
        story,
        name=name,
        parts=[part for part in _PARTS if part[0] != "evidence" or story.basis],
        relations=relations_html(story.tables),
        diagram=_drawn(story.tables),
        headings=HEADINGS,
        dictionary=[astuple(entry) for entry in entries(story.tables, evidence_of(document))],
    )


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
    """Return the diagram as an SVG element without what an HTML page does not take."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "diagram.svg"
        write_diagram(tables, str(path))
        drawn = path.read_text(encoding="utf-8")
    return re.sub(r"<metadata>.*?</metadata>", "", drawn[drawn.index("<svg") :], flags=re.DOTALL)
