"""Pravix as a small Python API: the same work on a file or a data frame, with objects that show as tables.

import pravix

sheet = pravix.read("deliveries.csv")
sheet.keys
sheet.dependencies(standing="believed")
design = sheet.accept("village -> district", why="the register says so").design
design.tables["keeper"].frame()
design.write("tables")
"""

from __future__ import annotations

import tempfile
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING, Any, overload

import numpy as np
from msgspec.structs import replace as with_fields

from pravix.analysis import Analysis
from pravix.assembly import Assembly
from pravix.errors import InputError
from pravix.first_normal_form.findings import findings
from pravix.folder.writer import write_design
from pravix.judgement.linking import linked
from pravix.judgement.phrasing import open_text
from pravix.judgement.standing import Standing
from pravix.judgement.telling import reason
from pravix.ledger.ledger import Decision, Ledger
from pravix.relation.relation import Column, Relation
from pravix.sources.account import Account, Source
from pravix.sources.reading import Reading
from pravix.theory.dependency import in_order, parse_dependencies, written_in_order, written_names
from pravix.wording import counted

if TYPE_CHECKING:
    from pandas import DataFrame

    from pravix.design.model import Table
    from pravix.document.model import DesignDocument, Document, JointDocument
    from pravix.loading.load import Loaded

_SHOWN = 20


