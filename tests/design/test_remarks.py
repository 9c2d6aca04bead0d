"""What is still said of tables: BCNF, independent lists, weak and composite keys."""

from dataclasses import replace
from itertools import product

import pytest

from pravix.design.build import designed
from pravix.design.remarks import remarks_on
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies


def remarks(names, rows, *accepted):
    relation = Relation.from_rows(names, rows)
    rules = [rule for text in accepted for rule in parse_dependencies(text)]
    design = designed(Repaired(relation, relation), judge(relation, discover(relation), rules))
    return {remark.about: remark.text for remark in design.remarks}, design


def test_a_table_in_3nf_only_says_what_bcnf_would_cost():
    rows = [
        [hive, slot, f"{slot} team {1 + ord(hive) % 2}"] for hive, slot in product("ABCDEF", ["am", "pm"])
    ]
    told, design = remarks(["hive", "slot", "team"], rows, "hive, slot -> team", "team -> slot")
    assert design.table(design.main).form.value == "3NF"
    assert told["BCNF"] == (
        f"{design.main} is in 3NF, not in BCNF: team -> slot, and team is no key. slot stays repeated in 8 rows; "
        "split further, no single table could check hive, slot -> team any more."
    )


def test_two_independent_lists_in_one_table_are_pointed_out():
    tools = {"K1": ["smoker", "brush"], "K2": ["smoker", "fork"], "K3": ["brush", "fork", "veil"]}
    plants = {"K1": ["lime", "clover"], "K2": ["heather", "lime"], "K3": ["clover", "fir"]}
    rows = [[keeper, *pair] for keeper in tools for pair in product(tools[keeper], plants[keeper])]
    told, _ = remarks(["keeper_no", "tool", "plant"], rows)
    assert told["independent lists"].startswith(
        "in keeper_tool_plant every tool of one keeper_no stands beside every plant"
    )
    assert "for 3 keeper_no with several of both" in told["independent lists"]
    told, _ = remarks(["keeper_no", "tool", "plant"], rows[:-1])
    assert "independent lists" not in told


@pytest.mark.parametrize(("key", "warned"), [("0421 55{}", True), ("K-{}", False)])
def test_a_key_that_people_can_change_is_warned_of(key, warned):
    rows = [
        [str(900 + n), key.format(10 + n % 6), "ABCABC"[n % 6] + "bel", str(n * 7 % 41)] for n in range(60)
    ]
    told, design = remarks(["visit_no", "contact", "keeper", "crates"], rows, "contact -> keeper")
    assert len(design.tables) == 2
    found = told.get("weak key", "")
    assert (design.tables[0].primary_key == ("contact",) and "phone number" in found) == warned


@pytest.mark.parametrize(
    ("names", "wish"),
    [
        (["from_hive", "to_hive"], '--table-of "from_hive" --table-of "to_hive".'),
        (["source", "target"], '--table-of "source" --table-of "target" --same "source, target".'),
    ],
)
def test_a_relation_of_things_with_themselves_is_pointed_out(names, wish):
    hives = [f"H{n:02d}" for n in range(12)]
    rows = [
        [one, other, str(n * 7 % 5)] for n, (one, other) in enumerate(product(hives, hives)) if n * n % 13 < 9
    ]
    told, _ = remarks([*names, "bees"], rows)
    assert told["same things"].startswith(f"12 of the values of {names[0]} in ")
    assert told["same things"].endswith(wish)
    apart = [[one, f"K{other}", bees] for one, other, bees in rows]
    assert "same things" not in remarks([*names, "bees"], apart)[0]


@pytest.mark.parametrize(("columns", "told"), [(("field", "block"), True), (("sign",), False)])
def test_a_composite_key_is_remarked_where_others_refer_by_several_columns(columns, told):
    plots = [(f"K{n % 4}", "abc"[n % 3], f"S{n:02d}") for n in range(12)]
    rows = [[f"R{n}", *plots[n * 5 % 12], str(n * 7 % 11)] for n in range(60)]
    accepted = ["field, block -> sign", "sign -> field, block"]
    _, design = remarks(["reading_no", "field", "block", "sign", "value"], rows, *accepted)
    plot = next(table for table in design.tables if table.name != design.main)
    plot = replace(plot, keys=(("field", "block"), ("sign",)))
    reading = design.table(design.main)
    (link,) = reading.foreign_keys
    reading = replace(reading, foreign_keys=(replace(link, columns=columns, references=columns),))
    found = remarks_on([plot], [plot, reading], {}, design.cover)
    assert ("composite key" in [one.about for one in found]) is told
