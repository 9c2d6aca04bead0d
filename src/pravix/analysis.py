"""What every interface works with: a source read, searched, judged and designed, each part when asked for."""

from __future__ import annotations

import logging
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, wraps
from time import perf_counter
from typing import TYPE_CHECKING, Any, Self, TypeVar

from pravix.discovery.budget import Budget, seconds_for_a_design
from pravix.discovery.discovered import Blanks, Discovery
from pravix.discovery.search import MOST, discover, discover_keys
from pravix.engines.staying import Staying, read_anywhere
from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.declaration import OF_VALUES, Declaration
from pravix.judgement.weights import NEARLY_UNIQUE, WEIGHED_TO
from pravix.ledger.key_decisions import check_in_rows
from pravix.ledger.ledger import Ledger, default_path, read_ledger
from pravix.memory import give_back
from pravix.progress import Progress, silent
from pravix.relation.relation import Relation
from pravix.sources.account import Source
from pravix.sources.reading import Reading
from pravix.wording import counted

if TYPE_CHECKING:
    from pravix.design.model import Design, Doubt
    from pravix.document.model import ElsewhereDocument
    from pravix.document.story import BasisDocument
    from pravix.first_normal_form.elsewhere import SearchedElsewhere
    from pravix.first_normal_form.repair import Repaired
    from pravix.judgement.decisions import Confidence
    from pravix.judgement.judged import Judged
    from pravix.judgement.judgement import Judgement
    from pravix.judgement.near import NearDependency
    from pravix.judgement.parts import JudgedPart
    from pravix.judgement.questions import Open
    from pravix.judgement.review import Review
    from pravix.theory.dependency import Dependency

log = logging.getLogger(__name__)

_PROMPTLY_WEIGHED = 30_000


_Part = TypeVar("_Part")


class Stage(cached_property[_Part]):
    """A part of an analysis that is worked out once, and what of the ledger it ``reads``."""

    reads: Callable[[Ledger], object]


def stage(
    reads: Callable[[Ledger], object] = lambda ledger: (),
) -> Callable[[Callable[[Any], _Part]], Stage[_Part]]:
    """Return a decorator for a stage, given what of the ledger it reads beside what those before it do."""

    def made(function: Callable[[Any], _Part]) -> Stage[_Part]:
        @wraps(function)
        def timed(analysis: Any) -> _Part:
            begun = perf_counter()
            found = function(analysis)
            give_back()
            log.info("%s: %.2f s", function.__name__, perf_counter() - begun)
            return found

        part = Stage(timed)
        part.reads = reads
        return part

    return made


