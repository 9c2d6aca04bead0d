"""The design as a document, as described in docs/json.md."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict

from msgspec import UNSET

from pravix.design.checks import check_told
from pravix.design.costs import costs_of
from pravix.design.excerpt import excerpt
from pravix.design.links import link_told
from pravix.design.model import Design, ForeignKey, Proof, Repetition, Scope, Step, Table, TableColumn
from pravix.design.telling import (
    BROKEN_FORM,
    anomalies,
    flat_anomalies,
    proof_lines,
    repairs_told,
    repeated,
    roles_told,
    why,
)
from pravix.document import row_hashes
from pravix.document.design_file import VERSION
from pravix.document.model import (
    CheckDocument,
    ChildDocument,
    ColumnDocument,
    DesignDocument,
    ElsewhereDocument,
    FlatDocument,
    LinkDocument,
    MadeFromDocument,
    ProofDocument,
    Reference,
    RoleDocument,
    RowKey,
    RowsMark,
    TableDocument,
    WeighedRule,
)
from pravix.document.rebuilding import rebuild_document
from pravix.document.source import source_document
from pravix.document.story import (
    AnomaliesDocument,
    BasisDocument,
    ClaimDocument,
    CostsDocument,
    ExampleDocument,
    ExcerptDocument,
    RemarkDocument,
    StepDocument,
    TableCosts,
    ToldDocument,
)
from pravix.first_normal_form.finding import Finding
from pravix.judgement.decisions import in_words
from pravix.ledger.meanings import Meaning, meaning_of
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.theory.dependency import in_order

_EXAMPLES = 3
_UNMARKED = RowsMark(columns=(), mark="", block_rows=1, blocks=())


def finding_document(finding: Finding) -> dict[str, object]:
    """Return a finding; ``answers`` is empty where nothing is to be decided."""
    return {
        "id": finding.id,
        "topic": finding.topic.name,
        "columns": finding.columns,
        "told": finding.told,
        "sure": round(finding.sure, 2),
        "rows": finding.rows,
        "question": finding.question,
        "answers": finding.answers,
        "preview": finding.preview,
    }


def design_document(
    design: Design,
    meanings: Sequence[Meaning] = (),
    basis: BasisDocument | None = None,
    elsewhere: ElsewhereDocument | None = None,
) -> DesignDocument:
    """Return a design as a document: with what its parts mean, and what it rests on (``basis``).

    ``elsewhere`` says where the rows are, if they are not in memory; then they have no marks.
    """
    return DesignDocument(
        version=VERSION,
        source=source_document(design.repaired.original),
        complete=design.searched_to is None,
        searched_to=design.searched_to,
        main=design.main,
        row_key=RowKey(
            columns=tuple(design.row_key),
            confidence=round(design.sure_of_key, 3),
            confidence_told=in_words(design.sure_of_key),
        ),
        tables=tuple(table_document(table, design.tables, meanings) for table in design.tables),
        dependencies=tuple(_rules(design.whole)),
        made_parts=tuple(map(_child, design.parts)),
        repairs=tuple(ToldDocument(columns=one.columns, text=one.told) for one in repairs_told(design)),
        roles=tuple(roles_told(design)),
        steps=tuple(_step(step, design) for step in design.steps),
        untaken=tuple(_step(step, design) for step in design.untaken),
        anomalies=tuple(flat_anomalies(design)),
        account=_costs(design),
        proof_told=tuple(ClaimDocument(holds=holds, claim=claim) for holds, claim in proof_lines(design)),
        remarks=tuple(RemarkDocument(**asdict(remark)) for remark in design.remarks),
        rows_mark=_rows_mark(design) if elsewhere is None else _UNMARKED,
        flat=_flat(design, elsewhere is None),
        rebuild=rebuild_document(design),
        numbering=design.wishes.numbering,
        proof=_proof(design.proof),
        basis=basis,
        elsewhere=elsewhere,
    )


def _rules(scope: Scope) -> Iterator[WeighedRule]:
    """Yield the rules of the cover, the columns of each in the order of the file."""
    for rule in scope.cover:
        yield WeighedRule(
            determinant=tuple(in_order(rule.determinant, scope.names)),
            dependent=rule.dependent,
            confidence=round(scope.sure_of_rules.get(rule, 1.0), 3),
        )


def _child(scope: Scope) -> ChildDocument:
    return ChildDocument(
        of=scope.bundle,
        table=scope.main,
        columns=scope.names,
        row_key=scope.row_key,
        dependencies=tuple(_rules(scope)),
    )


def _proof(proof: Proof) -> ProofDocument:
    return ProofDocument(
        lossless=proof.lossless,
        preserves_dependencies=not proof.lost_dependencies,
        third_normal_form=not proof.below_third,
        references_hold=not proof.broken_links,
        roles_hold=not proof.broken_roles,
        numbers_hold=not proof.broken_numbers,
        wished_below=tuple(proof.wished_below),
        lost_as_wished=proof.lost_as_wished,
        rejoined_rows=proof.rejoined_rows,
        missing_rows=tuple(proof.missing_rows),
        unrepaired_rows=tuple(proof.unrepaired_rows),
    )


def _costs(design: Design) -> CostsDocument:
    """Return what each table buys and costs."""
    costs = costs_of(design)
    return CostsDocument(
        cells_before=costs.cells_before,
        cells_after=costs.cells_after,
        joins=costs.joins,
        tables=tuple(
            TableCosts(
                table=one.table.name,
                rows=one.table.rows.total,
                saves=one.saves,
                stores=one.stores,
                joins=one.joins,
                form=one.table.form.value,
            )
            for one in costs.tables
        ),
    )


def _flat(design: Design, marked: bool) -> FlatDocument:
    """Return the types of the file's columns, and the marks that its rows must have by value and by text."""
    original = design.repaired.original
    types = tuple(str(column_type(column)) for column in original.columns)
    by_value, by_text = flat_marks(original) if marked else ("", "")
    return FlatDocument(types=types, mark=by_value, text_mark=by_text)


