"""Every sentence of the story of the demo, recomputed from the flat rows."""

import re
from pathlib import Path

import pytest

import pravix.demo
from pravix.design.build import designed
from pravix.design.costs import costs_of
from pravix.design.telling import proof_lines, repairs_told, repeated, roles_told, values_told, why
from pravix.discovery.search import discover
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.sources.read import read_source
from pravix.theory.normal_forms import Breach

HERE = Path(pravix.demo.__file__)
ANSWERS = [
    Answer("list: forage", "split"),
    Answer("family: moisture_1, moisture_2, moisture_3", "split"),
    Answer("one fact: raw, filtered", "merge", "treatment"),
    Answer("computed: net_kg", "leave out"),
    Answer("computed: amount", "leave out"),
]


def story(name, answers=()):
    mended = repaired(read_source(str(HERE.with_name(name))).relation, answers)
    judgement = judge(mended.relation, discover(mended.relation, largest=3), opaque=mended.opaque)
    return designed(mended, judgement)


@pytest.fixture(scope="module")
def demo():
    return story("deliveries.csv")


def rows_of(design):
    numbers = design.relation.row_numbers.tolist()
    names = design.relation.names
    rows = [dict(zip(names, row, strict=True)) for row in design.relation.rows()]
    return dict(zip(numbers, rows, strict=True))


def test_what_each_step_says_of_its_rule_is_true(demo):
    rows = list(rows_of(demo).values())
    for step in demo.steps:
        told = why(step, demo.row_key)
        facts = {}
        for row in rows:
            left = tuple(row[name] for name in step.determinant)
            facts.setdefault(left, set()).add(tuple(row[name] for name in step.moved))
        assert all(len(found) == 1 for found in facts.values()), "the rule holds"
        assert told.startswith(" and ".join(step.moved) if len(step.moved) == 2 else step.moved[0])
        if set(step.determinant) < set(demo.row_key):
            assert step.breach is Breach.PARTIAL
            assert "alone, a part of the key (delivery_no, drum_no): a partial dependency" in told
        else:
            assert step.breach is Breach.TRANSITIVE
            assert f"which is no key of {step.from_table}: a transitive dependency, which breaks 3NF" in told
            source = demo.table(step.from_table)
            assert set(step.determinant) <= set(source.column_names)
            assert not any(set(key) <= set(step.determinant) for key in source.keys)


def test_what_each_step_counts_is_true(demo):
    rows = rows_of(demo)
    for step in demo.steps:
        told = repeated(step)
        times, first, second = map(
            int, re.search(r"comes (\d+) times \(rows (\d+), (\d+), \.\.\.\)", told).groups()
        )
        left = [tuple(row[name] for name in step.determinant) for row in rows.values()]
        value = tuple(rows[first][name] for name in step.determinant)
        assert left.count(value) == times == max(map(left.count, set(left)))
        assert tuple(rows[second][name] for name in step.determinant) == value
        for name, cell in zip(step.determinant, value, strict=True):
            assert f"{name} {cell}" in told
        for name in step.moved[:3]:
            assert f"{name} {rows[first][name]}" in told
        before, now = map(int, re.search(r"Stated (\d+) times in the file, (\d+) times now", told).groups())
        assert before == len(left)
        assert now == len(set(left))
        assert step.cells_saved == (before - now) * len(step.moved)


def test_what_the_account_says_is_true(demo):
    account = costs_of(demo)
    assert account.cells_before == 420 * 23
    assert account.cells_after == sum(table.rows.row_count * len(table.column_names) for table in demo.tables)
    assert account.joins == 8
    assert sum(one.saves for one in account.tables) == sum(step.cells_saved for step in demo.steps)


def test_what_roles_values_and_proof_say_is_true(demo):
    rows = list(rows_of(demo).values())
    depots = {row["from_depot"] for row in rows} | {row["to_depot"] for row in rows}
    assert roles_told(demo) == [
        "from_depot and to_depot stand for the same kind of thing: one table depot "
        f"({len(depots)} rows) serves the roles from and to."
    ]
    drums = {row["drum_no"]: row["treatment"] for row in rows}
    assert values_told(demo) == [f"drum: treatment is filtered or raw ({len(drums)} rows)"]
    assert set(drums.values()) == {"filtered", "raw"}
    told = [text for holds, text in proof_lines(demo) if holds]
    assert told[0] == f"The {len(demo.tables)} tables join back to exactly the {len(rows)} rows as read."
    assert told[1] == f"Each of the {len(demo.cover)} rules can be checked within one table."
    assert (
        told[3] == f"Every reference finds its row ({sum(len(t.foreign_keys) for t in demo.tables)} links)."
    )


def test_what_the_repairs_say_is_true():
    design = story("deliveries_rough.csv", ANSWERS)
    told = {repair.columns: repair.told for repair in repairs_told(design)}
    original = design.repaired.original
    flat = [dict(zip(original.names, row, strict=True)) for row in original.rows()]
    plants = {(row["apiary_no"], plant) for row in flat for plant in row["forage"].split("; ") if plant}
    assert f"an item is a row of apiary_forage now, {len(plants)} rows." in told[("forage",)]
    tests = {(row["drum_no"], n) for row in flat for n in "123" if row[f"moisture_{n}"]}
    moisture = told[("moisture_1", "moisture_2", "moisture_3")]
    assert f"a filled position is a row of drum_moisture now, {len(tests)} rows." in moisture
    assert told[("raw", "filtered")] == "raw and filtered are one fact: treatment says which of them is true."
    assert all((row["raw"] == "yes") != (row["filtered"] == "yes") for row in flat)
    assert told[("net_kg",)].startswith("net_kg is gross_kg - tare_kg in every row")
    assert all(abs(float(r["gross_kg"]) - float(r["tare_kg"]) - float(r["net_kg"])) < 1e-6 for r in flat)
    assert told[("amount",)].startswith("amount is price_kg * net_kg in every row")
    children = {table.name for table in design.tables if table.made_from is not None}
    assert children == {"apiary_forage", "drum_moisture"}
    assert design.proof.holds
