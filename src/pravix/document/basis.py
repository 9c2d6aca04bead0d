"""What a design rests on, for those who get only the folder: evidence, decisions, questions, odd rows."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from pravix.design.model import Design, Scope
from pravix.design.whereabouts import whereabouts
from pravix.document.questions import question_documents
from pravix.document.rules import near_document
from pravix.document.story import BasisDocument, DecisionDocument, PlaceEvidence, ReadingDocument
from pravix.judgement.judged import Judged
from pravix.judgement.judgement import Judgement
from pravix.judgement.questions import Open
from pravix.judgement.telling import reason
from pravix.ledger.ledger import Decision
from pravix.sources.reading import Reading
from pravix.theory.dependency import written_in_order


def basis_document(
    design: Design,
    judged: Judged,
    parts: Sequence[Judged],
    questions: Sequence[Open],
    decisions: Collection[Decision],
    account: str,
    reading: Reading,
) -> BasisDocument:
    """Return what was found and decided about a source, which was read as ``account`` and ``reading`` say.

    ``judged`` are its rows, ``parts`` those of its lists and families, in the order of the design.
    """
    known = list(zip(design.scopes, (judged, *parts), strict=True))
    names = tuple(dict.fromkeys(name for scope in design.scopes for name in scope.names))
    return BasisDocument(
        read=account,
        reading=ReadingDocument.of(reading),
        evidence=tuple(entry for scope, rows in known for entry in _evidence(design, scope, rows.judgement)),
        decisions=tuple(
            DecisionDocument(
                rule=written_in_order(decision.rule, names),
                standing="accepted" if decision.accepted else "rejected",
                why=decision.why,
                by=decision.by,
                on=decision.on.isoformat() if decision.on else "",
            )
            for decision in decisions
        ),
        questions=question_documents(lambda columns: design.scope_of(columns).relation, questions),
        near_dependencies=tuple(
            near_document(one, rows.judgement, scope.names) for scope, rows in known for one in rows.near
        ),
    )


def _evidence(design: Design, scope: Scope, judgement: Judgement) -> Iterator[PlaceEvidence]:
    """Yield for each column of some rows the rule that leads to it last, and what it rests on."""
    owner = set(design.whole.names) if scope is not design.whole else set[str]()
    for column in scope.relation.names:
        chain = whereabouts(design, judgement, column).chain if column not in owner else ()
        if chain:
            last = chain[-1]
            yield PlaceEvidence(
                column=column,
                rule=written_in_order(last.rule, scope.names),
                standing=last.standing.value,
                why=reason(last, judgement, scope.names),
            )
