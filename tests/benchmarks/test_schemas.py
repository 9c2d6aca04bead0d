"""The made-up schemas and their scoring: always the same, told apart by their seeds, and scored as defined."""

import pytest
from judgement import run, scored, truthful
from naming_styles import STYLES, Label
from schemas import FAMILIES, case

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.theory.dependency import dependency


@pytest.mark.parametrize("family", FAMILIES)
def test_a_seed_gives_the_same_case_and_another_seed_another(family):
    assert case(family, 7) == case(family, 7)
    assert case(family, 7) != case(family, 8)


@pytest.mark.parametrize("family", FAMILIES)
def test_a_case_has_distinct_names_and_one_table_that_holds_the_whole(family):
    made = case(family, 5)
    assert len({name.lower() for name in made.header}) == len(made.header)
    assert 20 <= len(made.rows) <= 5_000
    assert all(len(row) == len(made.header) for row in made.rows)
    for columns, keys in made.tables.items():
        assert all(key < columns for key in keys)
    assert len(set(made.rows)) == len(made.rows)


def test_two_roles_of_a_thing_are_two_tables_of_the_right_design():
    made = case("roles", 4)
    shapes = sorted(len(columns) for columns in made.tables)
    assert len(made.tables) >= 3
    assert any(shapes.count(size) >= 2 for size in shapes)


def test_the_right_rules_give_the_right_tables_and_full_score():
    made = case("snowflake", 6)
    relation = Relation.from_rows(made.header, made.rows)
    discovery = discover(relation, largest=3)
    held = {rule for rule in discovery.dependencies if truthful(made, rule)}
    wrong = [rule for rule in discovery.dependencies.up_to(2) if rule.determinant and rule not in held]
    judgement = judge(relation, discovery, made.rules, wrong)
    score = scored(made, relation, judgement)
    assert score.signed
    assert score.f1 == 1.0
    assert score.missing == score.wrong == ()


def test_a_design_that_does_not_split_scores_little():
    made = case("snowflake", 6)
    relation = Relation.from_rows(made.header, made.rows)
    discovery = discover(relation, largest=2)
    judgement = judge(relation, discovery, (), [rule for rule in discovery.dependencies if rule.determinant])
    score = scored(made, relation, judgement)
    assert not score.signed
    assert score.f1 < 0.3


def test_truth_follows_from_the_rules_of_the_case():
    made = case("chain", 3)
    rule = made.rules[0]
    assert truthful(made, rule)
    assert truthful(made, dependency({*rule.determinant, made.header[-1]}, rule.dependent))
    assert not truthful(made, dependency([rule.dependent], made.header[0]))


def test_answers_do_no_harm_on_a_clear_case():
    result = run("plain", 3, True)
    assert result.before.signed
    assert result.before.f1 == 1.0
    assert result.after == result.before
    assert result.asked == ()


@pytest.mark.parametrize("style", sorted(STYLES))
def test_every_style_names_every_column_once(style):
    from random import Random

    labels = [Label("station", "no"), Label("station", "name"), Label("station", "altitude_m"),
              Label("vessel", "", "from"), Label("vessel", "", "to"), Label("vessel", "altitude_m")]  # fmt: skip
    names = STYLES[style](labels, Random(1))
    assert set(names) == set(labels)
    assert len({name.lower() for name in names.values()}) == len(labels)
