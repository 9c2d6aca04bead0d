"""The demo: the made-up sheets of a honey co-operative, and what comes of them."""

from __future__ import annotations

from collections.abc import Callable
from importlib.resources import files
from pathlib import Path
from typing import TypeVar

from pravix.analysis import Analysis
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.pictures.diagram import write_diagram
from pravix.reports.report import report_html
from pravix.wording import unused
from pravix.writing import replace_folder, write_text

_SUFFIXES = (".csv", ".xlsx", ".txt")
_FOLDER = "honey-demo"
_Analysis = TypeVar("_Analysis", bound=Analysis)


def write_demo(folder: str | None, analysis: Callable[[str], _Analysis]) -> tuple[Path, _Analysis]:
    """Write the demo data and all results into a new folder; return where, and the analysis of its sheet.

    ``analysis`` makes one of a path. Without a ``folder`` one is named. Raises InputError where it is there.
    """
    path = Path(folder or unused(_FOLDER, lambda name: Path(name).exists(), lambda n: f"{_FOLDER}-{n}"))
    made: list[_Analysis] = []

    def fill(place: Path) -> None:
        (place / "registers").mkdir()
        for sheet in files("pravix.demo").iterdir():
            if sheet.name.endswith(_SUFFIXES):
                (place / sheet.name.replace("register_", "registers/")).write_bytes(sheet.read_bytes())
        done = analysis(str(place / "deliveries.csv"))
        write_design(done.design, str(place / "tables"), basis=done.basis)
        document = open_folder(place / "tables").document
        write_diagram(document.tables, str(place / "tables.svg"))
        write_text(place / "report.html", [report_html(document, "Deliveries of the honey co-operative")])
        made.append(done)

    replace_folder(path, fill, known=lambda _: set())
    return path, made[0]
