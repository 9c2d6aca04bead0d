"""Standings of all rules at once, against the definition one by one."""

from hypothesis import given
from hypothesis import strategies as st
from samples import random_rules, tables

from pravix.discovery.search import discover
from pravix.judgement.standing import JudgedRules, Standing
from pravix.theory.closure import implies


@given(tables(), st.data())
def test_standings_are_those_of_the_definition(relation, data):
    columns = "".join(relation.names)
    accepted = data.draw(random_rules(columns, most=3))
    foundation = [*accepted, *data.draw(random_rules(columns, most=4))]
    dependencies = discover(relation).dependencies
    rejected = (
        data.draw(st.lists(st.sampled_from(list(dependencies)), max_size=2)) if len(dependencies) else []
    )
    judged = JudgedRules(relation.names, dependencies, accepted, rejected, foundation, {})
    expected = [
        Standing.REJECTED if rule in rejected
        else Standing.ACCEPTED if implies(accepted, rule)
        else Standing.BELIEVED if implies(foundation, rule)
        else Standing.DOUBTFUL
        for rule in dependencies
    ]  # fmt: skip
    assert [found.rule for found in judged] == list(dependencies)
    assert [found.standing for found in judged] == expected
    assert len(judged) == sum(judged.counts.values())
    for standing in Standing:
        assert judged.counts[standing] == expected.count(standing)
        assert [found.rule for found in judged.of(standing)] == [
            rule for rule, state in zip(dependencies, expected, strict=True) if state is standing
        ]
