"""Repairs: the answers to findings applied to a relation, and everything undone again exactly.

A column of lists stays one column of the repaired relation, and a numbered family becomes one (its
*bundle*), so that the dependencies tell which table each belongs to. There the design gives them a
table of their own. Flags become one column; computed columns leave.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from pravix.atomic.answer import Answer
from pravix.atomic.compounds import CompoundColumn, compound_column
from pravix.atomic.computed import Formula, computed_columns
from pravix.atomic.families import Family, families
from pravix.atomic.finding import Topic, finding_id
from pravix.atomic.flags import OneFact, one_facts, true_cells
from pravix.atomic.lists import ListColumn, list_column
from pravix.errors import InputError
from pravix.relation.relation import Column, Relation
from pravix.wording import joined, shortened

_BETWEEN_POSITIONS = "\x1f"
_BETWEEN_FACTS = "\x1e"


def readable(cell: str) -> str:
    """Return a cell of a bundle as people read it; any other cell as it is."""
    return cell.replace(_BETWEEN_POSITIONS, "; ").replace(_BETWEEN_FACTS, ", ")


@dataclass(frozen=True)
class Bundle:
    """A column of the repaired relation that holds several values: a list, or a numbered family.

    ``facts`` are the columns that its child table gets for the values, ``sources`` the columns of the
    file that they come from.
    """

    column: str
    of: ListColumn | Family
    facts: tuple[str, ...]
    sources: tuple[str, ...]

    def parts(self, cell: str) -> list[tuple[int, tuple[str, ...]]]:
        """Return the position and the values of each part of a cell; blank parts are left out."""
        if isinstance(self.of, ListColumn):
            return [(place, (item,)) for place, item in enumerate(self.of.items(cell), 1)]
        if not cell:
            return []
        rows = [tuple(part.split(_BETWEEN_FACTS)) for part in cell.split(_BETWEEN_POSITIONS)]
        return [(place, row) for place, row in zip(self.of.positions, rows, strict=True) if any(row)]

    def cell(self, parts: Sequence[tuple[int, tuple[str, ...]]]) -> str:
        """Return the cell that has these parts: the inverse of ``parts``."""
        if isinstance(self.of, ListColumn):
            return self.of.separator.join(row[0] for _, row in sorted(parts))
        if not parts:
            return ""
        known = dict(parts)
        blank = ("",) * len(self.facts)
        rows = [_BETWEEN_FACTS.join(known.get(place, blank)) for place in self.of.positions]
        return _BETWEEN_POSITIONS.join(rows)


@dataclass(frozen=True)
class Merged:
    """Yes/no columns put into one column called ``name``, whose values are the columns' names."""

    name: str
    fact: OneFact


@dataclass(frozen=True, eq=False)
class Repaired:
    """A relation after its repairs, and what undoes them. ``original`` is the relation before."""

    original: Relation
    relation: Relation
    bundles: tuple[Bundle, ...] = ()
    merged: tuple[Merged, ...] = ()
    computed: tuple[Formula, ...] = ()
    split: tuple[CompoundColumn, ...] = ()

    @property
    def opaque(self) -> frozenset[str]:
        """The columns that hold several values, and so determine nothing."""
        return frozenset(bundle.column for bundle in self.bundles)

    def rebuilt(self) -> Relation:
        """Return the original columns, computed from the repaired relation alone."""
        texts = {column.name: column.texts() for column in self.relation.columns}
        for bundle in self.bundles:
            if isinstance(bundle.of, Family):
                cells = texts.pop(bundle.column)
                _unbundle(bundle, bundle.of, cells, texts)
        for compound in self.split:
            first, second = (texts.pop(name) for name in compound.names)
            texts[compound.column] = [compound.cell(*parts) for parts in zip(first, second, strict=True)]
        for merged in self.merged:
            values = texts.pop(merged.name)
            for truth in merged.fact.truths:
                texts[truth.column] = [truth.yes if value == truth.column else truth.no for value in values]
        waiting = list(self.computed)
        while waiting:
            formula = next(one for one in waiting if all(name in texts for name in one.columns))
            waiting.remove(formula)
            known = Relation(
                tuple(Column.from_texts(name, texts[name]) for name in formula.columns),
                self.relation.row_numbers,
            )
            texts[formula.target] = formula.texts(known)
        columns = tuple(Column.from_texts(name, texts[name]) for name in self.original.names)
        return Relation(columns, self.relation.row_numbers)

    def differing_rows(self) -> tuple[int, ...]:
        """Return the numbers of the rows that do not come back exactly."""
        if not (self.bundles or self.merged or self.computed or self.split):
            return ()
        differs = np.zeros(self.original.row_count, dtype=np.bool_)
        for old, new in zip(self.original.columns, self.rebuilt().columns, strict=True):
            same = [one == other for one, other in zip(old.texts(), new.texts(), strict=True)]
            differs |= ~np.array(same, dtype=np.bool_)
        return tuple(self.original.row_numbers[differs].tolist())


def _unbundle(bundle: Bundle, family: Family, cells: Sequence[str], texts: dict[str, list[str]]) -> None:
    parts = {cell: dict(bundle.parts(cell)) for cell in set(cells)}
    for position, row in zip(family.positions, family.members, strict=True):
        for place, name in enumerate(row):
            if name:
                found = [parts[cell].get(position) for cell in cells]
                texts[name] = [values[place] if values else "" for values in found]


@dataclass
class _Work:
    """What has been decided so far while answers are applied."""

    columns: dict[str, Column]
    bundles: list[Bundle] = field(default_factory=list)
    merged: list[Merged] = field(default_factory=list)
    computed: list[Formula] = field(default_factory=list)
    split: list[CompoundColumn] = field(default_factory=list)


