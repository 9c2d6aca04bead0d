"""The stages of an analysis: what a changed ledger makes stale, and what it leaves."""

from dataclasses import replace
from pathlib import Path

import pytest

import pravix.demo
from pravix.analysis import Analysis, Stage
from pravix.first_normal_form.answer import Answer
from pravix.ledger.ledger import Decision
from pravix.ledger.meanings import Meaning
from pravix.ledger.wishes import Wishes
from pravix.theory.dependency import parse_dependencies

STAGES = [name for name, part in vars(Analysis).items() if isinstance(part, Stage)]


@pytest.fixture(scope="module")
def worked(tmp_path_factory):
    path = tmp_path_factory.mktemp("stages") / "deliveries.csv"
    path.write_bytes(Path(pravix.demo.__file__).with_name("deliveries.csv").read_bytes())
    made = Analysis(str(path))
    for name in STAGES:
        getattr(made, name)
        assert name in made.__dict__
    return made


def kept(made):
    return [name for name in STAGES if name in made.__dict__]


def test_each_change_leaves_the_stages_before_the_one_that_reads_it(worked):
    ledger = worked.ledger
    (rule,) = parse_dependencies("village -> district")
    before = STAGES.index
    for changed, first in (
        (replace(ledger, reading=replace(ledger.reading, header=1)), "source"),
        (replace(ledger, answers=(Answer("computed: net_kg", "leave out"),)), "repaired"),
        (ledger.with_decisions([Decision(rule, False, "", place="here")]), "judgement"),
        (replace(ledger, wishes=Wishes(surrogates="always")), "design"),
    ):
        assert kept(worked.with_ledger(changed)) == STAGES[: before(first)], first
    told = replace(ledger, meanings=(Meaning("what is left in the comb", column="net_kg"),))
    assert kept(worked.with_ledger(told)) == STAGES


def test_a_changed_answer_repairs_anew(worked):
    answered = worked.with_ledger(replace(worked.ledger, answers=(Answer("computed: net_kg", "leave out"),)))
    assert "net_kg" in worked.relation.names
    assert "net_kg" not in answered.relation.names
    assert answered.source is worked.source


def test_a_changed_wish_designs_anew_from_the_same_judgement(worked):
    wished = worked.with_ledger(replace(worked.ledger, wishes=Wishes(surrogates="always")))
    assert wished.judgement is worked.judgement
    assert any(table.surrogate for table in wished.design.tables)
