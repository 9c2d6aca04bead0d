"""The shape of ``design.json``: every field with its type, so that a document made by anyone can be checked.

Fields may be added to the document; those here keep their meaning. See docs/json.md.
"""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta, Struct, field

Name = Annotated[str, Meta(min_length=1)]
Count = Annotated[int, Meta(ge=0, le=10**15)]
Digits = Annotated[int, Meta(ge=0, le=1000)]
Columns = list[Name]
Filled = Annotated[list[Name], Meta(min_length=1)]
Action = Literal["cascade", "restrict", "no action", "set null", "set default"]
KindName = Literal["integer", "decimal", "date", "time", "date and time", "yes/no", "code", "text", "empty"]


class SourceShape(Struct):
    """The rows and columns of the flat file."""

    rows: Count
    columns: Filled


class ColumnShape(Struct):
    """A column of a table."""

    name: Name
    source: Name | None
    type: str
    nullable: bool
    kind: KindName
    length: Count
    digits: Digits
    scale: Digits
    iso: bool
    examples: list[str] = field(default_factory=list)
    stands_for: str | None = None
    meaning: str = ""
    codes: dict[str, str] = field(default_factory=dict)
    origins: list[str] = field(default_factory=list)


class Reference(Struct):
    """A table and columns of it."""

    table: Name
    columns: Columns


class LinkShape(Struct):
    """A foreign key."""

    columns: Filled
    references: Reference
    cardinality: str
    on_delete: Action
    on_update: Action
    told: str
    role: str = ""


class CheckShape(Struct):
    """A check of a column."""

    column: Name
    kind: Literal["values", "range", "pattern", "unique", "default"]
    values: list[str]
    rows: Count
    exceptions: Count
    made: bool
    told: str


class RoleShape(Struct):
    """A role of a table: the flat column that each of its columns stands for."""

    role: str
    columns: dict[str, str]


class MadeFrom(Struct):
    """What a child table was made from."""

    made_from: str
    columns: list[str]
    separator: str


class TableShape(Struct):
    """A table of a design."""

    name: Name
    columns: Annotated[list[ColumnShape], Meta(min_length=1)]
    primary_key: Columns
    candidate_keys: list[Columns]
    foreign_keys: list[LinkShape]
    normal_form: str
    rows: Count
    checks: list[CheckShape]
    confidence: Annotated[float, Meta(ge=0, le=1)] = 1.0
    confidence_told: str = ""
    roles: list[RoleShape] = field(default_factory=list)
    file: str | None = None
    meaning: str = ""
    apart_from: str | None = None
    surrogate: str | None = None
    repairs: MadeFrom | None = None
    sources: list[str] = field(default_factory=list)


class RuleShape(Struct):
    """A dependency, with how likely it is a law."""

    determinant: Columns
    dependent: Name
    confidence: Annotated[float, Meta(ge=0, le=1)] = 1.0


class RowKey(Struct):
    """What identifies a row, with how likely it does."""

    columns: Columns
    confidence: Annotated[float, Meta(ge=0, le=1)]
    confidence_told: str


class ListShape(Struct, tag_field="kind", tag="list"):
    """A column that is put together from the parts in a child table."""

    column: Name
    bundle: str
    table: Name
    fact: Name
    position: Name
    separator: str
    mark: Annotated[str, Meta(min_length=1)]


class FamilyShape(Struct, tag_field="kind", tag="family"):
    """A column that comes from one row of a child table."""

    column: Name
    bundle: str
    table: Name
    fact: Name
    position: Name
    at: Annotated[int, Meta(ge=-(10**9), le=10**9)]


class FlagShape(Struct, tag_field="kind", tag="flag"):
    """A yes/no column that was merged with others."""

    column: Name
    columns: Annotated[list[Name], Meta(min_length=1, max_length=1)]
    value: str
    yes: str
    no: str


class CompoundShape(Struct, tag_field="kind", tag="compound"):
    """A column whose values were split in two."""

    column: Name
    columns: Annotated[list[Name], Meta(min_length=2, max_length=2)]
    between: str


