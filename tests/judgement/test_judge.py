"""Judgement: the traps that a careful expert does not fall into, and obedience to the ledger."""

import random

import pytest

from pravix.discovery.search import discover
from pravix.judgement.evidence import gather
from pravix.judgement.judge import judge
from pravix.judgement.standing import Standing
from pravix.judgement.telling import reason
from pravix.relation.relation import Column, Relation
from pravix.theory.closure import implies
from pravix.theory.dependency import dependency, parse_dependencies


def rule(text):
    return parse_dependencies(text)[0]


def judged(relation, accepted=(), rejected=(), largest=3):
    return judge(
        relation, discover(relation, largest=largest), list(map(rule, accepted)), list(map(rule, rejected))
    )


def standing(judgement, text):
    return {found.rule: found.standing for found in judgement.rules}[rule(text)]


def drums(count=60, deliveries=400, seed=1):
    """Rows of drums on deliveries; a drum has a honey, a keeper and a net weight of its own."""
    draw = random.Random(seed)
    honey = {"RAP": "Rapeseed", "CLO": "Clover", "LIM": "Lime", "HEA": "Heather"}
    weights = draw.sample(range(1000, 9999), count)
    stock = [
        (
            f"{2000 + place}",
            draw.choice(list(honey)),
            f"K-{draw.randrange(10, 22)}",
            f"{weights[place] / 10:.1f}",
        )
        for place in range(count)
    ]
    lines = []
    for number in range(deliveries):
        drum, code, keeper, net = draw.choice(stock)
        lines.append([str(5000 + number), drum, code, honey[code], keeper, net, draw.choice(["am", "pm"])])
    return Relation.from_rows(
        ["line_no", "drum_no", "honey_code", "honey", "keeper_no", "net_kg", "shift"], lines
    )


def test_a_fact_of_a_drum_is_believed_and_one_of_its_weight_is_not():
    judgement = judged(drums())
    assert standing(judgement, "drum_no -> honey_code") is Standing.BELIEVED
    assert standing(judgement, "drum_no -> net_kg") is Standing.BELIEVED
    assert standing(judgement, "net_kg -> honey_code") is Standing.DOUBTFUL
    assert standing(judgement, "net_kg -> drum_no") is Standing.DOUBTFUL


def test_code_and_name_determine_each_other_and_the_code_leads():
    judgement = judged(drums())
    assert standing(judgement, "honey_code -> honey") is Standing.BELIEVED
    assert standing(judgement, "honey -> honey_code") is Standing.BELIEVED
    assert judgement.row_key == {"line_no"}


def test_forty_rows_of_one_drum_are_one_observation_of_it():
    """Two keepers, each with one drum of a honey of its own, in many rows: nothing was tested twice."""
    lines = [
        [str(place), *(["2001", "K-10", "Lime"] if place % 2 else ["2002", "K-11", "Clover"])]
        for place in range(80)
    ]
    relation = Relation.from_rows(["line_no", "drum_no", "keeper_no", "honey"], lines)
    judgement = judged(relation)
    assert standing(judgement, "drum_no -> honey") is Standing.BELIEVED
    found = {entry.rule: entry for entry in judgement.rules}[rule("keeper_no -> honey")]
    assert found.standing is Standing.DOUBTFUL
    assert found.evidence.tests == 0


def test_a_nearly_unique_triple_means_nothing():
    draw = random.Random(5)
    names = ["line_no", "keeper_no", "village", "honey", "shift", "grade"]
    lines = [[str(place), *(f"{start}{draw.randrange(9)}" for start in "KVHSG")] for place in range(90)]
    judgement = judged(Relation.from_rows(names, lines))
    believed = [found.rule for found in judgement.rules if found.standing is Standing.BELIEVED]
    assert [found for found in believed if found.determinant != {"line_no"}] == []


def test_equal_blanks_and_near_constants_are_no_evidence():
    draw = random.Random(2)
    lines = [[str(place), f"K-{draw.randrange(10, 30)}", "", "ok"] for place in range(200)]
    lines[0][2], lines[1][3] = "spilt", "late"
    lines[0][1], lines[1][1] = "K-98", "K-99"
    judgement = judged(Relation.from_rows(["line_no", "keeper_no", "remark", "state"], lines))
    assert standing(judgement, "keeper_no -> remark") is Standing.DOUBTFUL
    assert standing(judgement, "keeper_no -> state") is Standing.DOUBTFUL


