"""Repairs: what they make of a relation, and that every cell comes back exactly."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repairing import repaired
from pravix.relation.relation import Relation

NAMES = ["drum", "forage", "m_1", "m_2", "m_3", "raw", "filtered", "gross", "tare", "net"]


def relation(seed=1, count=40):
    draw = random.Random(seed)
    rows = []
    for place in range(count):
        gross, tare, raw = draw.randrange(300, 900), draw.choice([175, 180, 210]), draw.random() < 0.5
        water = [f"{draw.randrange(150, 190) / 10}" for _ in range(draw.randrange(0, 4))]
        plants = "; ".join(draw.sample(["heather", "lime", "clover", "rape"], draw.randrange(0, 4)))
        yes = ["yes", "no"] if raw else ["no", "yes"]
        weights = [f"{gross / 10:.1f}", f"{tare / 10:.1f}", f"{(gross - tare) / 10:.1f}"]
        rows.append([str(place), plants, *(water + [""] * 3)[:3], *yes, *weights])
    return Relation.from_rows(NAMES, rows)


def proposals(table):
    return [Answer(finding.id, finding.answers[0]) for finding in findings(table) if finding.answers]


@given(st.integers(0, 60))
def test_all_repairs_together_are_undone_exactly(seed):
    table = relation(seed)
    found = repaired(table, proposals(table))
    assert found.relation.names == ("drum", "forage", "m", "raw_or_filtered", "gross", "tare")
    assert found.rebuilt().rows() == table.rows()
    assert found.differing_rows() == ()
    assert found.opaque == {"forage", "m"}


def test_a_changed_cell_is_noticed():
    table = relation()
    found = repaired(table, proposals(table))
    rows = [list(row) for row in found.relation.rows()]
    rows[3][found.relation.names.index("gross")] = "1.0"
    object.__setattr__(found, "relation", Relation.from_rows(found.relation.names, rows))
    assert found.differing_rows() == (5,)


def test_parts_of_lists_and_families():
    table = relation()
    found = repaired(table, proposals(table))
    for bundle in found.bundles:
        for cell in found.relation.column(bundle.column).texts():
            assert bundle.cell(bundle.parts(cell)) == cell
    row = next(row for row in table.rows() if row[4])
    family = next(bundle for bundle in found.bundles if bundle.column == "m")
    cell = found.relation.column("m").text(table.rows().index(row))
    assert family.parts(cell) == [(1, (row[2],)), (2, (row[3],)), (3, (row[4],))]


def test_a_compound_value_is_split_only_when_asked_and_put_together_again():
    given = ["Ada", "Milo", "Nora"]
    rows = [
        [str(n), f"{given[n % 3]} {'Holm Dorn Lund'.split()[n // 3]}", "" if n == 4 else f"{n} kg"]
        for n in range(9)
    ]
    table = Relation.from_rows(["no", "keeper", "load"], rows)
    assert {answer.answer for answer in proposals(table)} == {"keep"}
    found = repaired(table, [Answer("compound: keeper", "split"), Answer("compound: load", "split")])
    assert found.relation.names == ("no", "keeper_given", "keeper_family", "load_value", "load_unit")
    assert found.relation.rows()[4] == ("4", "Milo", "Dorn", "", "")
    assert found.rebuilt().rows() == table.rows()
    assert found.differing_rows() == ()


def test_keeping_changes_nothing():
    table = relation()
    kept = repaired(table, [Answer(answer.finding, "keep") for answer in proposals(table)])
    assert kept.relation.rows() == table.rows()


@pytest.mark.parametrize(
    ("answer", "message"),
    [
        (Answer("list: honey", "split"), "nothing found like list: honey"),
        (Answer("list: forage", "merge"), "the answer to list: forage must be split or keep"),
        (Answer("one fact: raw, filtered", "merge", name="gross"), "there is a column gross already"),
    ],
)
def test_answers_that_do_not_fit_are_told(answer, message):
    with pytest.raises(InputError, match=message):
        repaired(relation(), [answer])


def test_uneven_separators_must_be_corrected_first():
    table = relation()
    rows = [list(row) for row in table.rows()]
    place = next(place for place, row in enumerate(rows) if ";" in row[1])
    rows[place][1] = rows[place][1].replace("; ", ";", 1)
    uneven = Relation.from_rows(NAMES, rows)
    finding = next(finding for finding in findings(uneven) if finding.id == "list: forage")
    assert "1 cell with other separators would have to be corrected first" in finding.told
    assert finding.rows == (place + 2,)
    with pytest.raises(InputError, match="before the rows that break it are corrected"):
        repaired(uneven, [Answer("list: forage", "split")])
