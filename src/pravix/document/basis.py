"""What a design rests on, for those who get only the folder: evidence, decisions, questions, odd rows."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from pravix.design.model import Design
from pravix.design.whereabouts import whereabouts
from pravix.document.questions import question_documents
from pravix.document.rules import near_document
from pravix.document.story import BasisDocument, DecisionDocument, PlaceEvidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.near import NearDependency
from pravix.judgement.questions import Open
from pravix.judgement.telling import reason
from pravix.ledger.ledger import Decision
from pravix.theory.dependency import written_in_order


def basis_document(
    design: Design,
    judgement: Judgement,
    near: Sequence[NearDependency],
    questions: Sequence[Open],
    decisions: Collection[Decision],
    account: str,
) -> BasisDocument:
    """Return what was found and decided about a source; ``account`` says how it was read."""
    names = design.relation.names
    return BasisDocument(
        read=account,
        evidence=tuple(_evidence(design, judgement)),
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
        questions=question_documents(design.relation, questions),
        near_dependencies=tuple(near_document(one, judgement, names) for one in near),
    )


def _evidence(design: Design, judgement: Judgement) -> Iterator[PlaceEvidence]:
    """Yield for each column of the file the rule that leads to it last, and what it rests on."""
    for column in design.relation.names:
        chain = whereabouts(design, judgement, column).chain
        if chain:
            last = chain[-1]
            yield PlaceEvidence(
                column=column,
                rule=written_in_order(last.rule, design.relation.names),
                standing=last.standing.value,
                why=reason(last, judgement, design.relation.names),
            )