@dataclass(frozen=True)
class Analysis:
    """One source with what was wished of it; every part is worked out when it is first asked for.

    The stages stand in the order in which each may read those before it.

    ``budget`` is what a search may take; ``largest`` limits the determinants and keys searched. Where it is
    None, ``prompt`` limits them to the size that is weighed, or less where there are very many; else all are
    searched. ``unrepaired`` leaves the
    answers to findings unapplied; ``policies`` of the design come before those of the ledger.
    """

    path: str
    reading: Reading = field(default_factory=Reading)
    ledger_path: str | None = None
    blanks: str = Blanks.EQUAL.value
    largest: int | None = None
    budget: Budget = field(default_factory=Budget)
    prompt: bool = True
    unrepaired: bool = False
    policies: Mapping[str, str | None] = field(default_factory=dict)

    @cached_property
    def ledger(self) -> Ledger:
        """The analyst's decisions."""
        return read_ledger(self.ledger_file)

    @property
    def ledger_file(self) -> str | None:
        """Where the ledger stands, or would; None where the source has no place beside it."""
        return self.ledger_path or default_path(self.path)

    @stage(lambda ledger: ledger.reading)
    def source(self) -> Source:
        """The source, read as the options say, and else as the ledger says; some rows where it is too
        large.
        """
        return self.read(lambda progress: read_anywhere(self.path, self._wished_reading, progress))

    def read(self, work: Callable[[Progress], Source]) -> Source:
        """Read the source; an interface may show its progress."""
        return work(silent)

    @property
    def _wished_reading(self) -> Reading:
        """What the options wish, and else the ledger; a patch is named there as seen from its folder."""
        wishes, path = self.ledger.reading, self.ledger_file
        if wishes.patch is not None and path is not None:
            patch = os.path.expanduser(wishes.patch)
            wishes = replace(wishes, patch=os.path.join(os.path.dirname(path), patch))
        return self.reading.with_defaults(wishes)

    @stage(lambda ledger: (ledger.answers, ledger.declarations))
    def repaired(self) -> Repaired:
        """The rows with the repairs that the ledger asks for."""
        from pravix.first_normal_form.repairing import repaired

        return repaired(self.source.relation, self._answers, self.ledger.name, self._declarations)

    @property
    def _answers(self) -> tuple[Answer, ...]:
        return () if self.unrepaired else self.ledger.answers

    @property
    def _declarations(self) -> tuple[Declaration, ...]:
        return () if self.unrepaired else self.ledger.declarations

    @stage()
    def staying(self) -> SearchedElsewhere | None:
        """All rows of a source whose rows stay where they are; None for one that was read into memory."""
        source = self.source
        if not isinstance(source, Staying):
            return None
        from pravix.first_normal_form.elsewhere import SearchedElsewhere

        if Blanks(self.blanks) is not Blanks.EQUAL:
            raise InputError(
                f"{source.account.name} is too large for memory, and there blanks are equal",
                "Leave out --blanks distinct, or allow more memory: --memory",
            )
        return SearchedElsewhere(source, self.repaired, NEARLY_UNIQUE)

    @property
    def relation(self) -> Relation:
        """The rows to analyse; those of a source whose rows stay elsewhere stand for all of them."""
        if self.staying is not None:
            return self.staying.relation
        return self.repaired.relation if self._answers or self._declarations else self.source.relation

    @stage()
    def discovery(self) -> Discovery:
        """The minimal dependencies and keys of the rows."""
        return self._searched(discover)

    @stage()
    def keys(self) -> Discovery:
        """The minimal keys of the rows, without the dependencies."""
        return self._searched(discover_keys)

    def _searched(self, search: Callable[..., Discovery]) -> Discovery:
        if self.staying is not None:
            return self._searched_elsewhere(self.staying, search)
        from pravix.judgement.column_roles import column_roles

        relation = self.relation
        largest, most, budget = self.largest, MOST, self.budget
        if self.prompt and largest is None:
            largest, most = WEIGHED_TO, _PROMPTLY_WEIGHED
            budget = replace(budget, seconds=budget.seconds or seconds_for_a_design(relation.row_count))

        def roles() -> None:
            column_roles(relation.columns)
            give_back()

        found = self.worked(
            lambda progress: search(
                relation, Blanks(self.blanks), largest, progress, most=most, budget=budget
            ),
            meanwhile=roles,
        )
        size = f"{counted(relation.row_count, 'row')}, {counted(len(relation.columns), 'column')}"
        log.info("searched %s: %s", size, found.plan)
        return found

    def _searched_elsewhere(
        self, elsewhere: SearchedElsewhere, search: Callable[..., Discovery]
    ) -> Discovery:
        """Search a sample, and have all rows asked where they are."""
        largest = WEIGHED_TO if self.largest is None else self.largest

        def work(progress: Progress) -> Discovery:
            return elsewhere.completed(
                lambda relation: search(relation, Blanks.EQUAL, largest, progress, budget=self.budget),
                search is discover_keys,
                self.prompt,
                progress,
            )

        found = self.worked(work)
        place = elsewhere.flat.place
        log.info("asked %s: %d statements, %d rows came", place.name, place.statements, place.moved)
        return found

    def worked(
        self, work: Callable[[Progress], Discovery], meanwhile: Callable[[], object] | None = None
    ) -> Discovery:
        """Do the long work of a search; an interface may show its progress.

        What is done ``meanwhile`` is worked out once, for what comes after the search.
        """
        return work(silent)

    @stage(lambda ledger: (ledger.decisions, ledger.key_decisions))
    def judgement(self) -> Judgement:
        """The standings of the rules."""
        from pravix.judgement.judge import judge

        ledger, relation = self.ledger, self.relation
        ledger.check(self.names, self.source.account.name)
        check_in_rows(ledger.key_decisions, relation, self.source.account.name)
        accepted, rejected = (
            [rule for rule in rules if rule.columns <= set(relation.names)] for rules in self._decided
        )
        declared = {
            name: one.says for one in self._declarations for name in one.columns if one.says in OF_VALUES
        }
        opaque = self.repaired.opaque
        return judge(relation, self.discovery, accepted, rejected, opaque, ledger.said, declared)

    @property
    def names(self) -> tuple[str, ...]:
        """The columns that may be spoken of: those of the repaired rows, of their parts, of the source."""
        from pravix.first_normal_form.parts import names_of_parts

        repaired = self.repaired
        known = (*repaired.relation.names, *names_of_parts(repaired), *repaired.original.names)
        return tuple(dict.fromkeys(known))

    @property
    def _decided(self) -> tuple[Sequence[Dependency], Sequence[Dependency]]:
        """The rules that are accepted and those that are rejected, as they are told of repaired rows."""
        from pravix.first_normal_form.translating import translated

        ledger, repaired = self.ledger, self.repaired
        accepted, rejected = translated(ledger.accepted, repaired), translated(ledger.rejected, repaired)
        return accepted, [rule for rule in rejected if rule not in accepted]

    @stage()
    def parts(self) -> tuple[JudgedPart, ...]:
        """The parts of the lists and families that were split, judged as the file's own rows are."""
        from pravix.judgement.parts import judged_parts

        return judged_parts(self.repaired, self.judgement, *self._decided, search=self._part_searched)

    def _part_searched(self, relation: Relation) -> Discovery:
        return self.worked(
            lambda progress: discover(
                relation,
                Blanks(self.blanks),
                WEIGHED_TO,
                progress,
                most=_PROMPTLY_WEIGHED,
                budget=self.budget,
            )
        )

    def rows_of(self, columns: Iterable[str]) -> Judged:
        """Return the rows that hold some columns, with their judgement: the file's own, or those of parts."""
        wanted = set(columns)
        part = next((one for one in self.parts if one.knows(wanted)), None)
        if part is None or wanted <= set(self.relation.names):
            return self
        return part

    @stage()
    def confidence(self) -> Confidence:
        """How sure the judgement is."""
        from pravix.judgement.decisions import Confidence

        return Confidence(self.relation, self.judgement, self.near)

    @stage()
    def near(self) -> tuple[NearDependency, ...]:
        """The rules that hold but for a few rows."""
        from pravix.judgement.near import near_dependencies

        judgement, elsewhere = self.judgement, self.staying
        if elsewhere is None:
            return near_dependencies(self.relation, judgement)
        return near_dependencies(elsewhere.searched, judgement, elsewhere.flat)

    @property
    def basis(self) -> BasisDocument:
        """What the design rests on, for the folder."""
        from pravix.document.basis import basis_document

        decisions, account = self.ledger.decisions, str(self.source.account)
        read = self._wished_reading
        return basis_document(self.design, self, self.parts, self.questions, decisions, account, read)

    @stage()
    def questions(self) -> tuple[Open, ...]:
        """The questions that are open after the decisions in the ledger."""
        from pravix.judgement.questions import most_decisive, open_questions

        found = [*open_questions(self.relation, self.judgement, self.near, self.confidence)]
        for part in self.parts:
            found += open_questions(part.relation, part.judgement, part.near, part.confidence)
        return most_decisive(found)

    @stage()
    def reviews(self) -> tuple[Review, ...]:
        """The decisions made on other rows that need another look."""
        from pravix.judgement.review import to_review
        from pravix.relation.fingerprint import fingerprint

        return to_review(self.relation, self.ledger.decisions, fingerprint(self.relation))

    @stage(lambda ledger: ledger.wishes)
    def design(self) -> Design:
        """The tables in third normal form, or as the ledger wishes."""
        from pravix.design.build import designed
        from pravix.sql.reserved import reserved_words

        wishes = self.ledger.wishes.with_policies(self.policies)
        wishes.check_columns(self.names, self.source.account.name)
        elsewhere = self.staying
        repaired = self.repaired if elsewhere is None else elsewhere.repaired
        design = designed(repaired, self.judgement, wishes, reserved_words(), self.confidence, self.parts)
        if elsewhere is None:
            return design
        from pravix.sql.counting import recounted

        return recounted(design, elsewhere.flat, elsewhere.source.flat)

    @property
    def elsewhere(self) -> ElsewhereDocument | None:
        """Where the rows are, for the folder; None where they were read into memory."""
        from pravix.document.model import ElsewhereDocument

        source = self.source
        if not isinstance(source, Staying):
            return None
        read = self._wished_reading
        return ElsewhereDocument(
            place=source.account.name,
            drawn=source.relation.row_count,
            table=read.table or "",
            query=read.query or "",
        )

    @property
    def doubts(self) -> tuple[Doubt, ...]:
        """Which columns may hold one kind of thing; none where a wish keeps the design from being made."""
        try:
            return self.design.doubts
        except InputError:
            return ()

    def decided_anew(self) -> Self:
        """Return the analysis with the ledger read again; see ``with_ledger``."""
        return self.with_ledger(read_ledger(self.ledger_file))

    def with_ledger(self, ledger: Ledger) -> Self:
        """Return the analysis with another ledger, with the stages before the first that reads what changed.

        Two ledgers that differ in meanings alone share everything.
        """
        fresh = replace(self)
        fresh.__dict__["ledger"] = ledger
        for name, part in vars(Analysis).items():
            if isinstance(part, Stage):
                if part.reads(self.ledger) != part.reads(ledger):
                    break
                if name in self.__dict__:
                    fresh.__dict__[name] = self.__dict__[name]
        return fresh
