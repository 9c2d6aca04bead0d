"""Rules written many at a time say what each would say alone."""

import json

import numpy as np
import pytest

from pravix.discovery.search import discover
from pravix.document import rules_in_bulk
from pravix.document.rules import rule_document
from pravix.judgement.decisions import Confidence
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency


def sheet(seed, width):
    """A sheet of few values with blanks, names that JSON escapes, and rules of five columns and more."""
    draw = np.random.default_rng(seed)
    names = ['drum "no"', "a\\b", "東京", "x, ]", *(f"c{place}" for place in range(4, width))]
    cells = draw.integers(0, 3, (70, width)).astype(str)
    cells[draw.random(cells.shape) < 0.02] = ""
    cells[:, 0] = draw.integers(10, 60, 70)
    return Relation.from_rows(names, cells.tolist())


@pytest.mark.parametrize(("seed", "width", "few"), [(1, 9, 0), (2, 9, 5_000), (3, 11, 0), (4, 10, 0)])
def test_many_rules_are_written_as_each_would_be(monkeypatch, seed, width, few):
    monkeypatch.setattr(rules_in_bulk, "_FEW", few)
    monkeypatch.setattr(rules_in_bulk, "_AT_ONCE", 37)
    relation = sheet(seed, width)
    found = discover(relation)
    large = [rule for rule in found.dependencies if len(rule.determinant) > 4]
    small = [rule for rule in found.dependencies if len(rule.determinant) <= 4]
    accepted, rejected = [small[0], large[3]], [large[1], small[-1]]
    judgement = judge(relation, found, accepted, rejected)
    confidence = Confidence(relation, judgement)
    written = list(
        rules_in_bulk.rules_as_json(
            judgement, relation.names, confidence, lambda one: json.dumps(one, ensure_ascii=False)
        )
    )
    alone = [rule_document(one, judgement, relation.names, confidence) for one in judgement.rules]
    assert json.loads(f"[{rules_in_bulk.BETWEEN.join(written)}]") == alone
    assert len(large) > 15
    assert {one["standing"] for one in alone} >= {"accepted", "rejected", "doubtful"}
    assert Dependency(frozenset(alone[0]["determinant"]), alone[0]["dependent"]) in set(found.dependencies)
