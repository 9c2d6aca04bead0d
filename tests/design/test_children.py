"""Child tables: what they hold, and that a changed cell in one is noticed."""

from dataclasses import replace

import pytest

from pravix.design.build import designed
from pravix.design.children import broken_children
from pravix.discovery.search import discover
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repairing import repaired
from pravix.first_normal_form.translating import translated
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies
from pravix.theory.normal_forms import Breach

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


def made(repairs):
    judgement = judge(repairs.relation, discover(repairs.relation), opaque=repairs.opaque)
    return designed(repairs, judgement)


def test_a_list_and_a_family_of_two_facts(repairs):
    design = made(repairs)
    apiary, forage, contact = (design.table(f"apiary{end}") for end in ("", "_forage", "_contact"))
    assert apiary.column_names == ("apiary_no",)
    assert forage.primary_key == ("apiary_no", "forage")
    assert forage.rows.rows()[:3] == [("A1", "1", "lime"), ("A1", "2", "heather"), ("A2", "1", "heather")]
    assert contact.primary_key == ("apiary_no", "position")
    columns = ["apiary_no", "position", "contact_name", "contact_phone"]
    assert [column.name for column in contact.columns] == columns
    assert contact.rows.rows() == [
        ("A1", "1", "Ada", "041"), ("A1", "2", "Milo", "042"), ("A2", "1", "Nora", ""), ("A4", "1", "Ada", "041"),
        ("A4", "2", "", "043"), ("A5", "1", "Milo", ""), ("A5", "2", "Ada", "041"), ("A6", "1", "Karl", "044"),
    ]  # fmt: skip
    sources = ["apiary_no", None, "contact1_name", "contact1_phone"]
    assert [column.source for column in contact.columns] == sources
    assert contact.made_from.sources == tuple(NAMES[2:])


def test_a_changed_item_is_noticed(repairs):
    design, bundle = made(repairs), repairs.bundles[0]
    home = replace(design.table("apiary"), rows=repairs.relation, keys=(("apiary_no",),))
    rows = design.table("apiary_forage").rows.rows()
    assert broken_children(home, rows, bundle) == ()
    rows[3] = (*rows[3][:2], "clover")
    assert broken_children(home, rows, bundle) == (5,)


PARTS = ["job", "part1_no", "part1_name", "part1_price", "part2_no", "part2_name", "part2_price"]


def jobs(count=60):
    """Jobs with up to two parts each: a part has one name and one price, wherever it is used."""
    stock = [(f"P{100 + n}", "valve"[: n + 1] * (n + 1), f"{3 * n + 1}.50") for n in range(9)]
    rows = []
    for number in range(count):
        one, other = stock[number % 9], stock[(number * 5 + 3) % 9]
        rows.append([f"J{number}", *one, *(other if number % 3 and one != other else ("", "", ""))])
    return Relation.from_rows(PARTS, rows)


def split(relation):
    (finding,) = findings(relation, topics=["family"])
    return repaired(relation, [Answer(finding.id, "split")])


def test_what_fixes_facts_of_a_part_gets_a_table():
    design = made(split(jobs()))
    part, child = design.table("part"), design.table("job_part")
    assert (part.primary_key, part.described) == (("part_no",), ("part_name", "part_price"))
    assert child.column_names == ("job", "position", "part_no")
    assert {link.table: link.columns for link in child.foreign_keys} == {
        "job": ("job",),
        "part": ("part_no",),
    }
    step = next(step for step in design.steps if step.to_table == "part")
    assert (step.from_table, step.breach) == ("job_part", Breach.TRANSITIVE)
    assert step.stored_before == child.rows.row_count > part.rows.row_count == step.stored_now
    assert design.proof.holds
    assert design.home("part_price") is part


def test_a_fact_of_a_part_that_contradicts_itself_stays_with_the_part():
    relation = jobs()
    rows = [list(row) for row in relation.rows()]
    for number in (0, 9, 18, 27):
        rows[number][3] = f"{number + 40}.00"
    design = made(split(Relation.from_rows(PARTS, rows)))
    assert "part_price" in design.table("job_part").column_names
    assert design.proof.holds


def test_what_is_told_of_members_is_told_of_parts():
    mended = split(jobs())
    told = parse_dependencies("part2_no -> part2_name, part2_price") + parse_dependencies("job -> part1_no")
    rules = [str(rule) for rule in translated(told, mended)]
    assert rules == ["part_no -> part_name", "part_no -> part_price", "job -> part"]


def test_the_whole_design_gives_every_cell_back(repairs):
    judgement = judge(repairs.relation, discover(repairs.relation), opaque=repairs.opaque)
    design = designed(repairs, judgement)
    assert design.proof.holds
    assert design.row_key == ("apiary_no",)
    assert {table.name for table in design.tables} == {"apiary", "apiary_forage", "apiary_contact"}
