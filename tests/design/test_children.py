"""Child tables: what they hold, and that a changed cell in one is noticed."""

from dataclasses import replace

import pytest

from pravix.design.build import designed
from pravix.design.children import broken_children, with_children
from pravix.design.model import Table, TableColumn
from pravix.discovery.search import discover
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.relation.types import column_type
from pravix.theory.normal_forms import Form

NAMES = ["apiary_no", "forage", "contact1_name", "contact1_phone", "contact2_name", "contact2_phone"]
ROWS = [
    ["A1", "lime; heather", "Ada", "041", "Milo", "042"],
    ["A2", "heather", "Nora", "", "", ""],
    ["A3", "", "", "", "", ""],
    ["A4", "sage; lime; heather", "Ada", "041", "", "043"],
    ["A5", "lime; sage", "Milo", "", "Ada", "041"],
    ["A6", "sage; heather", "Karl", "044", "", ""],
]


@pytest.fixture
def repairs():
    relation = Relation.from_rows(NAMES, ROWS)
    answers = [Answer(finding.id, "split") for finding in findings(relation) if "split" in finding.answers]
    assert len(answers) == 2
    return repaired(relation, answers)


def flat(repairs):
    """The repaired relation as one table keyed by its first column."""
    rows = repairs.relation
    columns = tuple(TableColumn(c.name, c.name, column_type(c), c.blanks > 0, c.name) for c in rows.columns)
    return Table("apiary", columns, (("apiary_no",),), (), Form.BOYCE_CODD, rows)


def test_a_list_and_a_family_of_two_facts(repairs):
    apiary, forage, contact = with_children([flat(repairs)], repairs.bundles)
    assert apiary.column_names == ("apiary_no",)
    assert forage.primary_key == ("apiary_no", "forage")
    assert forage.rows.rows()[:3] == [("A1", "1", "lime"), ("A1", "2", "heather"), ("A2", "1", "heather")]
    assert contact.primary_key == ("apiary_no", "position")
    assert [column.name for column in contact.columns] == ["apiary_no", "position", "name", "phone"]
    assert contact.rows.rows() == [
        ("A1", "1", "Ada", "041"), ("A1", "2", "Milo", "042"), ("A2", "1", "Nora", ""), ("A4", "1", "Ada", "041"),
        ("A4", "2", "", "043"), ("A5", "1", "Milo", ""), ("A5", "2", "Ada", "041"), ("A6", "1", "Karl", "044"),
    ]  # fmt: skip
    assert {column.name: column.source for column in contact.columns} == {
        "apiary_no": "apiary_no", "position": None, "name": "contact1_name", "phone": "contact1_phone",
    }  # fmt: skip
    assert contact.made_from.sources == tuple(NAMES[2:])
    assert broken_children([flat(repairs)], [apiary, forage, contact], repairs.bundles) == ()


def test_a_changed_item_is_noticed(repairs):
    tables = list(with_children([flat(repairs)], repairs.bundles))
    rows = [list(row) for row in tables[1].rows.rows()]
    rows[3][2] = "clover"
    tables[1] = replace(tables[1], rows=Relation.from_rows(tables[1].column_names, rows))
    assert broken_children([flat(repairs)], tables, repairs.bundles) == (("apiary", 5),)


def test_the_whole_design_gives_every_cell_back(repairs):
    judgement = judge(repairs.relation, discover(repairs.relation), opaque=repairs.opaque)
    design = designed(repairs, judgement)
    assert design.proof.holds
    assert design.row_key == ("apiary_no",)
    assert {table.name for table in design.tables} == {"apiary", "apiary_forage", "apiary_contact"}
