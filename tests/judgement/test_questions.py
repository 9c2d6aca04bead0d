"""The open questions: only what changes the tables, nothing that follows, and examples that break one rule."""

from random import Random

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from samples import random_rules, tables
from schemas import FAMILIES, case

from pravix.discovery.search import discover
from pravix.judgement.decisions import Confidence
from pravix.judgement.examples import breaking_rows
from pravix.judgement.judge import judge
from pravix.judgement.judgement import without
from pravix.judgement.near import near_dependencies
from pravix.judgement.phrasing import answer_effect, question_text
from pravix.judgement.questions import MOST_QUESTIONS, Choice, open_questions
from pravix.ledger.said import Said
from pravix.relation.relation import Relation
from pravix.theory.closure import closure, implies
from pravix.theory.dependency import parse_dependencies


def rule(text):
    return parse_dependencies(text)[0]


def visits():
    """Six sites in two districts: too few to tell whether a site's district decides its inspector."""
    sites = [("A1", "North", "Ida"), ("A2", "North", "Ida"), ("A3", "South", "Ole"), ("A4", "South", "Ole"),
             ("A5", "North", "Ida"), ("A6", "East", "Pia")]  # fmt: skip
    lines = [[str(900 + place), *sites[place % 6], str(place * 7 % 31)] for place in range(60)]
    return Relation.from_rows(["visit_no", "site_no", "district", "inspector", "minutes"], lines)


def asked(relation, accepted=(), rejected=()):
    judgement = judge(
        relation, discover(relation), [rule(text) for text in accepted], [rule(text) for text in rejected]
    )
    return open_questions(relation, judgement, near_dependencies(relation, judgement)), judgement


def test_a_question_is_in_the_words_of_the_file_and_says_what_each_answer_does():
    questions, _ = asked(visits())
    assert "district -> inspector" in [question.id for question in questions]
    question = next(one for one in questions if one.id == "district -> inspector")
    text = question_text(question, 60)
    assert "Among the 6 different site_no each district goes with one inspector" in text
    assert "a district came again 3 times" in text
    assert "Could one district ever have two different inspector?" in text
    assert answer_effect(question, True) == "inspector is stored once for each district (3 rows)"
    assert answer_effect(question, False) == "inspector is stored once for each site_no (6 rows)"


def licensed():
    """Keepers with two numbers, each in several rows that nothing identifies."""
    keepers = [(f"{n * n * 7 + 3}", f"{n**3 * 5 + 1}", f"{2000 + n % 7}", f"Hill {n % 5}") for n in range(12)]
    rows = [[*keepers[n % 12], f"{n % 7}.5"] for n in range(24)]
    header = ["keeper_no", "licence_no", "licence_year", "keeper_village", "kg"]
    return Relation.from_rows(header, rows * 2)


def test_what_others_refer_by_is_asked_where_nothing_identifies_a_row():
    questions, judgement = asked(licensed())
    assert judgement.row_key is None
    (about,) = (one for one in questions if isinstance(one, Choice))
    assert set(about.choices) == {("keeper_no",), ("licence_no",)}
    assert about.values == (12, 12)


@pytest.mark.parametrize("answer", ["accepted", "rejected"])
def test_what_is_answered_is_not_asked_again(answer):
    questions, _ = asked(visits(), **{answer: ["district -> inspector"]})
    assert not [one for one in questions if one.determinant == ("district",)]


def test_what_follows_from_an_answer_is_not_asked():
    accepted = ["site_no -> district", "district -> inspector"]
    questions, judgement = asked(visits(), accepted=accepted)
    for question in questions:
        assert not all(implies(judgement.accepted, one) for one in question.rules)


def test_no_more_than_six_determinants_are_asked_about():
    rejected = [f"minutes, {name} -> visit_no" for name in ("site_no", "district", "inspector")]
    rejected += [f"{name} -> minutes" for name in ("site_no", "district", "inspector")]
    questions, _ = asked(visits(), rejected=rejected)
    assert len({rule(text).determinant for text in rejected}) == MOST_QUESTIONS
    assert questions == ()


