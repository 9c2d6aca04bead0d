"""How much work a command does, counted and not timed: twice the rows may take little more than twice of it."""

import pytest
import tables

from pravix.analysis import Analysis
from pravix.discovery import checking, neighbours, pairs_compiled
from pravix.discovery.budget import Budget
from pravix.document.rules_in_bulk import rules_as_json
from pravix.kernels import groups
from pravix.kernels.pairs import BLOCK


@pytest.fixture
def work(monkeypatch):
    """Count the rows that the inner loops are given, by loop."""
    counts = {}

    def counted(module, name, rows):
        inner = getattr(module, name)

        def called(*arguments):
            counts[name] = counts.get(name, 0) + rows(*arguments)
            return inner(*arguments)

        monkeypatch.setattr(module, name, called)

    counted(groups, "split", lambda found, codes: len(codes))
    counted(checking, "first_breaks", lambda rows, *rest: len(rows))
    counted(checking, "refined", lambda rows, *rest: len(rows))
    counted(neighbours, "compare", lambda matrix, rows, column, start, stride, *rest: len(rows) // stride)
    for name in ("mark", "compare"):
        counted(pairs_compiled, name, lambda columns, first, last, *rest: (last - first) * BLOCK)
    return counts


def designed(cells, folder):
    path = folder / "flat.csv"
    tables.write_csv(cells, path)
    analysis = Analysis(
        str(path), budget=Budget(seconds=600)
    )  # What is counted is not to depend on the time.
    assert analysis.design.tables
    return analysis


def test_twice_the_rows_take_little_more_than_twice_the_work(work, tmp_path):
    found = []
    for rows in (25_000, 50_000):
        work.clear()
        designed(tables.denormalised(rows), tmp_path)
        found.append(dict(work))
    small, large = found
    assert small.keys() == large.keys()
    assert {"split", "first_breaks", "compare"} <= small.keys()
    assert sum(large.values()) <= 2.5 * sum(small.values()), found
    assert sum(large.values()) <= 500 * 50_000, found


def test_small_determinants_of_many_columns_are_not_sought_by_all_pairs(work, tmp_path):
    rows = 60_000
    designed(tables.joined(rows), tmp_path)
    assert work["compare"] < rows * rows / 2 / 100, work
    assert sum(work.values()) < 20_000 * rows, work


def test_very_many_rules_are_written_with_few_objects(tmp_path):
    path = tmp_path / "flat.csv"
    tables.write_csv(tables.few_rows(150), path)
    analysis = Analysis(str(path), prompt=False)
    written = []

    def write(document):
        import json

        written.append(document)
        return json.dumps(document)

    texts = list(rules_as_json(analysis.judgement, analysis.relation.names, analysis.confidence, write))
    rules = len(analysis.judgement.rules)
    assert rules > 100_000
    assert sum(text.count('"dependent"') for text in texts) == rules
    assert len(written) < rules / 2
    assert sum(map(len, texts)) < 300 * rules
