"""What seems a measure, or only tells when, and yet decides others again and again: never believed, asked about."""

from math import log
from random import Random

import pytest

from pravix.discovery.search import discover
from pravix.judgement.decisions import Confidence
from pravix.judgement.judge import judge
from pravix.judgement.questions import open_questions
from pravix.judgement.recoding import recoded
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.telling import reason
from pravix.judgement.weights import LIKELY_FROM, SURE_FROM
from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies


def deliveries(*columns):
    """Deliveries with their weights, and ``columns``, each a name and a function of a number and a draw."""
    draw = Random(7)
    rows = [
        [f"D-{n:04d}", f"{draw.uniform(5, 40):.2f}", *(of(n, draw) for _, of in columns)] for n in range(600)
    ]
    return Relation.from_rows(["drum_no", "kg", *(name for name, _ in columns)], rows)


def day(n):
    return f"2026-{4 + n // 20 % 2:02d}-{1 + n // 40:02d}"


RATES = [f"{Random(n).uniform(0.9, 1.3):.4f}" for n in range(600)]
MOISTURES = [f"{n / 100:.2f}" for n in Random(1).sample(range(1400, 2100), 50)]
WITH_RATE = deliveries(("day", lambda n, _: day(n)), ("usd_rate", lambda n, _: RATES[n // 20]))
"""Twenty deliveries each day, and the rate of the day."""

OF_A_BATCH = deliveries(
    ("moisture", lambda n, _: MOISTURES[n % 50]),
    ("drier_temperature", lambda n, _: f"{40 + n % 50 * 7 % 13}.5"),
    ("strained", lambda n, _: "yes" if n % 50 % 3 else "no"),
)
"""Fifty batches, which are known by a number that looks like a measure."""


def asked(relation, accepted=()):
    told = [rule for text in accepted for rule in parse_dependencies(text)]
    judgement = judge(relation, discover(relation), told)
    return [one.id for one in open_questions(relation, judgement)], Confidence(relation, judgement), judgement


@pytest.mark.parametrize(
    ("relation", "question"),
    [(WITH_RATE, "day -> usd_rate"), (OF_A_BATCH, "moisture -> drier_temperature, strained")],
)
def test_it_is_asked_about_and_the_table_is_not_sure(relation, question):
    questions, confidence, judgement = asked(relation)
    assert questions[0] == question
    assert confidence.table(relation.names) < SURE_FROM
    assert {judged.rule for judged in judgement.rules.of(Standing.BELIEVED)}.isdisjoint(
        parse_dependencies(question)
    )
    again, sure, _ = asked(relation, [question])
    assert again == []
    assert (
        sure.table(parse_dependencies(question)[0].columns | {"strained"} & set(relation.names))
        >= LIKELY_FROM
    )


def test_the_reason_says_how_often_it_held_and_what_speaks_against_it():
    _, _, judgement = asked(WITH_RATE)
    (rule,) = parse_dependencies("day -> usd_rate")
    judged = JudgedRule(rule, Standing.DOUBTFUL, *judgement.rules.weighed[rule])
    assert reason(judged, judgement, WITH_RATE.names) == (
        "held all 570 times that day came again, "
        "but day tells when, not what, and that hardly ever determines anything"
    )


@pytest.mark.parametrize(
    ("name", "of"),
    [
        ("weight_class", lambda kg: "light" if kg < 15 else "middle" if kg < 30 else "heavy"),
        ("pounds", lambda kg: f"{kg * 2.2046:.1f}"),
        ("viscosity", lambda kg: f"{(90 - kg) ** 2:.2f}"),
        ("log_moisture", lambda kg: repr(log(kg))),
    ],
)
def test_what_only_tells_it_in_another_way_is_not_asked_about(name, of):
    weights = [10 + n * 0.7 for n in range(50)]
    relation = deliveries(
        ("moisture", lambda n, _: f"{weights[n % 50]:.1f}"), (name, lambda n, _: of(weights[n % 50]))
    )
    (rule,) = parse_dependencies(f"moisture -> {name}")
    assert rule in set(discover(relation).dependencies)
    assert recoded(relation, rule, judge(relation, discover(relation)).uses)
    assert not [question for question in asked(relation)[0] if name in question]


def test_a_month_of_a_day_is_not_asked_about():
    relation = deliveries(("day", lambda n, _: day(n)), ("month", lambda n, _: day(n)[5:7]))
    assert not [question for question in asked(relation)[0] if "month" in question]


def test_what_a_thing_that_is_known_explains_is_not_asked_about():
    """Each keeper has a yield and a village; that no two have one yield says nothing of yields."""
    keepers = [(f"K-{n:03d}", MOISTURES[n], f"Village {n % 11}") for n in range(50)]
    relation = deliveries(
        ("keeper_no", lambda n, _: keepers[n % 50][0]),
        ("keeper_yield", lambda n, _: keepers[n % 50][1]),
        ("keeper_village", lambda n, _: keepers[n % 50][2]),
    )
    questions, confidence, _ = asked(relation)
    assert not [question for question in questions if question.startswith("keeper_yield")]
    assert confidence.table(["keeper_no", "keeper_yield", "keeper_village"]) >= SURE_FROM


def test_marks_alone_are_not_asked_about():
    relation = deliveries(
        ("moisture", lambda n, _: MOISTURES[n % 50]),
        ("strained", lambda n, _: "yes" if n % 50 * 7 % 13 % 3 else "no"),
    )
    assert asked(relation)[0] == []


@pytest.mark.parametrize(
    ("name", "of", "is_recoded"),
    [
        ("depth", lambda n: f"{n * 1.5:.1f}", True),
        ("depth", lambda n: f"{n * 37 % 101}.5", False),
        ("zone", lambda n: "near" if n < 20 else "far", True),
        ("zone", lambda n: "near" if n % 3 else "far", False),
        ("zone", lambda n: f"zone {n}", False),
    ],
)
def test_steps_and_growing_together_are_no_luck(name, of, is_recoded):
    rows = [[f"{14 + n / 10:.1f}", of(n)] for n in range(40)]
    relation = Relation.from_rows(["moisture", name], rows)
    (rule,) = parse_dependencies(f"moisture -> {name}")
    assert recoded(relation, rule, judge(relation, discover(relation)).uses) is is_recoded


def test_few_values_may_well_stand_in_order_by_luck():
    relation = Relation.from_rows(["moisture", "depth"], [[f"{n}.5", f"{2 * n}.25"] for n in range(1, 4)] * 9)
    (rule,) = parse_dependencies("moisture -> depth")
    assert not recoded(relation, rule, judge(relation, discover(relation)).uses)


def test_numbers_that_were_given_out_in_order_of_places_are_not_recoded():
    """Hives are numbered apiary by apiary; heights of such numbers would be."""
    rows = [[f"{100 + n}", f"{10 + n // 5}", f"{300 + 7.25 * n}"] for n in range(40)]
    relation = Relation.from_rows(["hive_no", "apiary_no", "altitude"], rows)
    uses = judge(relation, discover(relation)).uses
    apiary, height = parse_dependencies("hive_no -> apiary_no, altitude")
    assert not recoded(relation, apiary, uses)
    assert recoded(relation, height, uses)


def test_a_number_of_which_only_steps_are_told_is_not_surely_a_thing():
    def sure(*more):
        relation = deliveries(
            ("batch_no", lambda n, _: f"{900 + n % 40}"),
            ("batch_depth", lambda n, _: f"{n % 40 * 2.75:.2f}"),
            *more,
        )
        _, confidence, judgement = asked(relation)
        assert parse_dependencies("batch_no -> batch_depth")[0] in judgement.trusted
        return confidence.table(set(relation.names) - {"drum_no", "kg"})

    assert sure() < SURE_FROM
    assert sure(("batch_smoker", lambda n, _: f"Ada {n % 40 * 7 % 23}")) >= SURE_FROM
