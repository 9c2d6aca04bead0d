"""Names that people choose against codes that are given out: what leads, what is luck, and what is asked."""

import random

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.questions import open_questions
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency


def judged(names, rows):
    relation = Relation.from_rows(names, [list(map(str, row)) for row in rows])
    return relation, judge(relation, discover(relation, largest=3))


def rule(determinant, dependent):
    return Dependency(frozenset(determinant), dependent)


def test_a_code_leads_its_name():
    chance = random.Random(3)
    lands = [(f"Land of the {n} hills", f"{'ABCDEFGH'[n % 8]}{'KLMN'[n // 8]}", n * 13) for n in range(24)]
    rows = [(n, *chance.choice(lands), chance.randrange(900)) for n in range(400)]
    _, judgement = judged(["visit_no", "land", "mark", "rainfall", "kg"], rows)
    assert rule(["mark"], "land") in judgement.trusted
    assert judgement.rank("mark") < judgement.rank("land")


def test_what_tells_namesakes_apart_by_luck_is_no_key_of_theirs():
    """A keeper has one surname; surname and site together tell the keepers apart only because there are few."""
    chance = random.Random(5)
    surnames = [f"Name{n}" for n in range(30)]
    keepers = [(f"K{n:03}", surnames[n * 7 % 30], f"born {n % 9}") for n in range(60)]
    rows = [(*chance.choice(keepers), f"S{chance.randrange(40):02}", 2000 + n % 20) for n in range(500)]
    _, judgement = judged(["keeper_id", "surname", "origin", "site_id", "year"], dict.fromkeys(rows))
    assert not [one for one in judgement.trusted if one.dependent == "keeper_id"]


def test_a_year_may_stand_in_a_key_and_a_count_may_not():
    chance = random.Random(7)
    states = [f"region {n}" for n in range(12)]
    bees = {(s, y): chance.randrange(1000, 9_000_000) for s in states for y in range(1990, 2010)}
    kinds = ["mite", "foulbrood", "nosema"]
    rows = [
        (k, s, y, bees[s, y], chance.randrange(400)) for k in kinds for s in states for y in range(1990, 2010)
    ]
    _, judgement = judged(["pest", "state", "year", "bees", "cases"], rows)
    assert judgement.row_key == frozenset({"pest", "state", "year"})
    assert rule(["state", "year"], "bees") in judgement.trusted


def test_a_law_of_names_is_asked_about_however_often_it_held():
    chance = random.Random(9)
    places = [(f"the {n} meadow", f"north of {n % 4}") for n in range(30)]
    rows = [(n, *chance.choice(places), chance.randrange(500)) for n in range(600)]
    relation, judgement = judged(["line_no", "meadow", "valley", "kg"], rows)
    assert rule(["meadow"], "valley") in judgement.trusted
    assert "meadow -> valley" in [question.id for question in open_questions(relation, judgement)]
