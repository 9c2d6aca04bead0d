"""The three anomalies: each sentence is true of the rows, recomputed here from the flat table."""

from pathlib import Path

import pytest

import pravix.demo
from pravix.design.build import designed
from pravix.design.telling import anomalies, flat_anomalies
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.sources.read import read_source


def design_of(relation):
    return designed(Repaired(relation, relation), judge(relation, discover(relation, largest=3)))


@pytest.fixture(scope="module")
def demo():
    return design_of(read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation)


def holding(design, columns, cells):
    """The rows of the file, as dictionaries with their numbers, that hold these cells."""
    rows = [dict(zip(design.relation.names, row, strict=True)) for row in design.relation.rows()]
    numbered = zip(design.relation.row_numbers.tolist(), rows, strict=True)
    wanted = dict(zip(columns, cells, strict=True))
    return [(number, row) for number, row in numbered if wanted.items() <= row.items()]


def test_every_anomaly_of_the_demo_is_true_of_its_rows(demo):
    assert len(demo.steps) == 8
    for step in demo.steps:
        told = anomalies(step, demo.row_key)
        example = step.repetition
        rows = holding(demo, step.determinant, example.key)
        assert len(rows) == example.times
        assert f"{len(rows):,} rows must be changed alike" in told.update
        for name, cell in zip(step.determinant, example.key, strict=True):
            assert f"{name} {cell}" in told.update
        assert told.insertion.endswith("cannot be entered before a row has delivery_no and drum_no.")
        if step.only is None:
            assert told.deletion == ""
        else:
            ((number, row),) = holding(demo, step.determinant, step.only.key)
            assert told.deletion.startswith(f"Deleting row {number} would lose the only mention of ")
            assert [row[name] for name in step.moved] == list(step.only.facts)


def test_a_value_that_stands_alone_is_only_claimed_where_there_is_one(demo):
    for step in demo.steps:
        texts = [demo.relation.column(name).texts() for name in step.determinant]
        combined = list(zip(*texts, strict=True))
        alone = [cells for cells in set(combined) if combined.count(cells) == 1]
        assert (step.only is not None) == bool(alone)


def test_the_story_tells_one_of_each(demo):
    update, insertion, deletion = flat_anomalies(demo)
    assert update.startswith("To correct ")
    assert insertion.startswith("A new village with its district")
    assert deletion.startswith("Deleting row ")


def test_a_table_without_steps_has_nothing_to_go_wrong():
    assert flat_anomalies(design_of(Relation.from_rows(["a_no", "b"], [["1", "x"], ["2", "y"]]))) == []
