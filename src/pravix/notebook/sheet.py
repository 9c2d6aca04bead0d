"""One source: its keys, rules, findings and questions, the decisions about it, and its design."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec.structs import replace as with_fields

from pravix.analysis import Analysis
from pravix.errors import InputError
from pravix.first_normal_form.finding import Finding
from pravix.first_normal_form.findings import findings_of
from pravix.judgement.phrasing import open_text
from pravix.judgement.standing import Standing
from pravix.judgement.telling import reason
from pravix.ledger.key_decisions import Says
from pravix.ledger.ledger import Ledger, read_ledger
from pravix.notebook.listing import Listing
from pravix.notebook.made import Made, claims_listed
from pravix.relation.profile import profile
from pravix.relation.relation import Column, Relation
from pravix.services.arranging import arranged, arrangement
from pravix.services.deciding import Given, Said, decided, parsed_keys, parsed_rules
from pravix.services.declaring import declared
from pravix.services.describing import meaning
from pravix.services.handing_over import write_results
from pravix.services.keeping import record_new
from pravix.services.repairing import answer_about, with_answers
from pravix.sources.account import Account, Source
from pravix.sources.reading import Reading
from pravix.theory.dependency import in_order, written_in_order, written_names
from pravix.wording import counted

if TYPE_CHECKING:
    from pandas import DataFrame

    from pravix.document.model import DesignDocument, Document
    from pravix.judgement.judged import Judged


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


class Sheet:
    """One source: its keys, rules, findings and questions, and the design that follows from them.

    What decides returns another sheet and writes nothing; ``record`` keeps it in the ledger.
    """

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis

    def __repr__(self) -> str:
        relation = self._analysis.relation
        size = f"{counted(relation.total, 'row')}, {counted(len(relation.columns), 'column')}"
        return f"{self._analysis.source.account}\n{size}"

    @property
    def survey(self) -> Listing:
        """What each column holds: its type and why, how many values differ, how many cells are blank."""
        rows = [
            (one.name, str(one.type), one.type.reason, f"{one.distinct:,}", f"{one.blanks:,}")
            for one in profile(self._analysis.source.relation)
        ]
        return Listing(("Column", "Type", "Because", "Different", "Blank"), tuple(rows))

    def draw_survey(self, path: str | Path) -> None:
        """Draw what the columns hold and repeat as bars into a PNG or SVG file."""
        from pravix.pictures.figure import write_survey_figure

        source = self._analysis.source
        write_survey_figure(profile(source.relation), source.account.name, str(path))

    @property
    def keys(self) -> Listing:
        """Every minimal unique combination of columns, as far as it was searched."""
        names = self._analysis.relation.names
        found = ((written_names(in_order(key, names)),) for key in self._analysis.keys.keys)
        return Listing(("Key",), tuple(found))

    def dependencies(self, standing: str | None = None) -> Listing:
        """Every minimal rule with its standing and why, those of parts last; of one ``standing`` if given."""
        wanted = [Standing(standing)] if standing else list(Standing)
        rows = [
            (
                written_in_order(judged.rule, among.relation.names),
                judged.standing.value,
                reason(judged, among.judgement, among.relation.names),
            )
            for among in self._judged
            for judged in among.judgement.rules.of(*wanted)
        ]
        return Listing(("Rule", "Standing", "Why"), tuple(rows))

    @property
    def _judged(self) -> tuple[Judged, ...]:
        return (self._analysis, *self._analysis.parts)

    def draw_rules(self, path: str | Path) -> None:
        """Draw the rules that are trusted as a map into a PNG or SVG file."""
        from pravix.pictures.rules_map import write_rules_map

        analysis = self._analysis
        name = analysis.source.account.name
        write_rules_map(analysis.relation.names, analysis.judgement, name, str(path), analysis.confidence)

    @property
    def near_dependencies(self) -> Listing:
        """The rules that hold but for a few rows."""
        rows = [
            (
                written_in_order(one.rule, among.relation.names),
                str(len(one.odd)),
                ", ".join(map(str, one.rows)),
            )
            for among in self._judged
            for one in among.near
        ]
        return Listing(("Rule", "Exceptions", "Rows"), tuple(rows))

    @property
    def sensitive(self) -> Listing:
        """The columns that are to be handled with care, with why that is thought."""
        from pravix.judgement.sensitive import sensitive_columns

        rows = [(one.column, one.kind, one.why) for one in sensitive_columns(self._analysis.relation)]
        return Listing(("Column", "Kind", "Why"), tuple(rows))

    @property
    def findings(self) -> Listing:
        """What stands in the way of first normal form."""
        rows = [(one.id, one.told, ", ".join(one.answers)) for one in self._found]
        return Listing(("Finding", "What was found", "Answers"), tuple(rows))

    @cached_property
    def _found(self) -> Sequence[Finding]:
        return findings_of(self._analysis.source)

    def repair(self, column: str, answer: str, name: str = "", why: str = "") -> Sheet:
        """Return the sheet with the finding about a column answered: split, merge, leave out or keep.

        ``name`` is what a merged column is called.
        """
        given = answer_about(self._found, column, answer, name, why)
        return self._with(replace(self._analysis.ledger, answers=with_answers(self._analysis, [given])))

    def write_patch(self, path: str | Path) -> int:
        """Write the proposed corrections into a new CSV file, to be edited; return how many there are."""
        from pravix.folder.patch import write_patch

        return write_patch(self._analysis.source.relation, self._analysis.near, str(path))

    @property
    def questions(self) -> Listing:
        """The open questions, most decisive first."""
        rows = self._analysis.relation.total
        found = [(question.id, open_text(question, rows)) for question in self._analysis.questions]
        return Listing(("About", "Question"), tuple(found))

    @property
    def reviews(self) -> Listing:
        """The decisions made on other rows that need another look, with the rows that say so."""
        rows = [
            (str(one.decision.rule), "accepted" if one.decision.accepted else "rejected", str(len(one.rows)))
            for one in self._analysis.reviews
        ]
        return Listing(("Rule", "Decided", "Rows against it"), tuple(rows))

    def accept(self, rule: str, why: str = "") -> Sheet:
        """Return the sheet with a rule "a, b -> c" accepted."""
        return self._decided([(one, True) for one in parsed_rules([rule])], [], why)

    def reject(self, rule: str, why: str = "") -> Sheet:
        """Return the sheet with a rule rejected: it is a coincidence."""
        return self._decided([(one, False) for one in parsed_rules([rule])], [], why)

    def key(self, columns: str, why: str = "") -> Sheet:
        """Return the sheet where "a, c" identifies a row."""
        return self._decided([], parsed_keys([columns], Says.KEY), why)

    def not_key(self, columns: str, why: str = "") -> Sheet:
        """Return the sheet where "a, c" does not identify a row."""
        return self._decided([], parsed_keys([columns], Says.NOT_KEY), why)

    def refer_by(self, columns: str, why: str = "") -> Sheet:
        """Return the sheet where other tables refer by "a"."""
        return self._decided([], parsed_keys([columns], Says.REFER_BY), why)

    def _decided(self, given: Sequence[Given], said: Sequence[Said], why: str) -> Sheet:
        return Sheet(self._analysis.with_ledger(decided(self._analysis, given, said, why)))

    def _with(self, ledger: Ledger) -> Sheet:
        return Sheet(self._analysis.with_ledger(ledger))

    def wish(self, **policies: str) -> Sheet:
        """Return the sheet with policies of the design, as ``pravix decompose`` has them."""
        return Sheet(arranged(self._analysis, policies, []))

    @property
    def choices(self) -> Listing:
        """What the design could do otherwise, with what each choice buys and costs."""
        from pravix.design.choices import choices_of

        rows = [(one.topic, one.told, one.option) for one in choices_of(self._analysis.design)]
        return Listing(("About", "Now", "To have it otherwise"), tuple(rows))

    def declare(self, text: str, why: str = "") -> Sheet:
        """Return the sheet where something that was not found is said of columns: see ``pravix declare``.

        For example ``declare("list: tools = ;")`` or ``declare("computed: net_kg = gross_kg - tare_kg")``.
        """
        return Sheet(declared(self._analysis, [text], why))

    def arrange(self, do: str, text: str, why: str = "") -> Sheet:
        """Return the sheet with a wish about its tables, as ``pravix arrange`` has them.

        For example ``arrange("name", "honey_code=honey kind")``, ``arrange("check", "tare_kg:range")``,
        ``arrange("together", "village")``.
        """
        return Sheet(arranged(self._analysis, {}, [arrangement(do, text, why)]))

    def describe(
        self, text: str, column: str | None = None, value: str | None = None, table: str | None = None
    ) -> Sheet:
        """Return the sheet that knows what a column, one value of it, or a table means."""
        made, ledger = meaning(self._analysis, text, column, value, table), self._analysis.ledger
        return self._with(replace(ledger, meanings=(*ledger.meanings, made)))

    @property
    def meanings(self) -> Listing:
        """What is known of the meaning of tables, columns and codes."""
        rows = [(one.table, one.column, one.value, one.text) for one in self._analysis.ledger.meanings]
        return Listing(("Table", "Column", "Value", "Meaning"), tuple(rows))

    def explain(self, what: str) -> Listing:
        """Return why something is as it is: a column, "a -> b", "table NAME", "key NAME", and so on."""
        from pravix.services.explaining import explained, lines_of

        lines = lines_of(self._analysis, explained(self._analysis, what))
        return Listing(("Why",), tuple((line,) for line in lines))

    def record(self, ledger: str | Path | None = None) -> str:
        """Keep in the ledger all that was decided since it was read; return its path. Raises InputError."""
        path = str(ledger) if ledger is not None else self._analysis.ledger_file
        if path is None:
            raise InputError("the source has no place beside it for a ledger", "Name one: record(FILE).")
        record_new(path, read_ledger(path), self._analysis.ledger, self._analysis.reading)
        return path

    @cached_property
    def design(self) -> SheetDesign:
        """The tables in third normal form."""
        return SheetDesign(self._analysis)


class SheetDesign(Made):
    """A design: its tables, steps and proof, and what can be made of it."""

    def __init__(self, analysis: Analysis) -> None:
        self._analysis = analysis

    @property
    def tables(self) -> Mapping[str, Listing]:
        """As said there. Raises InputError where the rows stay outside memory."""
        elsewhere = self._analysis.elsewhere
        if elsewhere is not None:
            raise InputError(
                f"the rows stay outside memory, in {elsewhere.place}",
                "Write them into a folder, or fill the tables where they are: pravix load --from",
            )
        tables = self._analysis.design.tables
        return {table.name: Listing(table.column_names, tuple(table.rows.rows())) for table in tables}

    @property
    def steps(self) -> Listing:
        """What moved where, and why."""
        rows = [(step.to, step.breaks, step.text) for step in self.document.steps]
        return Listing(("Table", "Broke", "Why"), tuple(rows))

    @property
    def proof(self) -> Listing:
        """What was checked, and whether it holds."""
        return claims_listed([(one.holds, one.claim) for one in self.document.proof_told])

    @property
    def holds(self) -> bool:
        """Whether everything that was checked holds."""
        return self._analysis.design.proof.holds

    @cached_property
    def document(self) -> DesignDocument:
        """The design as design.json has it, typed."""
        from pravix.document.design_document import design_document

        analysis = self._analysis
        return design_document(analysis.design, analysis.ledger.meanings, elsewhere=analysis.elsewhere)

    def write(self, path: str | Path, tables_as: str | None = None, safe_cells: bool = False) -> list[str]:
        """Write the folder of results and return the names of its files; see ``write_results``.

        ``tables_as`` is csv or parquet. With ``safe_cells`` no cell can be run by a spreadsheet. Raises
        InputError.
        """
        if not self.holds:
            raise InputError("the proof of this design fails, so nothing was written", "See .proof")
        return write_results(self._analysis, str(path), safe_cells, tables_as).files

    @property
    def _told(self) -> Document:
        return with_fields(self.document, basis=self._analysis.basis)