class ComputedShape(Struct, tag_field="kind", tag="computed"):
    """A column that others compute."""

    column: Name
    columns: Filled
    operation: Literal["+", "-", "*", "/", "%", "sum", "years", "part", "join"]
    scale: Annotated[int, Meta(ge=0, le=30)]
    rounding: Literal["ROUND_HALF_UP", "ROUND_HALF_EVEN"]
    start: Annotated[int, Meta(ge=0, le=10**6)]
    end: Annotated[int, Meta(ge=0, le=10**6)]
    between: str
    trimmed: bool = False


Rebuilt = ListShape | FamilyShape | FlagShape | CompoundShape | ComputedShape


class Mark(Struct):
    """The mark of the joined rows, with marks of blocks of them."""

    columns: Columns
    mark: str
    block_rows: Annotated[int, Meta(ge=1)]
    blocks: list[str]


class Flat(Struct):
    """The types of the flat columns, the mark of the flat rows, and that of their texts."""

    types: list[str]
    mark: str
    text_mark: str


class Proof(Struct):
    """What was proved when the folder was written."""

    lossless: bool
    preserves_dependencies: bool
    third_normal_form: bool
    rejoined_rows: Count
    wished_below: list[str] = field(default_factory=list)


class Claimed(Struct):
    """A line of the proof."""

    holds: bool
    claim: str


class Told(Struct):
    """A sentence about columns."""

    columns: list[str]
    text: str


class Remark(Struct):
    """A remark about a table."""

    about: str
    table: str
    text: str


class Excerpt(Struct):
    """Rows before and after a step."""

    columns: list[str]
    before: list[list[str]]
    after: list[list[str]]


class StepShape(Struct):
    """A step of the decomposition."""

    determinant: list[str]
    dependents: list[str]
    kind: str
    breaks: str
    to: str
    stated_before: Count
    stated_now: Count
    cells_saved: int
    rows: Excerpt
    anomalies: dict[str, str]
    text: str


class TableAccount(Struct):
    """What a table buys and costs."""

    table: str
    rows: Count
    saves: int
    stores: Count
    joins: Count
    form: str


class AccountShape(Struct):
    """What the tables buy and cost."""

    cells_before: Count
    cells_after: Count
    joins: Count
    tables: list[TableAccount]


class Decided(Struct):
    """A decision of the ledger."""

    rule: str
    standing: str
    why: str
    by: str
    on: str


class Weighed(Struct):
    """What speaks for the home of a column."""

    column: str
    rule: str
    standing: str
    why: str


class Asked(Struct):
    """An open question."""

    text: str


class OddShape(Struct):
    """A cell that breaks a rule."""

    row: Count
    now: str
    instead: str
    looks: str


class NearShape(Struct):
    """A rule that holds but for a few rows."""

    determinant: list[str]
    dependent: str
    exceptions: Count
    cells: list[OddShape]


class Findings(Struct):
    """What a design rests on."""

    read: str
    evidence: list[Weighed]
    decisions: list[Decided]
    questions: list[Asked]
    near_dependencies: list[NearShape]


class PartShape(Struct):
    """The design of one source."""

    source: SourceShape
    main: Name
    tables: Annotated[list[TableShape], Meta(min_length=1)]
    dependencies: list[RuleShape]
    repairs: list[Told]
    roles: list[str]
    steps: list[StepShape]
    untaken: list[StepShape]
    anomalies: list[str]
    account: AccountShape
    proof_told: list[Claimed]
    remarks: list[Remark]
    rows_mark: Mark
    flat: Flat
    rebuild: list[Rebuilt]
    numbering: Literal["table", "shared"]
    proof: Proof
    row_key: RowKey | None = None
    findings: Findings | None = None


class DesignShape(PartShape):
    """The document of a design for one source."""

    format: Literal["pravix.design"] = "pravix.design"
    version: int = 1


class JointShape(Struct):
    """The document of one design for several sources."""

    format: Literal["pravix.design"]
    version: int
    tables: Annotated[list[TableShape], Meta(min_length=1)]
    numbering: Literal["table"]
    parts: Annotated[dict[str, PartShape], Meta(min_length=2)]
    rules: dict[str, list[RuleShape]]
    account: AccountShape
    remarks: list[Remark]
    proof_told: list[Claimed] = field(default_factory=list)
