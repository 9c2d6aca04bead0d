"""Whole sheets: what hangs off the main tables is found, and what is called third normal form is in it."""

import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))

from whole_designs import _wanted, seen
from whole_sheets import sheet

from pravix.analysis import Analysis
from pravix.discovery.search import discover
from pravix.first_normal_form.findings import findings
from pravix.folder.writer import write_design
from pravix.judgement.judge import judge
from pravix.proof.proving import prove_folder
from pravix.theory.dependency import Dependency
from pravix.theory.normal_forms import Form, normal_form

_ORDER = list(Form)


def designed(seed):
    made = sheet(seed)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "jobs.csv"
        path.write_text(made.text, encoding="utf-8")
        analysis = Analysis(str(path))
        proposed = _wanted(findings(analysis.source.relation, topics=("list", "family", "computed")))
        analysis = analysis.with_ledger(replace(analysis.ledger, answers=tuple(proposed.values())))
        return analysis.design


@pytest.mark.parametrize("seed", range(3000, 3012))
def test_what_the_proof_calls_third_normal_form_is_so_by_the_rows_of_each_table(seed, tmp_path):
    design = designed(seed)
    assert design.proof.holds
    for table in design.tables:
        judged = judge(table.rows, discover(table.rows, largest=3))
        keys = [
            Dependency(frozenset(key), name)
            for key in table.keys
            for name in table.column_names
            if name not in key
        ]
        told = normal_form(table.column_names, [*judged.trusted, *keys])
        assert _ORDER.index(told.form) >= _ORDER.index(table.form), (table.name, told)
    write_design(design, str(tmp_path / "made"))
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))


def test_nearly_all_is_found_and_nothing_is_made_up():
    right = found = asked = false = 0
    for seed in range(3100, 3116):
        made = sheet(seed)
        told = seen(made)
        right += len(made.right)
        found += len(made.right & told.found)
        asked += len((made.right - told.found) & told.asked)
        false += len(told.found - made.right)
    assert right > 70
    assert found + asked == right
    assert found >= 0.95 * right
    assert false == 0