def test_a_composite_rule_does_not_drown():
    draw = random.Random(3)
    price = {(honey, size): f"{draw.randrange(300, 2000) / 100:.2f}" for honey in "RCLHF" for size in "SML"}
    lines = []
    for place in range(240):
        honey, size = draw.choice(list(price))
        lines.append(
            [str(place), f"{honey}{honey}X", f"{size}0", price[honey, size], f"{draw.randrange(1, 99)}"]
        )
    judgement = judged(
        Relation.from_rows(["line_no", "honey_code", "jar_code", "price_eur", "quantity"], lines)
    )
    assert standing(judgement, "honey_code, jar_code -> price_eur") is Standing.BELIEVED


@pytest.mark.parametrize(("rows", "expected"), [(9, Standing.DOUBTFUL), (3000, Standing.BELIEVED)])
def test_the_same_rule_is_doubted_on_few_rows_and_believed_on_many(rows, expected):
    draw = random.Random(11)
    graded = {f"V{number:02}": draw.choice(["A", "B"]) for number in range(20)}
    lines = [
        [str(place), village, graded[village]]
        for place in range(rows)
        for village in [draw.choice(list(graded))]
    ]
    judgement = judged(Relation.from_rows(["line_no", "village_code", "grade"], lines))
    assert standing(judgement, "village_code -> grade") is expected


def test_evidence_counts_the_times_a_value_came_again():
    relation = Relation.from_rows(
        ["drum", "honey"], [["1", "x"], ["1", "x"], ["2", "y"], ["2", "y"], ["2", "y"], ["3", "x"]]
    )
    evidence = gather(relation, rule("drum -> honey"), [])
    assert (evidence.observations, evidence.values, evidence.tests) == (6, 3, 3)
    assert evidence.bits == pytest.approx(3.0)
    assert evidence.example in {(2, 3), (4, 5)}


def test_evidence_for_a_pair_is_what_neither_column_explains_alone():
    lines = [[a, b, a] for a in "xyz" for b in "pq" for _ in range(3)]
    relation = Relation.from_rows(["a", "b", "c"], lines)
    assert gather(relation, rule("a -> c"), []).bits == 12.0
    assert gather(relation, rule("a, b -> c"), []).bits == pytest.approx(0.0)


def test_a_key_with_blanks_does_not_identify_a_row():
    relation = Relation.from_rows(["drum_no", "seal"], [["1", "a"], ["", "b"], ["3", "c"]])
    assert judged(relation).row_key == {"seal"}
    assert judged(Relation.from_rows(["drum_no"], [["1"], [""]])).row_key is None


def test_a_constant_goes_where_its_name_says():
    relation = drums()
    kinds = [Column.from_texts(name, ["steel"] * relation.row_count) for name in ("drum_kind", "season")]
    judgement = judged(Relation((*relation.columns, *kinds), relation.row_numbers))
    assert implies(judgement.trusted, rule("drum_no -> drum_kind"))
    assert not implies(judgement.trusted, rule("drum_no -> season"))


def test_decisions_are_obeyed_with_all_that_follows():
    relation = drums()
    judgement = judged(relation, accepted=["keeper_no -> shift"], rejected=["honey_code -> honey"])
    assert not implies(judgement.trusted, rule("honey_code -> honey"))
    assert implies(judgement.trusted, rule("keeper_no -> shift"))
    assert standing(judgement, "honey_code -> honey") is Standing.REJECTED
    assert (
        standing(judged(relation, accepted=["drum_no -> keeper_no"]), "drum_no -> keeper_no")
        is Standing.ACCEPTED
    )


def test_a_rejected_rule_is_not_smuggled_in_through_others():
    judgement = judged(drums(), rejected=["drum_no -> honey"])
    assert not implies(judgement.trusted, rule("drum_no -> honey"))


def test_a_key_that_would_imply_a_rejected_rule_is_not_chosen():
    relation = Relation.from_rows(["a_no", "b_no", "x"], [["1", "7", "p"], ["2", "8", "q"], ["3", "9", "p"]])
    assert judged(relation).row_key == {"a_no"}
    assert judged(relation, rejected=["a_no -> x"]).row_key == {"b_no"}


def test_reasons_are_told_with_numbers():
    relation = drums()
    judgement = judged(relation)
    by_rule = {found.rule: reason(found, judgement, relation.names) for found in judgement.rules}
    assert by_rule[rule("drum_no -> keeper_no")].startswith(
        f"held all {400 - relation.column('drum_no').distinct} times that drum_no came again"
    )
    assert "net_kg is a measure" in by_rule[rule("net_kg -> drum_no")]
    assert by_rule[rule("line_no -> shift")] == "no two rows agree on the key"
    assert by_rule[rule("drum_no -> honey")].startswith("held all")
    assert dependency(["drum_no"], "honey") in judgement.trusted
