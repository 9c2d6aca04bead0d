"""The report to pass around: one HTML page that fetches nothing, or Markdown for version control."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Mapping
from dataclasses import astuple
from functools import partial
from importlib.metadata import version
from pathlib import Path
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined

from pravix.document.joint_document import told_together
from pravix.folder.dictionary import HEADINGS, as_markdown, entries, marked
from pravix.judgement.decisions import surely
from pravix.pictures.diagram import write_diagram
from pravix.pictures.diagram_text import relations_html
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


def report_html(document: Mapping[str, Any], name: str) -> str:
    """Return the report on a design as one HTML page; ``name`` is what it is about."""
    document = _whole(document)
    parts = [part for part in _PARTS if part[0] != "evidence" or document.get("findings")]
    return _rendered(
        "report.html.j2",
        True,
        design={"findings": None, **document},
        **_subject(document),
        name=name,
        parts=parts,
        relations=relations_html(document),
        diagram=_drawn(document),
        headings=HEADINGS,
        sure=_sure(document),
        dictionary=[astuple(entry) for entry in entries(document)],
    )


def report_markdown(document: Mapping[str, Any], name: str) -> str:
    """Return the report as Markdown."""
    document = _whole(document)
    dictionary = as_markdown(document).replace("\n## ", "\n### ").replace("# Data", "## Data", 1)
    design = {"findings": None, **document}
    told = {"design": design, "name": marked(name), "dictionary_text": dictionary, **_subject(document)}
    told["sure"] = _sure(document)
    return _rendered("report.md.j2", False, **told)


def _whole(document: Mapping[str, Any]) -> Mapping[str, Any]:
    return told_together(document) if "parts" in document else document


def _sure(document: Mapping[str, Any]) -> dict[str, str]:
    """Return for each table how sure it is, in words, and as a number where it is not."""
    return {table["name"]: surely(table.get("confidence", 1.0)) for table in document["tables"]}


def _subject(document: Mapping[str, Any]) -> dict[str, str]:
    """Return what a report is about: how much there was, and whether it was one file."""
    source, rows = document["source"], counted(document["source"]["rows"], "row")
    if "parts" in document:
        return {"subject": f"{counted(len(document['parts']), 'file')} with {rows}", "files": "files"}
    return {"subject": f"{rows}, {counted(len(source['columns']), 'column')}", "files": "file"}


def _rendered(template: str, escape: bool, **values: Any) -> str:
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
    return made.render(**values, **words, number=lambda value: f"{value:,}", version=version("pravix"))


def _shown(value: Any) -> Any:
    """Return what a page shows of a value: control characters, which no page may hold, as visible marks."""
    return printable(value) if value.__class__ is str else value


def _count(number: int, word: str) -> str:
    return counted(number, word)


def _drawn(document: Mapping[str, Any]) -> str:
    """Return the diagram as an SVG element without what an HTML page does not take."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "diagram.svg"
        write_diagram(document, str(path))
        drawn = path.read_text(encoding="utf-8")
    return re.sub(r"<metadata>.*?</metadata>", "", drawn[drawn.index("<svg") :], flags=re.DOTALL)
