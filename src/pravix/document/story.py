"""What a design's document tells: steps, remarks, the account, and what the design rests on."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import UNSET, UnsetType, field

from pravix.document.entry import Count, Entry
from pravix.sources.reading import Reading


class ClaimDocument(Entry, frozen=True, kw_only=True):
    """A line of the proof."""

    holds: bool
    claim: str


class ToldDocument(Entry, frozen=True, kw_only=True):
    """A sentence about columns."""

    columns: tuple[str, ...]
    text: str


class RemarkDocument(Entry, frozen=True, kw_only=True):
    """A remark about a table."""

    about: str
    table: str
    text: str


class ExcerptDocument(Entry, frozen=True, kw_only=True):
    """Rows before and after a step."""

    columns: tuple[str, ...]
    before: tuple[tuple[str, ...], ...]
    after: tuple[tuple[str, ...], ...]


class ExampleDocument(Entry, frozen=True, kw_only=True):
    """A value of a determinant that the file repeats."""

    key: tuple[str, ...]
    facts: tuple[str, ...]
    times: Count
    rows: tuple[int, int]


class AnomaliesDocument(Entry, frozen=True, kw_only=True):
    """What can go wrong with a fact while it stands in the flat table."""

    update: str
    insertion: str
    deletion: str


class StepDocument(Entry, frozen=True, kw_only=True):
    """A step of the decomposition."""

    determinant: tuple[str, ...]
    dependents: tuple[str, ...]
    kind: str
    breaks: str
    from_table: str = field(name="from")
    to: str
    stated_before: Count
    stated_now: Count
    cells_saved: int
    example: ExampleDocument | None
    rows: ExcerptDocument
    anomalies: AnomaliesDocument
    text: str


class TableCosts(Entry, frozen=True, kw_only=True):
    """What a table buys and costs."""

    table: str
    rows: Count
    saves: int
    stores: Count
    joins: Count
    form: str


class CostsDocument(Entry, frozen=True, kw_only=True):
    """What the tables buy and cost."""

    cells_before: Count
    cells_after: Count
    joins: Count
    tables: tuple[TableCosts, ...]


class DecisionDocument(Entry, frozen=True, kw_only=True):
    """A decision of the ledger."""

    rule: str
    standing: str
    why: str
    by: str
    on: str


class PlaceEvidence(Entry, frozen=True, kw_only=True):
    """What speaks for the home of a column."""

    column: str
    rule: str
    standing: str
    why: str


class RuleQuestion(Entry, frozen=True, kw_only=True, tag_field="kind", tag="rule"):
    """A question about a rule."""

    id: str
    determinant: tuple[str, ...]
    dependents: tuple[str, ...]
    text: str
    if_accepted: str
    if_rejected: str
    exceptions: tuple[int, ...] | UnsetType = UNSET
    possible_if_rejected: tuple[Mapping[str, str], ...] | UnsetType = UNSET


class _ChoiceQuestion(Entry, frozen=True, kw_only=True, tag_field="kind"):
    """A question that is answered by one of several choices."""

    id: str
    choices: tuple[tuple[str, ...], ...]
    text: str
    if_chosen: tuple[str, ...]


class KeyQuestion(_ChoiceQuestion, frozen=True, kw_only=True, tag="key"):
    """What identifies a row?"""


class ReferenceQuestion(_ChoiceQuestion, frozen=True, kw_only=True, tag="refer"):
    """What do columns refer to?"""


class SameQuestion(Entry, frozen=True, kw_only=True, tag_field="kind", tag="same"):
    """Are these two groups of columns the same kind of thing?"""

    id: str
    groups: tuple[tuple[str, ...], ...]
    text: str
    if_same: str
    if_different: str


QuestionDocument = RuleQuestion | KeyQuestion | ReferenceQuestion | SameQuestion


class OddCell(Entry, frozen=True, kw_only=True):
    """A cell that breaks a rule."""

    row: Count
    now: str
    instead: str
    looks: str


class BreakChance(Entry, frozen=True, kw_only=True):
    """How likely the next row breaks a rule."""

    estimate: float
    at_most: float


class NearEvidence(Entry, frozen=True, kw_only=True):
    """What speaks for a rule that some rows break."""

    tests: Count
    bits: float
    next_row_breaks: BreakChance


class BrokenRule(Entry, frozen=True, kw_only=True):
    """An accepted rule that some rows break."""

    determinant: tuple[str, ...]
    dependent: str
    standing: str
    exceptions: Count
    rows: tuple[int, ...]


class NearDocument(Entry, frozen=True, kw_only=True):
    """A rule that holds but for a few rows."""

    determinant: tuple[str, ...]
    dependent: str
    standing: str
    exceptions: Count
    rows: tuple[int, ...]
    cells: tuple[OddCell, ...]
    evidence: NearEvidence


class ReadingDocument(Entry, frozen=True, kw_only=True):
    """What was wished about the cells of a source, which holds of later rows of it as well.

    See ``pravix.sources.reading.Reading``.
    """

    blank: tuple[str, ...] = ()
    fill: tuple[str, ...] = ()
    keep_spaces: bool = False

    @classmethod
    def of(cls, reading: Reading) -> ReadingDocument | None:
        """Return what holds of later rows as well; None where nothing does."""
        made = cls(blank=reading.blank or (), fill=reading.fill or (), keep_spaces=reading.keep_spaces)
        return made if made != cls() else None

    def alike(self, reading: Reading) -> Reading:
        """Return wishes about reading later rows, with these where nothing is wished."""
        kept = Reading(blank=self.blank or None, fill=self.fill or None, keep_spaces=self.keep_spaces)
        return reading.with_defaults(kept)


class BasisDocument(Entry, frozen=True, kw_only=True):
    """What a design rests on."""

    read: str
    reading: ReadingDocument | None = None
    evidence: tuple[PlaceEvidence, ...]
    decisions: tuple[DecisionDocument, ...]
    questions: tuple[QuestionDocument, ...]
    near_dependencies: tuple[NearDocument, ...]
