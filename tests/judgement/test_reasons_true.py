"""Every reason that is given for a rule is recomputed from the rows, by other means."""

import re

import pytest
from schemas import FAMILIES, case

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.near import near_dependencies
from pravix.judgement.phrasing import choice_text, question_text
from pravix.judgement.questions import Choice, open_questions
from pravix.judgement.telling import reason
from pravix.relation.relation import Relation
from pravix.theory.closure import implies

AGAIN = re.compile(r"held all ([\d,]+) times? that .* came again(?: among ([\d,]+) different .*?)?(?:,|$)")


def number(text):
    return int(text.replace(",", ""))


def again(rows, judged):
    """Return how many observations there are, and how many of them repeat a determinant."""
    rule, observed = judged.rule, judged.evidence.observed
    wanted = sorted({*rule.columns, *observed})
    seen = [tuple(row[name] for name in wanted) for row in rows if all(row[name] for name in wanted)]
    if observed:
        seen = list(dict.fromkeys(seen))
    places = [wanted.index(name) for name in sorted(rule.determinant)]
    values = {tuple(one[place] for place in places) for one in seen}
    return len(seen), len(seen) - len(values)


def told_truly(judged, judgement, rows, header):
    """Return whether the reason of one rule holds in the rows."""
    text, rule = reason(judged, judgement, header), judged.rule
    if text == "no two rows agree on the key":
        keys = [tuple(row[name] for name in sorted(rule.determinant)) for row in rows]
        return len(set(keys)) == len(keys)
    if text == "it follows from other believed rules":
        return implies([one for one in judgement.foundation if one != rule], rule)
    if "is the same in every row" in text:
        return len({row[rule.dependent] for row in rows}) == 1
    if found := AGAIN.match(text):
        observations, tests = again(rows, judged)
        seen = number(found[2]) if found[2] else observations
        return (number(found[1]), seen) == (tests, observations)
    if text.startswith(("never tested", "in these rows each goes with exactly one")):
        return again(rows, judged)[1] == 0
    if " is blank" in text:
        blank = [any(not row[name] for name in rule.determinant) for row in rows]
        return any(empty and row[rule.dependent] for empty, row in zip(blank, rows, strict=True))
    if "hardly ever determines" in text or text.startswith("it was not weighed"):
        return all(judgement.uses[name].value in text for name in rule.determinant if f"{name} is a" in text)
    return bool(re.match(r"a combination of \d+ columns", text)) and len(rule.determinant) > 4


@pytest.mark.parametrize("family", FAMILIES)
def test_reasons_hold_in_the_rows(family):
    for seed in (60, 61):
        made = case(family, seed)
        rows = [dict(zip(made.header, row, strict=True)) for row in made.rows[:300]]
        relation = Relation.from_rows(made.header, made.rows[:300])
        judgement = judge(relation, discover(relation, largest=3))
        for judged in judgement.rules:
            assert told_truly(judged, judgement, rows, made.header), (
                judged.rule,
                reason(judged, judgement, made.header),
            )


@pytest.mark.parametrize("family", FAMILIES)
def test_questions_say_what_the_rows_show(family):
    made = case(family, 62)
    rows = [dict(zip(made.header, row, strict=True)) for row in made.rows[:300]]
    relation = Relation.from_rows(made.header, made.rows[:300])
    judgement = judge(relation, discover(relation, largest=3))
    for question in open_questions(relation, judgement, near_dependencies(relation, judgement)):
        if isinstance(question, Choice):
            for choice, values in zip(question.choices, question.values, strict=True):
                found = {tuple(row[name] for name in choice) for row in rows}
                assert len(found) == values
                assert all(name in choice_text(question) for name in choice)
            assert question.kind.value == "refer" or set(question.values) == {len(rows)}
        elif question.near is None:
            text = question_text(question, len(rows))
            said = re.search(r"came again ([\d,]+) times?", text)
            if said:
                assert number(said[1]) == question.evidence.tests
