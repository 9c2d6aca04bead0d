"""The account of one rule: what is said of rules that hold, that are broken, and that follow."""

import pytest
from honey import TOGETHER, rule, sheet

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.near import near_dependencies
from pravix.judgement.review import to_review
from pravix.judgement.rule_account import account_of, verdict, weighing_lines
from pravix.judgement.standing import Standing
from pravix.ledger.ledger import Decision
from pravix.relation.fingerprint import fingerprint
from pravix.relation.relation import Relation
from pravix.theory.inference import Inference, inference_steps


def account(text, relation=None, accepted=(), rejected=()):
    relation = relation or sheet(TOGETHER)
    judgement = judge(relation, discover(relation), list(map(rule, accepted)), list(map(rule, rejected)))
    return account_of(relation, judgement, near_dependencies(relation, judgement), rule(text))


def test_a_believed_rule_is_told_with_all_its_bits():
    found = account("keeper_no -> keeper_phone")
    assert found.judged.standing is Standing.BELIEVED
    assert verdict(found, TOGETHER) == "keeper_no -> keeper_phone is believed"
    lines = weighing_lines(found.judged, TOGETHER)
    assert [word for word, _, _ in lines] == ["rows", "choice", "determinant", "names"]
    assert sum(bits for _, bits, _ in lines) == pytest.approx(found.judged.weighing.total)
    assert "keeper_no came again 8 times among 12 different drum_no" in lines[0][2]


def test_a_rule_with_a_column_too_many_points_to_the_smaller_one():
    found = account("drum_kind, keeper_no -> keeper_phone")
    assert found.judged.rule == rule("keeper_no -> keeper_phone")
    assert verdict(found, TOGETHER) == (
        "drum_kind, keeper_no -> keeper_phone holds because keeper_no -> keeper_phone does with fewer columns, "
        "which is believed"
    )


def test_a_broken_rule_names_the_rows():
    found = account("village -> keeper_no")
    assert found.judged is None
    assert len(found.broken) == 12
    assert verdict(found, TOGETHER) == "village -> keeper_no is broken by 12 rows"


def test_a_rule_that_follows_has_its_chain_and_its_alternatives():
    found = account("drum_no -> keeper_phone")
    assert found.chain[0].determinant == {"drum_no"}
    steps = inference_steps(found.rule, found.chain)
    assert [step.by for step in steps] == [Inference.GIVEN, Inference.TRANSITIVITY]
    assert steps[-1].conclusion == found.rule
    assert rule("keeper_no -> keeper_phone") in [other.rule for other in found.alternatives]
    assert all(other.rule != found.rule for other in found.alternatives)


@pytest.mark.parametrize(
    ("decided", "told"),
    [
        ({"accepted": ["keeper_no -> village"]}, "accepted"),
        ({"rejected": ["keeper_no -> village"]}, "rejected"),
    ],
)
def test_what_the_analyst_decided_is_said(decided, told):
    found = account("keeper_no -> village", **decided)
    assert verdict(found, TOGETHER) == f"keeper_no -> village is {told}"


def test_a_nearly_unbroken_rule_shows_its_cells():
    rows = [list(row) for _ in range(5) for row in sheet(TOGETHER).rows()]
    rows[30][5] = "Kelders"
    found = account("keeper_no -> village", Relation.from_rows(TOGETHER, rows))
    assert [(cell.row, cell.now) for cell in found.near.odd] == [(32, "Kelders")]
    assert found.broken == (32,)


def changed(relation, row, column, text):
    rows = [list(one) for one in relation.rows()]
    rows[row][relation.names.index(column)] = text
    return Relation.from_rows(relation.names, rows)


def test_the_fingerprint_changes_with_any_cell_name_and_order_and_with_nothing_else():
    relation = sheet(TOGETHER)
    marks = {
        fingerprint(relation),
        fingerprint(changed(relation, 3, "village", "Fern")),
        fingerprint(changed(relation, 3, "village", "")),
        fingerprint(Relation.from_rows([*TOGETHER[:-1], "boxes"], relation.rows())),
        fingerprint(Relation.from_rows(TOGETHER, relation.rows()[::-1])),
        fingerprint(Relation.from_rows(TOGETHER, relation.rows()[:-1])),
    }
    assert len(marks) == 6
    assert fingerprint(Relation.from_rows(TOGETHER, relation.rows())) == fingerprint(relation)
    assert fingerprint(relation.take(relation.row_numbers - 2)) == fingerprint(relation)


def test_only_decisions_that_the_new_rows_touch_are_reviewed():
    before = sheet(TOGETHER)
    mark = fingerprint(before)
    decisions = [
        Decision(rule("keeper_no -> village"), True, fingerprint=mark),
        Decision(rule("keeper_no -> keeper"), True, fingerprint=mark),
        Decision(rule("village -> keeper_no"), False, fingerprint=mark),
        Decision(rule("keeper_no -> village"), True),
    ]
    assert to_review(before, decisions, mark) == ()
    after = changed(before, 5, "village", "Fern")
    (review,) = to_review(after, decisions, fingerprint(after))
    assert (review.decision, review.rows) == (decisions[0], (7,))