@dataclass(frozen=True)
class Listing(Sequence[tuple[str, ...]]):
    """Rows of text under headings: prints and shows as a table, and turns into a data frame."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    def __len__(self) -> int:
        return len(self.rows)

    @overload
    def __getitem__(self, place: int) -> tuple[str, ...]: ...

    @overload
    def __getitem__(self, place: slice) -> tuple[tuple[str, ...], ...]: ...

    def __getitem__(self, place: int | slice) -> tuple[str, ...] | tuple[tuple[str, ...], ...]:
        return self.rows[place]

    def __iter__(self) -> Iterator[tuple[str, ...]]:
        return iter(self.rows)

    def frame(self) -> DataFrame:
        """Return the rows as a data frame of pandas, every cell a text."""
        from pandas import DataFrame

        return DataFrame(list(self.rows), columns=list(self.headings), dtype=str)

    def __repr__(self) -> str:
        shown = [self.headings, *self.rows[:_SHOWN]]
        widths = [max(len(row[place]) for row in shown) for place in range(len(self.headings))]
        lines = [
            "   ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
            for row in shown
        ]
        lines.insert(1, "   ".join("-" * width for width in widths))
        return "\n".join([*lines, *self._rest()])

    def _repr_html_(self) -> str:
        head = "".join(f"<th>{escape(one)}</th>" for one in self.headings)
        body = "".join(
            f"<tr>{''.join(f'<td>{escape(cell)}</td>' for cell in row)}</tr>" for row in self.rows[:_SHOWN]
        )
        rest = "".join(f"<p>{escape(line)}</p>" for line in self._rest())
        return f"<table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>{rest}"

    def _rest(self) -> list[str]:
        more = len(self.rows) - _SHOWN
        return [f"{counted(more, 'more row')}; .frame() has all."] if more > 0 else []


def read(source: str | Path | DataFrame, ledger: str | None = None, **wishes: Any) -> Sheet:
    """Read a file, the URL of a database, or a data frame of pandas.

    ``ledger`` is the file with decisions (by default the one beside the source; none for a data frame).
    ``wishes`` are those of reading, as the options of the command line: ``sheet="Drums"``, ``delimiter=";"``,
    ``header=(4, 4)``, ``table="drums"``. In a data frame a missing value is a blank; all others count by
    their text. Raises InputError.
    """
    known = {field.name for field in fields(Reading)}
    unknown = sorted(set(wishes) - known)
    if unknown:
        raise InputError(f"{unknown[0]} is no wish about reading", f"Known are {', '.join(sorted(known))}.")
    if isinstance(source, str | Path):
        return Sheet(Analysis(str(source), Reading(**wishes), ledger))
    analysis = Analysis("-", Reading(**wishes), ledger)
    analysis.__dict__["source"] = Source(_relation_of(source), Account("a data frame", "columns as they are"))
    return Sheet(analysis)


def _relation_of(frame: DataFrame) -> Relation:
    names = [str(name) for name in frame.columns]
    if len(set(names)) < len(names) or not all(names):
        raise InputError("columns of the data frame have no names of their own", "Name each one differently.")
    columns = []
    for place, name in enumerate(names):
        cells = frame.iloc[:, place]
        blank = cells.isna().tolist()
        texts = ("" if none else str(cell) for cell, none in zip(cells.tolist(), blank, strict=True))
        columns.append(Column.from_texts(name, texts))
    return Relation(tuple(columns), np.arange(1, len(frame) + 1, dtype=np.int64))


def read_all(*sources: str | Path) -> Sheets:
    """Read several files, folders of files, workbooks and databases, to be linked and designed together.

    Each table has the decisions of the ledger beside its source. Raises InputError for fewer than two tables.
    """
    return Sheets(Assembly.of([str(source) for source in sources]))


class Sheets:
    """Several sources: the links among their tables, and one design for all."""

    def __init__(self, assembly: Assembly) -> None:
        self._assembly = assembly

    def __repr__(self) -> str:
        sizes = ((name, rows.row_count) for name, rows in self._assembly.relations.items())
        return "\n".join(f"{name}: {counted(count, 'row')}" for name, count in sizes)

    @cached_property
    def links(self) -> Listing:
        """Which columns refer to which keys, how surely (in bits), and how many values find nothing."""
        found = linked(self._assembly.relations).links
        rows = [
            (str(one.here), str(one.there), f"{link.total:+.1f}", str(one.values - one.found))
            for link in found
            for one in [link.inclusion]
        ]
        return Listing(("From", "To", "Bits", "Orphans"), tuple(rows))

    @property
    def design(self) -> SheetsDesign:
        """One design for all, the tables for the same things merged. Raises InputError."""
        return SheetsDesign(self._assembly)


class Sheet:
    """One source: its keys, rules, findings and questions, and the design that follows from them."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis

    def __repr__(self) -> str:
        relation = self._analysis.relation
        size = f"{counted(relation.row_count, 'row')}, {counted(len(relation.columns), 'column')}"
        return f"{self._analysis.source.account}\n{size}"

    @property
    def keys(self) -> Listing:
        """Every minimal unique combination of columns, as far as it was searched."""
        names = self._analysis.relation.names
        found = ((written_names(in_order(key, names)),) for key in self._analysis.keys.keys)
        return Listing(("Key",), tuple(found))

    def dependencies(self, standing: str | None = None) -> Listing:
        """Every minimal rule with its standing and why; only those of one standing if that is given."""
        analysis, names = self._analysis, self._analysis.relation.names
        wanted = [Standing(standing)] if standing else list(Standing)
        rows = [
            (
                written_in_order(judged.rule, names),
                judged.standing.value,
                reason(judged, analysis.judgement, names),
            )
            for judged in analysis.judgement.rules.of(*wanted)
        ]
        return Listing(("Rule", "Standing", "Why"), tuple(rows))

    @property
    def near_dependencies(self) -> Listing:
        """The rules that hold but for a few rows."""
        names = self._analysis.relation.names
        rows = [
            (written_in_order(one.rule, names), str(len(one.odd)), ", ".join(map(str, one.rows)))
            for one in self._analysis.near
        ]
        return Listing(("Rule", "Exceptions", "Rows"), tuple(rows))

    @property
    def findings(self) -> Listing:
        """What stands in the way of first normal form."""
        rows = [
            (one.id, one.told, ", ".join(one.answers)) for one in findings(self._analysis.source.relation)
        ]
        return Listing(("Finding", "What was found", "Answers"), tuple(rows))

    @property
    def questions(self) -> Listing:
        """The open questions, most decisive first."""
        rows = self._analysis.relation.row_count
        found = [(question.id, open_text(question, rows)) for question in self._analysis.questions]
        return Listing(("About", "Question"), tuple(found))

    def accept(self, rule: str, why: str = "") -> Sheet:
        """Return the sheet with a rule "a, b -> c" accepted; the ledger's file stays as it is."""
        return self._decided(rule, True, why)

    def reject(self, rule: str, why: str = "") -> Sheet:
        """Return the sheet with a rule rejected; the ledger's file stays as it is."""
        return self._decided(rule, False, why)

    def _decided(self, rule: str, accepted: bool, why: str) -> Sheet:
        made = [Decision(one, accepted, why, place=f"the rule {one}") for one in parse_dependencies(rule)]
        return self._with(self._analysis.ledger.with_decisions(made))

    def _with(self, ledger: Ledger) -> Sheet:
        analysis = self._analysis.with_ledger(ledger)
        ledger.check(analysis.relation.names, analysis.source.account.name)
        return Sheet(analysis)

    def wish(self, **policies: str) -> Sheet:
        """Return the sheet with policies of the design, as ``pravix decompose`` has them."""
        ledger = self._analysis.ledger
        return self._with(replace(ledger, wishes=ledger.wishes.with_policies(policies)))

    @cached_property
    def design(self) -> SheetDesign:
        """The tables in third normal form."""
        return SheetDesign(self._analysis)