def flat_marks(rows: Relation) -> tuple[str, str]:
    """Return the marks of the file's rows, by value and by text; worked out once."""
    kinds = [column_type(column).kind for column in rows.columns]
    forms = row_hashes.by_value(kinds), row_hashes.by_text(kinds)
    by_value, by_text = (row_hashes.of_relation(rows, form).mark for form in forms)
    return by_value, by_text


def _rows_mark(design: Design) -> RowsMark:
    """Return the mark by which the joined tables are known again, and the columns that it covers."""
    kinds = {
        flat: column.type.kind
        for table in reversed(design.tables)
        if not table.part_of
        for flat, name in table.flat_names.items()
        for column in table.columns
        if column.name == name
    }
    columns = [name for name in design.relation.names if name in kinds]
    whole = columns == list(design.relation.names)
    rows = design.relation if whole else design.relation.project(columns)
    hashes = row_hashes.of_relation(rows, row_hashes.by_value([kinds[name] for name in columns]))
    size = hashes.block_size()
    return RowsMark(
        columns=tuple(columns), mark=hashes.mark, block_rows=size, blocks=tuple(hashes.blocks(size))
    )


def table_document(table: Table, tables: Sequence[Table], meanings: Sequence[Meaning]) -> TableDocument:
    """Return a table of a design, its links told in both directions, with what the meanings say of it."""
    made_from = table.made_from
    return TableDocument(
        name=table.name,
        columns=tuple(_column(table, column, meanings) for column in table.columns),
        primary_key=table.primary_key,
        candidate_keys=table.keys,
        foreign_keys=tuple(_link(table, link, tables) for link in table.foreign_keys),
        normal_form=table.form.value,
        confidence=round(table.confidence, 3),
        confidence_told=in_words(table.confidence),
        rows=table.rows.total,
        checks=tuple(CheckDocument(**asdict(check), told=check_told(check)) for check in table.checks),
        meaning=meaning_of(meanings, table=table.name),
        apart_from=table.apart_from,
        independent_of=table.independent_of,
        surrogate=table.surrogate,
        roles=tuple(RoleDocument(role=role.name, columns=dict(role.columns)) for role in table.roles),
        part_of=table.part_of,
        repairs=None
        if made_from is None
        else MadeFromDocument(
            made_from=made_from.kind, columns=made_from.sources, separator=made_from.separator
        ),
    )


def _column(table: Table, column: TableColumn, meanings: Sequence[Meaning]) -> ColumnDocument:
    """Return a column with what the ledger says that it and its codes mean."""
    flat = [name for name, own in table.flat_names.items() if own == column.name]
    names = [*flat, *([column.source] if column.source else [])]
    return ColumnDocument(
        name=column.name,
        source=column.source,
        type=str(column.type),
        nullable=column.nullable,
        kind=column.type.kind,
        length=column.type.length,
        digits=column.type.digits,
        scale=column.type.scale,
        iso=column.type.stored,
        examples=tuple(table.rows.column(column.name).present_values[:_EXAMPLES]),
        meaning=next((text for name in names if (text := meaning_of(meanings, column=name))), ""),
        codes={one.value: one.text for one in meanings if one.value and one.column in names},
        stands_for=UNSET if column.stands_for == column.name else column.stands_for,
    )


def _link(table: Table, link: ForeignKey, tables: Sequence[Table]) -> LinkDocument:
    return LinkDocument(
        columns=link.columns,
        references=Reference(table=link.table, columns=link.references),
        cardinality=link.cardinality,
        on_delete=link.on_delete,
        on_update=link.on_update,
        told=link_told(table, link, tables),
        role=link.role,
        by_values=link.by_values,
        circular=link.circular,
    )


def _step(step: Step, design: Design) -> StepDocument:
    scope = design.scope_of((*step.determinant, *step.moved))
    return StepDocument(
        determinant=step.determinant,
        dependents=step.moved,
        kind=step.breach.value,
        breaks=BROKEN_FORM[step.breach],
        from_table=step.from_table,
        to=step.to_table,
        stated_before=step.stored_before,
        stated_now=step.stored_now,
        cells_saved=step.cells_saved,
        example=_example(step.repetition),
        rows=ExcerptDocument(**asdict(excerpt(scope.relation, step))),
        anomalies=AnomaliesDocument(**asdict(anomalies(step, scope.row_key))),
        text=f"{why(step, scope.row_key)} {repeated(step)}",
    )


def _example(example: Repetition | None) -> ExampleDocument | None:
    if example is None:
        return None
    return ExampleDocument(key=example.key, facts=example.facts, times=example.times, rows=example.rows)
