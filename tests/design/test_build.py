"""Designs: what tables come out, and that they hold for any table and any rules that it obeys."""

import random
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import holds, tables

import pravix.demo
from pravix.design.build import designed
from pravix.design.naming import table_names
from pravix.design.telling import proof_lines
from pravix.design.whereabouts import whereabouts
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.evidence import fits_a_key
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.theory.dependency import Dependency, parse_dependencies


def rules(*texts):
    return [rule for text in texts for rule in parse_dependencies(text)]


def design_of(relation, accepted=(), rejected=()):
    judgement = judge(relation, discover(relation), rules(*accepted), rules(*rejected))
    return designed(Repaired(relation, relation), judgement), judgement


def schemes(design):
    return {(table.primary_key, table.described) for table in design.tables}


@pytest.fixture(scope="module")
def demo():
    path = Path(pravix.demo.__file__).with_name("deliveries.csv")
    return design_of(read_source(str(path)).relation)


def test_the_demo_is_the_design_it_was_made_from(demo):
    design, _ = demo
    assert schemes(design) == {
        (("depot",), ("town",)),
        (("honey_code",), ("honey", "price_kg")),
        (("village",), ("district",)),
        (("keeper_no",), ("keeper", "phone", "village")),
        (("apiary_no",), ("apiary", "keeper_no")),
        (("drum_no",), ("honey_code", "treatment", "tare_kg", "apiary_no")),
        (("delivery_no",), ("delivered_on", "driver", "from_depot", "to_depot")),
        (("delivery_no", "drum_no"), ("gross_kg", "net_kg", "amount")),
    }
    assert design.main == "delivery_drum"
    assert design.proof.holds
    assert all(holds for holds, _ in proof_lines(design))


def test_tables_stand_after_those_they_refer_to(demo):
    seen = set()
    for table in demo[0].tables:
        assert {link.table for link in table.foreign_keys} <= seen
        seen.add(table.name)


def test_every_number_and_row_of_every_step_is_that_of_the_file(demo):
    design, _ = demo
    relation = design.relation
    by_number = dict(zip(relation.row_numbers.tolist(), relation.rows(), strict=True))
    place = {name: number for number, name in enumerate(relation.names)}
    assert [step.breach.value for step in design.steps] == ["partial"] * 2 + ["transitive"] * 6
    for step in design.steps:
        keys = [tuple(row[place[name]] for name in step.determinant) for row in relation.rows()]
        stated = [key for key in keys if all(key)]
        assert step.stored_before == len(stated)
        assert step.stored_now == len(set(stated)) == design.table(step.to_table).rows.row_count
        assert step.cells_saved == (len(stated) - len(set(stated))) * len(step.moved)
        example = step.repetition
        assert example.times == max(map(stated.count, set(stated))) == stated.count(example.key)
        for number in example.rows:
            row = by_number[number]
            assert tuple(row[place[name]] for name in step.determinant) == example.key
            assert tuple(row[place[name]] for name in step.moved) == example.facts


def test_a_column_is_explained_by_a_chain_from_the_key_of_the_file(demo):
    design, judgement = demo
    found = whereabouts(design, judgement, "district")
    assert (found.home.name, found.also_in) == ("village", ())
    assert [link.rule.dependent for link in found.chain] == ["apiary_no", "keeper_no", "village", "district"]
    key = whereabouts(design, judgement, "keeper_no")
    assert (key.home.name, key.also_in) == ("keeper", ("apiary",))
    assert whereabouts(design, judgement, "drum_no").chain == ()
    assert whereabouts(design, judgement, "net_kg").home.name == "delivery_drum"


ORDERS = [
    ["1", "K-1", "Ada", "", ""],
    ["2", "K-2", "Milo", "D1", "Kelder"],
    ["3", "K-1", "Ada", "D1", "Kelder"],
    ["4", "K-2", "Milo", "", ""],
    ["5", "K-1", "Ada", "D2", "Inver"],
    ["6", "K-2", "Milo", "D2", "Inver"],
]
NAMES = ["line_no", "keeper_no", "keeper", "depot_no", "depot_town"]


def test_a_reference_may_be_blank():
    design, _ = design_of(Relation.from_rows(NAMES, ORDERS), ["depot_no -> depot_town"])
    line = design.table("line")
    assert {(link.table, link.cardinality.value) for link in line.foreign_keys} == {
        ("depot", "many to zero or one"),
        ("keeper", "many to one"),
    }
    assert design.table("depot").rows.rows() == [("D1", "Kelder"), ("D2", "Inver")]
    assert design.proof.holds