class _Made(ABC):
    """What a design for one source and one for several have in common."""

    @property
    @abstractmethod
    def document(self) -> Document:
        """The design as design.json has it, typed."""

    @property
    @abstractmethod
    def _tables(self) -> Sequence[Table]: ...

    @abstractmethod
    def write(self, path: str | Path) -> list[str]:
        """Write the folder of results and return the names of its files. Raises InputError."""

    @property
    def tables(self) -> Mapping[str, Listing]:
        """The rows of each table, by name, in an order in which they can be loaded."""
        return {table.name: Listing(table.column_names, tuple(table.rows.rows())) for table in self._tables}

    @property
    def overview(self) -> Listing:
        """A line for each table: rows, key, other columns, references, normal form."""
        rows = [
            (
                table.name,
                f"{table.rows.row_count:,}",
                ", ".join(table.primary_key),
                ", ".join(table.described),
                ", ".join(link.table for link in table.foreign_keys),
                table.form.value,
            )
            for table in self._tables
        ]
        return Listing(("Table", "Rows", "Primary key", "Other columns", "Refers to", "Form"), tuple(rows))

    @property
    def _told(self) -> Document:
        """The document with all that a report tells."""
        return self.document

    def __repr__(self) -> str:
        return repr(self.overview)

    def _repr_html_(self) -> str:
        return self.overview._repr_html_()

    def load(self, url: str, replace_tables: bool = False) -> Loaded:
        """Load the tables into a database, all or nothing."""
        from pravix.folder.reader import open_folder
        from pravix.loading.load import load_folder

        with tempfile.TemporaryDirectory() as folder:
            self.write(Path(folder) / "tables")
            return load_folder(open_folder(Path(folder) / "tables"), url, replace_tables)

    def diagram(self, path: str | Path, dark: bool = False) -> None:
        """Draw the diagram into an SVG or PNG file."""
        from pravix.pictures.diagram import write_diagram

        write_diagram(self.document.tables, str(path), dark)

    def report(self, path: str | Path, title: str = "Tables") -> None:
        """Write the report as one HTML page."""
        from pravix.reports.report import report_html
        from pravix.writing import write_text

        write_text(Path(path), [report_html(self._told, title)])

    def query(self, *columns: str) -> str:
        """Return the SQL that puts columns side by side with only the joins that they need."""
        from pravix.loading.side_by_side import recombined

        return recombined(self.document, columns).sql


class SheetDesign(_Made):
    """A design: its tables, steps and proof, and what can be made of it."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis

    @property
    def _tables(self) -> Sequence[Table]:
        return self._analysis.design.tables

    @property
    def steps(self) -> Listing:
        """What moved where, and why."""
        rows = [(step.to, step.breaks, step.text) for step in self.document.steps]
        return Listing(("Table", "Broke", "Why"), tuple(rows))

    @property
    def proof(self) -> Listing:
        """What was checked, and whether it holds."""
        rows = [("holds" if one.holds else "FAILS", one.claim) for one in self.document.proof_told]
        return Listing(("", "Claim"), tuple(rows))

    @property
    def holds(self) -> bool:
        """Whether everything that was checked holds."""
        return self._analysis.design.proof.holds

    @cached_property
    def document(self) -> DesignDocument:
        """The design as design.json has it, typed."""
        from pravix.document.design_document import design_document

        return design_document(self._analysis.design, self._analysis.ledger.meanings)

    def write(self, path: str | Path, tables_as: str = "csv") -> list[str]:
        """Write the folder of results and return the names of its files; ``tables_as`` csv or parquet.

        Raises InputError.
        """
        if not self.holds:
            raise InputError("the proof of this design fails, so nothing was written", "See .proof")
        analysis, told = self._analysis, self._analysis.ledger.meanings
        return write_design(analysis.design, str(path), told, analysis.findings, tables_as=tables_as)

    @property
    def _told(self) -> Document:
        return with_fields(self.document, findings=self._analysis.findings)


class SheetsDesign(_Made):
    """One design for several sources: its tables, what was merged and linked, and what can be made of it."""

    def __init__(self, assembly: Assembly) -> None:
        self._assembly = assembly

    @property
    def _tables(self) -> Sequence[Table]:
        return self._assembly.design.tables

    @property
    def remarks(self) -> Listing:
        """What was merged, what differs, and which references were made or not."""
        rows = [(one.about, one.table, one.text) for one in self.document.remarks]
        return Listing(("About", "Table", "Text"), tuple(rows))

    @property
    def document(self) -> JointDocument:
        """The design as design.json has it, typed."""
        return self._assembly.document

    def write(self, path: str | Path) -> list[str]:
        """Write one folder for all and return the names of its files. Raises InputError."""
        return self._assembly.write(path)