def repaired(relation: Relation, answers: Iterable[Answer], place: str = "the ledger") -> Repaired:
    """Return a relation after the repairs that the answers ask for.

    ``place`` says for messages where the answers come from. Raises InputError where an answer names no
    finding of this relation, one that the finding does not allow, or a column name that is taken.
    """
    wanted = {answer.finding: answer for answer in answers}
    if not wanted:
        return Repaired(relation, relation)
    possible = _possible(relation, {finding.partition(":")[0] for finding in wanted})
    work = _Work({column.name: column for column in relation.columns})
    for finding, answer in wanted.items():
        if finding not in possible:
            told = joined([shortened(other, 60) for other in list(possible)[:8]]) or "none of its topic"
            raise InputError(f"{place}: nothing found like {shortened(finding, 60)}", f"Found: {told}.")
        if answer.answer == "keep":
            continue
        _apply(possible[finding], answer, relation, work, place)
    columns = tuple(work.columns[name] for name in work.columns)
    repaired_relation = Relation(columns, relation.row_numbers)
    return Repaired(
        relation,
        repaired_relation,
        tuple(work.bundles),
        tuple(work.merged),
        tuple(work.computed),
        tuple(work.split),
    )


_Possible = ListColumn | Family | OneFact | Formula | CompoundColumn | None


def _possible(relation: Relation, topics: set[str]) -> Mapping[str, _Possible]:
    """Return what can be repaired, by finding; None stands for what can only be kept as it is."""
    found: dict[str, _Possible] = {}
    if Topic.LIST.value in topics:
        lists = (list_column(column) for column in relation.columns)
        for one in filter(None, lists):
            even = all(one.evened(value) == value for value in relation.column(one.column).present_values)
            found[finding_id(Topic.LIST, [one.column])] = one if even else None
    if Topic.FAMILY.value in topics:
        found |= {finding_id(Topic.FAMILY, family.columns): family for family in families(relation)}
    if Topic.ONE_FACT.value in topics:
        for fact in one_facts(relation):
            found[finding_id(Topic.ONE_FACT, fact.columns)] = None if fact.several else fact
    if Topic.COMPUTED.value in topics:
        for computed in computed_columns(relation):
            exact = None if computed.disagreeing else computed.formula
            found[finding_id(Topic.COMPUTED, [computed.formula.target])] = exact
    if Topic.COMPOUND.value in topics:
        for column in relation.columns:
            compound = compound_column(column)
            if compound is not None:
                found[finding_id(Topic.COMPOUND, [column.name])] = compound if compound.exact else None
    return found


_ANSWER = {
    ListColumn: "split",
    Family: "split",
    CompoundColumn: "split",
    OneFact: "merge",
    Formula: "leave out",
}


def _apply(found: _Possible, answer: Answer, relation: Relation, work: _Work, place: str) -> None:
    if found is None:
        raise InputError(
            f"{place}: {answer.finding} cannot be repaired before the rows that break it are corrected",
            "pravix survey names the rows; correct them with a patch.",
        )
    if answer.answer != _ANSWER[type(found)]:
        raise InputError(
            f"{place}: the answer to {answer.finding} must be {_ANSWER[type(found)]} or keep",
            f'For example: answer = "{_ANSWER[type(found)]}"',
        )
    if isinstance(found, ListColumn):
        name = answer.name or found.column
        work.bundles.append(Bundle(found.column, found, (name,), (found.column,)))
    elif isinstance(found, Family):
        name = answer.name or found.stem
        facts = tuple(fact or name for fact in found.facts)
        bundle = Bundle(_free(name, work, found.columns, place), found, facts, found.columns)
        _replace(work, found.columns, [_bundled(bundle, found, relation)])
        work.bundles.append(bundle)
    elif isinstance(found, OneFact):
        name = _free(answer.name or found.name, work, found.columns, place)
        _replace(work, found.columns, [_merged(name, found, relation)])
        work.merged.append(Merged(name, found))
    elif isinstance(found, CompoundColumn):
        cells = [found.parts(cell) for cell in relation.column(found.column).texts()]
        names = [_free(name, work, [found.column], place) for name in found.names]
        parts = [Column.from_texts(name, (cell[n] for cell in cells)) for n, name in enumerate(names)]
        _replace(work, [found.column], parts)
        work.split.append(found)
    else:
        work.computed.append(found)
        del work.columns[found.target]


def _free(name: str, work: _Work, leaving: Sequence[str], place: str) -> str:
    if name in work.columns and name not in leaving:
        raise InputError(f"{place}: there is a column {shortened(name)} already", "Choose another name.")
    return name


def _replace(work: _Work, leaving: Sequence[str], arriving: Sequence[Column]) -> None:
    """Put columns in the place of the first of those that leave."""
    columns: dict[str, Column] = {}
    for name, column in work.columns.items():
        if name == leaving[0]:
            columns |= {new.name: new for new in arriving}
        elif name not in leaving:
            columns[name] = column
    work.columns = columns


def _bundled(bundle: Bundle, family: Family, relation: Relation) -> Column:
    texts = [
        [relation.column(name).texts() if name else [""] * relation.row_count for name in row]
        for row in family.members
    ]
    cells = []
    for place in range(relation.row_count):
        rows = [tuple(column[place] for column in row) for row in texts]
        parts = [(number, row) for number, row in zip(family.positions, rows, strict=True) if any(row)]
        cells.append(bundle.cell(parts))
    return Column.from_texts(bundle.column, cells)


def _merged(name: str, fact: OneFact, relation: Relation) -> Column:
    true = true_cells(relation, fact.truths)
    values = np.array([*fact.columns, ""], dtype=object)
    chosen = np.where(true.any(axis=1), true.argmax(axis=1), len(fact.columns))
    return Column.from_texts(name, values[chosen].tolist())