def test_a_rejected_rule_keeps_its_columns_together():
    design, _ = design_of(
        Relation.from_rows(NAMES, ORDERS), rejected=["keeper_no -> keeper", "keeper -> keeper_no"]
    )
    assert {"keeper_no", "keeper"} <= set(design.table("line").column_names)
    assert design.proof.holds


def test_rows_that_break_an_accepted_rule_are_named_and_the_proof_fails():
    rows = [*ORDERS, ["7", "K-1", "Adda", "D1", "Kelder"], ["8", "K-2", "Milo", "", "Garrick"]]
    relation = Relation.from_rows(NAMES, rows)
    design, _ = design_of(relation, ["keeper_no -> keeper", "depot_no -> depot_town"])
    assert not design.proof.holds
    assert design.proof.missing_rows == (8, 9)
    assert design.proof.lossless_by_chase
    assert (
        False,
        "The tables do not join back to the rows of the file: rows 8 and 9 would be lost.",
    ) in proof_lines(design)


def test_equal_rows_come_back_as_often_as_they_were():
    relation = Relation.from_rows(["keeper_no", "keeper"], [["K-1", "Ada"], ["K-2", "Milo"], ["K-1", "Ada"]])
    design, _ = design_of(relation)
    assert design.row_key == ("row_no",)
    assert {column.name: column.source for column in design.table(design.main).columns}["row_no"] is None
    assert design.proof.holds
    assert design.proof.rejoined_rows == 3


def test_a_column_called_like_the_added_one_is_left_alone():
    relation = Relation.from_rows(["row_no", "Row_No_2"], [["1", "a"], ["1", "a"]])
    design, _ = design_of(relation)
    assert design.row_key == ("row_no_3",)


def test_an_accepted_constant_gets_a_table_of_one_row():
    relation = Relation.from_rows(["line_no", "season"], [["1", "2026"], ["2", "2026"]])
    design, _ = design_of(relation, ["-> season"])
    assert schemes(design) == {((), ("season",)), (("line_no",), ())}
    assert design.proof.holds


@settings(max_examples=250)
@given(tables(most_columns=5, most_rows=10), st.data())
def test_any_design_is_lossless_preserving_and_in_third_normal_form(relation, data):
    found = discover(relation).dependencies
    possible = [rule for rule in found if fits_a_key(relation, rule)]
    accepted = data.draw(st.lists(st.sampled_from(possible), max_size=5)) if possible else []
    judgement = judge(relation, discover(relation), accepted)
    design = designed(Repaired(relation, relation), judgement)
    assert design.proof.holds, proof_lines(design)
    assert design.proof.rejoined_rows == relation.row_count
    for table in design.tables:
        for key in table.keys:
            assert all(holds(table.rows, Dependency(frozenset(key), name)) for name in table.column_names)
        primary = table.rows.project(table.primary_key).rows()
        assert len(set(primary)) == len(primary)
        assert all(all(row) for row in primary)


def test_a_false_rule_is_caught_by_the_proof():
    """The proof is no formality: tables made on a rule that the rows break do not pass."""
    draw = random.Random(4)
    rows = [[str(place), draw.choice("abc"), draw.choice("xyz")] for place in range(30)]
    relation = Relation.from_rows(["line_no", "grade", "shelf"], rows)
    design, _ = design_of(relation, ["grade -> shelf"])
    assert not design.proof.lossless
    assert 30 - len(design.proof.missing_rows) == design.proof.rejoined_rows


@pytest.mark.parametrize(
    ("keys", "header", "expected"),
    [
        ([["drum_no"], ["keeper_no"]], ["drum_no", "keeper_no"], ["drum", "keeper"]),
        ([["Loan No", "Object No"]], ["Loan No", "Object No"], ["Loan Object"]),
        ([["FromDepot"]], ["FromDepot", "SealedOn"], ["FromDepot"]),
        ([["ScaleSerial", "ReadOn"]], ["ScaleSerial", "ReadOn"], ["ScaleRead"]),
        ([["drum_no"], ["drum_id"]], ["drum_no", "drum_id"], ["drum", "drum_id"]),
        ([["drum"], ["Drum"], ["DRUM"]], ["drum", "Drum", "DRUM"], ["drum", "Drum_2", "DRUM_3"]),
        ([["№"]], ["№"], ["№"]),
    ],
)  # fmt: skip
def test_tables_are_named_after_what_identifies_their_rows(keys, header, expected):
    found = [one.name for one in table_names([tuple(key) for key in keys], header)]
    assert found == expected
    assert len({name.lower() for name in found}) == len(found)
