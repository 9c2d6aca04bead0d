"""The folder of results of an analysis, wherever its rows are."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from threading import Thread

from pravix.analysis import Analysis
from pravix.document.design_document import design_document, flat_marks
from pravix.engines.staying import Staying
from pravix.errors import InputError
from pravix.folder.writer import write_design
from pravix.relation.relation import Relation

_MANY_ROWS = 100_000


@dataclass(frozen=True)
class Written:
    """The files of a folder; ``filled`` says whether the tables with their rows are among them."""

    files: list[str]
    filled: bool


def foresee(analysis: Analysis) -> None:
    """Begin what writing the results will need, while the design is still being made."""
    rows = analysis.repaired.original
    if not isinstance(analysis.source, Staying) and rows.row_count >= _MANY_ROWS:
        _ = analysis.discovery  # The search comes first: it uses every processor.
        Thread(target=_marked, args=[rows], daemon=True).start()


def _marked(rows: Relation) -> None:
    with suppress(MemoryError):  # It is told where the marks are asked for.
        flat_marks(rows)


def write_results(
    analysis: Analysis, path: str, safe_cells: bool = False, tables_as: str | None = None
) -> Written:
    """Write what an analysis came to into the folder at ``path``; see ``write_design``.

    Rows in memory are written as CSV where ``tables_as`` does not say otherwise, those of a file larger than
    memory as Parquet by the embedded database; of a table that stays in its database the design alone is
    written, and with ``none`` of any rows outside memory. Raises InputError.
    """
    source, elsewhere = analysis.source, analysis.elsewhere
    design, meanings, basis = analysis.design, analysis.ledger.meanings, analysis.basis
    if not isinstance(source, Staying):
        if tables_as == "none":
            raise InputError("only rows that stay outside memory are left out", "See --memory.")
        return Written(write_design(design, path, meanings, basis, safe_cells, tables_as or "csv"), True)
    from pravix.engines.landed import LandedPlace

    landed = isinstance(source.flat.place, LandedPlace)
    if tables_as not in (None, "none", *(["parquet"] if landed else [])) or safe_cells:
        how = "Parquet files, as their cells are" if landed else "the design alone"
        raise InputError(
            f"of rows that stay outside memory {how} can be written", "Leave out --tables-as and --harmless."
        )
    if tables_as == "none" or not landed:
        return Written(write_design(design, path, meanings, basis, elsewhere=elsewhere), False)
    from pravix.folder.outside import write_outside

    return Written(
        write_outside(design_document(design, meanings, basis, elsewhere), source.flat, path), True
    )
