"""What a folder says of what it rests on: evidence, decisions, questions, odd rows."""

from pathlib import Path

import pytest
from folders import folder_of

import pravix.demo
from pravix.analysis import Analysis
from pravix.document.story import DecisionDocument
from pravix.folder.guide import guide
from pravix.relation.relation import Relation

HERE = Path(pravix.demo.__file__)


@pytest.fixture(scope="module")
def rough():
    return Analysis(str(HERE.with_name("deliveries_rough.csv")))


def test_every_column_has_its_last_rule_with_a_reason(rough):
    found = rough.basis
    names = rough.relation.names
    assert found.read.startswith("deliveries_rough.csv: UTF-8")
    columns = [entry.column for entry in found.evidence]
    assert set(columns) <= set(names)
    assert len(columns) >= len(names) - 2
    for entry in found.evidence:
        assert entry.rule.endswith(f"-> {entry.column}")
        assert entry.standing in ("believed", "accepted")
        assert entry.why


def test_near_dependencies_and_questions_are_those_of_the_analysis(rough):
    found = rough.basis
    assert len(found.near_dependencies) == len(rough.near) > 0
    assert len(found.questions) == len(rough.questions) > 0
    assert {one.dependent for one in found.near_dependencies} == {one.rule.dependent for one in rough.near}
    assert found.decisions == ()


def test_decisions_come_with_their_reason(tmp_path):
    sheet = tmp_path / "deliveries.csv"
    sheet.write_bytes(HERE.with_name("deliveries.csv").read_bytes())
    (tmp_path / "deliveries.ledger.toml").write_text(
        '[[decision]]\nrule = "village -> district"\nstanding = "rejected"\nwhy = "two of one name"\nby = "Ida"\non = 2026-05-04\n'
    )
    bench = Analysis(str(sheet))
    found = bench.basis
    assert found.decisions == (
        DecisionDocument(
            rule="village -> district",
            standing="rejected",
            why="two of one name",
            by="Ida",
            on="2026-05-04",
        ),
    )
    assert "village" not in [table.name for table in bench.design.tables]


def test_the_guide_of_a_single_table_has_no_links(tmp_path):
    folder = folder_of(Relation.from_rows(["a"], [["1"]]), tmp_path / "made")
    text = guide(folder.document, safe_cells=True)
    assert "A file of 1 row and 1 column was split into 1 table" in text
    assert "There is one table." in text
    assert "apostrophe" in text
    assert "| a.csv | 1 row, one for each a |" in text