def test_what_is_said_unasked_takes_no_question_away():
    draw = Random(4)
    things = [
        [(f"K{n:02}", f"Ada Moss {n}") for n in range(25)],
        [(f"H{n}", f"Honey {n}") for n in range(8)],
        [(f"P{n}", f"Town {n}") for n in range(9)],
        [(f"Z{n}", f"Zone {n}") for n in range(7)],
    ]
    sheet = visits()
    names = [*sheet.names, "keeper_no", "keeper", "honey_code", "honey", "depot", "town", "zone_code", "zone"]
    rows = [[*row, *(cell for one in things for cell in draw.choice(one))] for row in list(sheet.rows()) * 8]
    rows = [[str(n), *cells] for n, (_, *cells) in enumerate(rows)]
    relation = Relation.from_rows(names, rows)
    open_ones = [question.id for question in asked(relation)[0]]
    assert open_ones
    sure = ["keeper_no -> keeper", "honey_code -> honey", "depot -> town", "zone_code -> zone"]
    sure += ["site_no -> district", "keeper -> keeper_no", "honey -> honey_code"]
    assert len(sure) > MOST_QUESTIONS
    questions, judgement = asked(relation, accepted=sure)
    assert [question.id for question in questions] == open_ones
    assert Confidence(relation, judgement).answered == 0
    questions, judgement = asked(relation, accepted=[*sure, open_ones[0]])
    assert open_ones[0] not in [question.id for question in questions]
    assert Confidence(relation, judgement).answered == 1


@pytest.mark.parametrize(("columns", "answered"), [("licence_no", 1), ("keeper_village", 0)])
def test_columns_to_refer_by_answer_a_question_where_others_could_stand_for_them(columns, answered):
    relation = licensed()
    said = Said(refer_by=(frozenset({columns}),))
    judgement = judge(relation, discover(relation), said=said)
    assert Confidence(relation, judgement).answered == answered


def test_the_rows_of_a_question_break_its_rule_and_no_other():
    for family in FAMILIES[1:]:
        made = case(family, 3)
        relation = Relation.from_rows(made.header, made.rows)
        judgement = judge(relation, discover(relation, largest=3))
        for question in open_questions(relation, judgement):
            if isinstance(question, Choice):
                continue
            example, others = question.example, without(judgement, question.rules)
            assert example is not None
            agreeing = {name for name in made.header if example.first[name] == example.second[name]}
            assert set(question.determinant) <= agreeing
            assert question.dependents[0] not in agreeing
            assert closure(agreeing, others) == agreeing


@given(tables(), random_rules("ABCDE"), st.data())
@settings(max_examples=150)
def test_breaking_rows_are_made_of_values_of_the_file_and_break_exactly_the_rule(relation, rules, data):
    names = set(relation.names)
    others = [one for one in rules if one.columns <= names]
    candidates = [one for one in rules if one.columns <= names and not one.trivial]
    assume(candidates)
    denied = data.draw(st.sampled_from(candidates))
    kept = [one for one in others if one != denied]
    example = breaking_rows(relation, denied, kept)
    assume(example is not None)
    assert not implies(kept, denied)
    for name in names:
        texts = relation.column(name).texts()
        assert example.first[name] in texts
        assert example.second[name] in texts
    agreeing = {name for name in names if example.first[name] == example.second[name]}
    assert denied.determinant <= agreeing
    assert denied.dependent not in agreeing
    assert all(one.dependent in agreeing for one in kept if one.determinant <= agreeing)


@pytest.mark.parametrize("family", FAMILIES)
def test_the_rules_of_a_made_up_schema_hold_in_its_rows(family):
    for seed in range(4):
        made = case(family, seed)
        relation = Relation.from_rows(made.header, made.rows)
        found = discover(relation, largest=2).dependencies
        for one in made.rules:
            if len(one.determinant) <= 2:
                assert any(
                    other.dependent == one.dependent and other.determinant <= one.determinant
                    for other in found
                ), (seed, one)
        assert frozenset().union(*made.tables) == set(made.header)
