"""The design as a document: every field of ``design.json`` with its type, frozen; see docs/json.md.

Fields may be added; those here keep their meaning. What may be absent from a document has a default here. A
field that every document of this program has, and one of an earlier program may lack, is ``added``.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated

from msgspec import UNSET, Meta, UnsetType, field

from pravix.design.cardinality import Cardinality
from pravix.document.entry import Count, Entry, Filled, added
from pravix.document.source import SourceDocument
from pravix.document.story import (
    BasisDocument,
    ClaimDocument,
    CostsDocument,
    RemarkDocument,
    StepDocument,
    ToldDocument,
)
from pravix.first_normal_form.findings import AnyRebuilt
from pravix.first_normal_form.rebuilt import FromChild, Name, Names
from pravix.relation.types import ColumnType, Kind

Digits = Annotated[int, Meta(ge=0, le=1000)]
Share = Annotated[float, Meta(ge=0, le=1)]
Action = Annotated[str, Meta(pattern="^(cascade|restrict|no action|set null|set default)$")]
CheckKind = Annotated[str, Meta(pattern="^(values|range|pattern|unique|default)$")]
Numbering = Annotated[str, Meta(pattern="^(table|shared)$")]


class ColumnDocument(Entry, frozen=True, kw_only=True):
    """A column of a table.

    ``source`` is its column in the file as it was read, None for one that was made. ``type`` is its type as
    people read it, told by ``kind`` and the sizes after it; ``iso`` says that days and times are written as
    databases give them back.
    """

    name: Name
    source: Name | None
    type: str
    nullable: bool
    kind: Kind
    length: Count
    digits: Digits
    scale: Digits
    iso: bool
    examples: tuple[str, ...] = added(())
    meaning: str = ""
    codes: Mapping[str, str] = {}
    stands_for: Name | UnsetType | None = UNSET
    origins: tuple[str, ...] = ()

    @property
    def cells(self) -> ColumnType:
        """What its cells may be."""
        pattern = self.kind.stored_form if self.iso else ""
        return ColumnType(self.kind, self.length, self.digits, self.scale, pattern)

    @property
    def flat(self) -> str | None:
        """Its flat column; None for a number or a position that was added."""
        return self.name if self.stands_for is UNSET else self.stands_for


class Reference(Entry, frozen=True, kw_only=True):
    """A table and columns of it."""

    table: Name
    columns: Names


class LinkDocument(Entry, frozen=True, kw_only=True):
    """A foreign key; ``told`` says it in words, in both directions.

    No flat column comes back by one that was found by values (``by_values``). By a ``circular`` one rows
    refer to each other in a circle.
    """

    columns: Filled
    references: Reference
    cardinality: Cardinality
    on_delete: Action
    on_update: Action
    told: str
    role: str = ""
    by_values: bool = False
    circular: bool = False


class CheckDocument(Entry, frozen=True, kw_only=True):
    """A check of a column; see ``pravix.design.model.Check``."""

    column: Name
    kind: CheckKind
    values: tuple[str, ...]
    rows: Count
    exceptions: Count
    made: bool
    told: str


class RoleDocument(Entry, frozen=True, kw_only=True):
    """A role of a table: the flat column that each of its columns stands for."""

    role: str
    columns: Mapping[str, str]


class MadeFromDocument(Entry, frozen=True, kw_only=True):
    """What a child table was made from."""

    made_from: str
    columns: tuple[str, ...]
    separator: str


class TableDocument(Entry, frozen=True, kw_only=True):
    """A table of a design; ``file`` is the one that holds its rows in a folder, ``repairs`` tells a child.

    ``part_of`` names the list or family whose parts the table was made from, ``independent_of`` the table
    with another list of the same things: every row of the one goes with every row of the other.
    """

    name: Name
    columns: Annotated[tuple[ColumnDocument, ...], Meta(min_length=1)]
    primary_key: Names
    candidate_keys: tuple[Names, ...]
    foreign_keys: tuple[LinkDocument, ...]
    normal_form: str
    confidence: Share = added(1.0)
    confidence_told: str = added("")
    rows: Count
    checks: tuple[CheckDocument, ...]
    meaning: str = ""
    apart_from: str = ""
    independent_of: str = ""
    surrogate: str = ""
    roles: tuple[RoleDocument, ...] = ()
    repairs: MadeFromDocument | None = None
    part_of: str = ""
    sources: tuple[str, ...] = ()
    file: str = ""

    @property
    def column_names(self) -> list[str]:
        """The names of its columns."""
        return [column.name for column in self.columns]

    @property
    def role_names(self) -> list[str]:
        """The names of its roles; one without a name where it has none."""
        return [role.role for role in self.roles] or [""]

    @property
    def kinds(self) -> dict[str, Kind]:
        """The kind of each of its columns."""
        return {column.name: column.kind for column in self.columns}

    @property
    def natural_key(self) -> Names:
        """Its first candidate key that holds no number made by Pravix."""
        keys = self.candidate_keys or (self.primary_key,)
        return next((key for key in keys if self.surrogate not in key), keys[0])

    def column(self, name: str) -> ColumnDocument:
        """Return the column of a name. Raises StopIteration where there is none."""
        return next(column for column in self.columns if column.name == name)

    def flat_columns(self, role: str = "") -> dict[str, str]:
        """Return, for each flat column that it gives in a role, its own column."""
        for one in self.roles:
            if one.role == role:
                return {flat: name for name, flat in one.columns.items()}
        return {column.flat: column.name for column in self.columns if column.flat is not None}

    def made_checks(self, kind: str) -> list[CheckDocument]:
        """Return the checks of a kind that the design makes."""
        return [check for check in self.checks if check.made and check.kind == kind]


class RuleDocument(Entry, frozen=True, kw_only=True):
    """A dependency."""

    determinant: Names
    dependent: Name


class WeighedRule(RuleDocument, frozen=True, kw_only=True):
    """A dependency, with how likely it is a law."""

    confidence: Share = added(1.0)


class RowKey(Entry, frozen=True, kw_only=True):
    """What identifies a row, with how likely it does."""

    columns: Names
    confidence: Share
    confidence_told: str


class ChildDocument(Entry, frozen=True, kw_only=True):
    """The rows that a list or a family was made of.

    ``of`` is its name, ``table`` the child table, ``row_key`` what identifies a part by flat columns, and
    ``columns`` all of theirs; ``dependencies`` are the rules of these rows.
    """

    of: Name
    table: Name
    columns: Filled
    row_key: Names
    dependencies: tuple[WeighedRule, ...]


class RowsMark(Entry, frozen=True, kw_only=True):
    """The mark of the joined rows, with marks of blocks of them."""

    columns: Names
    mark: str
    block_rows: Annotated[int, Meta(ge=1)]
    blocks: tuple[str, ...]


class FlatDocument(Entry, frozen=True, kw_only=True):
    """The types of the flat columns, the mark of the flat rows, and that of their texts."""

    types: tuple[str, ...]
    mark: str
    text_mark: str

    @property
    def kinds(self) -> list[Kind]:
        """The kinds of the types."""
        return [Kind.of_type(told) for told in self.types]


class ProofDocument(Entry, frozen=True, kw_only=True):
    """What was proved when the folder was written."""

    lossless: bool
    preserves_dependencies: bool
    third_normal_form: bool
    references_hold: bool = added(True)
    roles_hold: bool = added(True)
    numbers_hold: bool = added(True)
    wished_below: tuple[str, ...] = added(())
    lost_as_wished: bool = False
    rejoined_rows: Count
    missing_rows: tuple[int, ...] = added(())
    unrepaired_rows: tuple[int, ...] = added(())


class ElsewhereDocument(Entry, frozen=True, kw_only=True):
    """Where the flat rows are, of which only ``drawn`` were looked at one by one.

    ``place`` is the database or the file, without a password; ``table`` or ``query`` says what of a database.
    """

    place: Name
    drawn: Count
    table: str = ""
    query: str = ""


class PartDocument(Entry, frozen=True, kw_only=True):
    """The design of one source.

    ``elsewhere`` is where its rows are, where they are not in the folder. ``view_columns`` says what the
    flat view calls the columns of the file in a database in which they cannot have their own names; it is
    never written.
    """

    source: SourceDocument
    complete: bool = added(True)
    searched_to: Count | None = None
    main: Name
    row_key: RowKey | None = None
    tables: Annotated[tuple[TableDocument, ...], Meta(min_length=1)]
    dependencies: tuple[WeighedRule, ...]
    made_parts: tuple[ChildDocument, ...] = ()
    repairs: tuple[ToldDocument, ...]
    roles: tuple[str, ...]
    steps: tuple[StepDocument, ...]
    untaken: tuple[StepDocument, ...]
    anomalies: tuple[str, ...]
    account: CostsDocument
    proof_told: tuple[ClaimDocument, ...]
    remarks: tuple[RemarkDocument, ...]
    rows_mark: RowsMark
    flat: FlatDocument
    rebuild: tuple[AnyRebuilt, ...]
    numbering: Numbering
    proof: ProofDocument
    basis: BasisDocument | None = field(name="findings", default=None)
    elsewhere: ElsewhereDocument | None = None
    view_columns: Mapping[str, str] = {}

    @property
    def by_name(self) -> dict[str, TableDocument]:
        """The tables by their names."""
        return {table.name: table for table in self.tables}

    def children(self) -> Iterator[FromChild]:
        """Yield the columns that come back from child tables."""
        for entry in self.rebuild:
            if isinstance(entry, FromChild):
                yield entry


class DesignDocument(PartDocument, frozen=True, kw_only=True, tag_field="format", tag="pravix.design"):
    """The document of a design for one source."""

    version: int

    @property
    def parts(self) -> Mapping[str, PartDocument]:
        """The design of its one source, without a name: as a design for several has them."""
        return {"": self}


class JointDocument(Entry, frozen=True, kw_only=True, tag_field="format", tag="pravix.design"):
    """The document of one design for several sources; each part is in the names of the joint tables."""

    version: int
    tables: Annotated[tuple[TableDocument, ...], Meta(min_length=1)]
    numbering: Annotated[str, Meta(pattern="^table$")]
    parts: Annotated[Mapping[str, PartDocument], Meta(min_length=2)]
    rules: Mapping[str, tuple[RuleDocument, ...]]
    account: CostsDocument
    remarks: tuple[RemarkDocument, ...]
    proof_told: tuple[ClaimDocument, ...] = ()


Document = DesignDocument | JointDocument
"""A design, for one source or for several: both have ``tables``, ``parts``, ``numbering`` and ``account``."""
