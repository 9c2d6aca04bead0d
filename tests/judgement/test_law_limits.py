"""What is never sure, however often it held, and what moves the odds of a law."""

import random
from types import SimpleNamespace

import pytest

from pravix.discovery.search import Plan, discover
from pravix.judgement import row_key
from pravix.judgement.decisions import Confidence
from pravix.judgement.judge import judge
from pravix.judgement.law import Laws
from pravix.judgement.questions import open_questions
from pravix.judgement.weights import SURE_FROM
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency


def judged(header, rows):
    relation = Relation.from_rows(header, [tuple(map(str, row)) for row in rows])
    return relation, judge(relation, discover(relation))


def rule(determinant, dependent):
    return Dependency(frozenset({determinant}), dependent)


def law(relation, judgement, wanted):
    return Laws(relation, judgement).probability(wanted, *judgement.rules.weighed[wanted])


def test_a_postal_code_decides_its_town_as_a_rule_and_not_by_law():
    chance = random.Random(3)
    towns = [(str(7000 + 13 * n), f"Town {'abcdefgh'[n % 8]}{n}") for n in range(30)]
    keepers = [(f"K-{n:03}", *towns[n % 30], f"0{n % 9} 4{n * 7919 % 9000:04}") for n in range(200)]
    rows = [(n, *chance.choice(keepers), chance.randrange(500)) for n in range(900)]
    relation, judgement = judged(["line_no", "keeper_no", "postcode", "town", "phone", "kg"], rows)
    assert rule("postcode", "town") in judgement.trusted
    assert law(relation, judgement, rule("postcode", "town")) < SURE_FROM
    assert any("postcode" in one.id for one in open_questions(relation, judgement))


def test_the_class_of_a_weight_is_a_recoded_weight():
    chance = random.Random(5)
    weights = [chance.randrange(1500, 4200) for _ in range(70)]
    rows = []
    for n in range(400):
        weight = chance.choice(weights)
        rows.append(
            (1000 + n, f"H{chance.randrange(9)}", weight, int(weight < 2500), chance.randrange(20, 60))
        )
    relation, judgement = judged(["sample_no", "hive", "weight_g", "low", "age"], rows)
    for one in Confidence(relation, judgement).decisions:
        for told in one.rules:
            assert told.rule.determinant != {"weight_g"} or one.right < SURE_FROM
    if rule("weight_g", "low") in judgement.trusted:
        assert law(relation, judgement, rule("weight_g", "low")) < SURE_FROM


def test_a_column_of_two_values_never_decides_for_sure():
    chance = random.Random(6)
    kinds = [("raw", "unheated honey"), ("filtered", "clear honey")]
    rows = [(n, *chance.choice(kinds), chance.randrange(900)) for n in range(300)]
    relation, judgement = judged(["drum_no", "treatment", "told", "kg"], rows)
    weighed = judgement.rules.weighed
    found = [one for one in (rule("treatment", "told"), rule("told", "treatment")) if one in weighed]
    assert found
    assert all(law(relation, judgement, one) < SURE_FROM for one in found)


def test_a_name_that_changes_belongs_to_its_code_at_a_time():
    """An apiary keeps its number and was called otherwise before 2020; no two ever had one name."""
    chance = random.Random(7)
    rows = []
    for year in range(2014, 2026):
        for number in range(25):
            name = f"Old Hill {number}" if number % 3 == 0 and year < 2020 else f"Meadow {number}"
            yield_kg = 10 * number + year % 7
            rows += [(f"A{number:02}", name, year, yield_kg, f"D{chance.randrange(10**6)}")] * 1
    relation, judgement = judged(["apiary_no", "apiary_name", "year", "yield_kg", "drum_no"], rows)
    told = rule("apiary_name", "apiary_no")
    if told in judgement.rules.weighed:
        assert law(relation, judgement, told) < 0.5
    assert told not in judgement.trusted


@pytest.mark.parametrize(("days", "sure"), [(6, False), (300, True)])
def test_what_goes_together_in_a_week_may_not_do_so_in_a_year(days, sure):
    """When a van was built says nothing about how long the rows go on: only what happened counts."""
    chance = random.Random(8)
    vans = [(f"V{n:02}", f"K-{n % 11:02}", f"19{60 + n}-03-01") for n in range(33)]
    rows = []
    for n in range(600):
        day = chance.randrange(days)
        rows.append(
            (n, *chance.choice(vans), f"2025-{1 + day // 28:02}-{1 + day % 28:02}", chance.randrange(99))
        )
    relation, judgement = judged(["run_no", "van_no", "keeper_no", "van_built", "driven_on", "km"], rows)
    probability = law(relation, judgement, rule("van_no", "keeper_no"))
    assert (probability >= SURE_FROM) is sure


@pytest.mark.parametrize(("plan", "searches"), [(Plan.LEVELS, 1), (Plan.PAIRS, 2)])
def test_a_search_for_keys_whose_time_is_over_is_not_made_again(plan, searches, monkeypatch):
    relation, asked = Relation.from_rows(["a", "b"], [["1", "x"], ["2", "x"]]), []

    def no_keys(rows, most, budget):
        asked.append(most)
        return SimpleNamespace(keys=(), plan=plan.value)

    monkeypatch.setattr(row_key, "discover_keys", no_keys)
    assert row_key._larger(relation, frozenset(), (), lambda key: True) == []
    assert len(asked) == searches
