"""Findings: each kind found where it is, with true numbers, and not invented where it is not."""

import random
from pathlib import Path

import pytest

import pravix.demo
from pravix.first_normal_form.ageing import AGEING
from pravix.first_normal_form.codes import CODES
from pravix.first_normal_form.compounds import COMPOUND
from pravix.first_normal_form.computed import COMPUTED, computed_columns
from pravix.first_normal_form.families import families
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.flags import ONE_FACT, one_facts
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.lists import list_column
from pravix.first_normal_form.saying_nothing import SAYS_NOTHING
from pravix.first_normal_form.spellings import rows_of, variants
from pravix.relation.relation import Column, Relation
from pravix.sources.read import read_source

DRAW = random.Random(7)
PLANTS = ["heather", "lime", "clover", "rape", "sage"]


def columns(**texts):
    size = max(map(len, texts.values()))
    found = tuple(Column.from_texts(name, (cells * size)[:size]) for name, cells in texts.items())
    return Relation.from_rows([c.name for c in found], list(zip(*(c.texts() for c in found), strict=True)))


@pytest.mark.parametrize("mark", ["; ", ", ", "|", " / ", "\n", " + "])
def test_lists_are_found_with_their_separator(mark):
    cells = [mark.join(DRAW.sample(PLANTS, DRAW.randrange(1, 4))) for _ in range(30)]
    found = list_column(Column.from_texts("forage", cells))
    assert found is not None
    assert found.separator == mark
    assert {item for cell in cells for item in found.items(cell)} <= set(PLANTS)
    assert all(found.evened(cell) == cell for cell in cells)


@pytest.mark.parametrize(
    "cells",
    [
        [f"{family}, {given}" for family in ("Holm", "Dorn", "Lund") for given in ("Ada", "Milo", "Nora")],
        [f"{number} Mill Lane, {town}" for number in range(9) for town in ("Inver", "Kelder")],
        ["Crushed, then filtered", "Weak, and late", "Held in store"],
        ["2026/05/04", "2026/05/05", "2026/06/04", "2026/06/05"],
        ["A/12", "B/12", "A/7", "B/9", "A/9"],
        ["1,5", "2,5", "1,7", "5,1"],
        ["fair", "see report", "good"],
    ],
)
def test_names_addresses_dates_and_sentences_are_no_lists(cells):
    assert list_column(Column.from_texts("any", cells * 3)) is None


def family_names(*names):
    relation = Relation.from_rows(
        ["keeper_no", "keeper", "village", *names], [["1", "Ada", "Inver", *(["5"] * len(names))]]
    )
    return [(family.stem, family.positions, family.facts) for family in families(relation)]


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        (["contact_1", "contact_2"], ("contact", (1, 2), ("contact",))),
        (["email", "email2"], ("email", (1, 2), ("email",))),
        (["Q1", "Q2", "Q3"], ("Q", (1, 2, 3), ("Q",))),
        (["moisture (1)", "moisture (2)"], ("moisture", (1, 2), ("moisture",))),
        (["Phone No 1", "Phone No 2"], ("Phone No", (1, 2), ("Phone No",))),
        (["contact1_name", "contact1_phone", "contact2_name", "contact2_phone"], ("contact", (1, 2), ("contact_name", "contact_phone"))),
        (["Part 1", "Qty 1", "Part 2", "Qty 2"], ("Part", (1, 2), ("Part", "Qty"))),
        (["part_no_1", "part_name_1", "part_no_2", "part_name_2"], ("part", (1, 2), ("part_no", "part_name"))),
        (["yield_2024", "yield_2025"], ("yield", (2024, 2025), ("yield",))),
    ],
)  # fmt: skip
def test_numbered_families_in_any_style(names, expected):
    assert family_names(*names) == [expected]


@pytest.mark.parametrize(
    "names", [["kcal_100"], ["line1", "address7"], ["email3", "email9"], ["kg", "kg_net"]]
)
def test_single_numbers_are_no_family(names):
    assert family_names(*names) == []


def test_columns_that_are_only_numbered_are_no_family():
    relation = Relation.from_rows(["c1", "c2", "c3"], [["1", "Ada", "2026-05-04"]])
    assert families(relation) == []


def test_one_fact_over_yes_no_columns():
    kinds = [DRAW.randrange(3) for _ in range(60)]
    cells = {
        name: ["yes" if kind == place else "no" for kind in kinds]
        for place, name in enumerate(["raw", "filtered", "comb"])
    }
    relation = columns(line=[str(n) for n in range(60)], **cells)
    (fact,) = one_facts(relation)
    assert (fact.columns, fact.always, fact.several) == (("raw", "filtered", "comb"), True, ())
    cells["raw"][7], cells["comb"][7] = "yes", "yes"
    (fact,) = one_facts(columns(line=[str(n) for n in range(60)], **cells))
    assert fact.several == (7,)
    finding = next(f for f in findings(columns(line=["x"], **cells)) if f.topic is ONE_FACT)
    assert finding.rows == (9,)
    assert finding.answers == ("keep",)


def test_independent_yes_no_columns_are_no_single_fact():
    cells = {name: [DRAW.choice(["yes", "no"]) for _ in range(80)] for name in ("organic", "sealed")}
    assert one_facts(columns(**cells)) == []
    rare = {
        name: ["x" if n % 40 == place else "" for n in range(80)]
        for place, name in enumerate(["late", "wet"])
    }
    assert one_facts(columns(line=["1"], **rare)) == []


def numbers(count=60):
    gross = [round(DRAW.uniform(20, 300), 1) for _ in range(count)]
    tare = [DRAW.choice([17.5, 18.0, 21.0]) for _ in range(count)]
    price = [DRAW.choice([9.4, 11.85, 14.2]) for _ in range(count)]
    return gross, tare, price


def test_sums_differences_products_and_quotients_with_their_rounding():
    gross, tare, price = numbers()
    net = [f"{a - b:.1f}" for a, b in zip(gross, tare, strict=True)]
    relation = columns(
        gross=[f"{a:.1f}" for a in gross],
        tare=[f"{b:.1f}" for b in tare],
        price=[f"{c:.2f}" for c in price],
        net=net,
        share=[f"{100 * b / a:.1f}" for a, b in zip(gross, tare, strict=True)],
    )
    found = {computed.formula.column: str(computed.formula) for computed in computed_columns(relation)}
    assert found == {"net": "gross - tare", "share": "100 * tare / gross"}
    for computed in computed_columns(relation):
        assert computed.formula.texts(relation) == relation.column(computed.formula.column).texts()


def test_a_sum_of_several_columns_and_an_age_between_dates():
    parts = {name: [str(DRAW.randrange(10, 99)) for _ in range(40)] for name in ("comb", "frame", "drum_a")}
    total = [str(sum(map(int, cells))) for cells in zip(*parts.values(), strict=True)]
    born = [f"{1950 + n}-0{n % 9 + 1}-15" for n in range(40)]
    age = [str(2026 - int(day[:4]) - (day[5:] > "05-04")) for day in born]
    relation = columns(**parts, total=total, born=born, written=["2026-05-04"], age=age)
    found = {computed.formula.column: str(computed.formula) for computed in computed_columns(relation)}
    assert found == {"total": "comb + frame + drum_a", "age": "whole years from born to written"}
    for computed in computed_columns(relation):
        assert computed.formula.texts(relation) == relation.column(computed.formula.column).texts()


def test_rows_that_disagree_with_a_computation_are_named():
    gross, tare, _ = numbers()
    net = [f"{a - b:.1f}" for a, b in zip(gross, tare, strict=True)]
    net[12] = "1.0"
    relation = columns(gross=[f"{a:.1f}" for a in gross], tare=[f"{b:.1f}" for b in tare], net=net)
    (computed,) = computed_columns(relation)
    assert computed.disagreeing == (12,)
    finding = next(finding for finding in findings(relation) if finding.topic is COMPUTED)
    assert finding.rows == (14,)
    assert "row 14 has 1.0 where" in finding.told
    assert finding.answers == ("keep",)


def test_parts_and_joins_of_texts():
    codes = [f"{site}-{number}" for number, site in enumerate(["HEA", "MIL", "QUA", "POND"] * 8, 100)]
    days = [f"2026-{month:02}-04" for month in range(1, 13)] * 3
    relation = columns(
        code=codes, number=[code[-3:] for code in codes], day=days[:32], month=[day[5:7] for day in days[:32]]
    )
    found = {str(computed.formula) for computed in computed_columns(relation)}
    assert "characters 6 to 7 of day" in found
    joined = columns(
        site=[code[:3] for code in codes],
        number=[code[-3:] for code in codes],
        both=[f"{code[:3]}/{code[-3:]}" for code in codes],
    )
    assert "site and number with '/' between" in {
        str(computed.formula) for computed in computed_columns(joined)
    }


def test_random_numbers_are_not_computed():
    relation = columns(**{name: [str(DRAW.randrange(1, 50)) for _ in range(100)] for name in "abcdef"})
    assert computed_columns(relation) == []


def test_a_formula_is_blank_where_its_columns_are():
    formula = Formula(column="net", operation="-", columns=("gross", "tare"), scale=1)
    assert formula.cell(["20.0", ""]) == ""
    assert formula.cell(["20.25", "0.1"]) == "20.2"
    assert Formula(column="q", operation="/", columns=("a", "b"), scale=2).cell(["1", "0"]) == ""


def test_values_typed_several_ways():
    cells = (
        ["Hazelbank"] * 30
        + ["hazelbank"] * 2
        + ["Hazel bank", "Hazlebank"]
        + ["Köhlerhof"] * 20
        + ["Kohlerhof"]
    )
    keepers = ["K1"] * 34 + ["K2"] * 21
    relation = columns(keeper_no=keepers, village=cells)
    found = {(variant.now, variant.instead) for variant in variants(relation)}
    assert found == {
        ("hazelbank", "Hazelbank"), ("Hazel bank", "Hazelbank"), ("Hazlebank", "Hazelbank"), ("Kohlerhof", "Köhlerhof"),
    }  # fmt: skip
    wrong = next(variant for variant in variants(relation) if variant.now == "Hazlebank")
    assert rows_of(relation, wrong) == [35]


def test_different_things_with_like_names_are_left_alone():
    cells = (
        ["Store A"] * 30
        + ["Store B"] * 2
        + ["Depot 12"] * 20
        + ["Depot 13"]
        + ["Thornwick"] * 9
        + ["Thornley"]
    )
    assert variants(columns(place=cells, no=[str(n) for n in range(len(cells))])) == []


def topics(relation):
    return {(finding.topic, finding.columns[0]) for finding in findings(relation)}


def test_compound_values_codes_ages_and_columns_that_say_nothing():
    keepers = [f"{given} {family}" for given in ("Ada", "Milo") for family in ("Holm", "Dorn", "Lund")]
    relation = columns(
        line=[str(n) for n in range(1, 61)],
        keeper=keepers,
        honey=[f"{given} {family}" for given in ("White", "Red") for family in ("Clover", "Heather", "Sage")],
        weight=[f"{n} kg" for n in range(20, 50)],
        street=[f"{name} Lane {n}" for n in range(1, 9) for name in ("Mill", "Quarry")],
        state=["0", "1", "2", "9"],
        age=["34", "51", "47"],
        season=["2026"],
        remark=[""],
    )
    found = topics(relation)
    assert {
        (SAYS_NOTHING, "line"), (COMPOUND, "keeper"), (COMPOUND, "weight"), (COMPOUND, "street"),
        (CODES, "state"), (AGEING, "age"), (SAYS_NOTHING, "season"), (SAYS_NOTHING, "remark"),
    } <= found  # fmt: skip
    assert (COMPOUND, "honey") not in found


def test_the_rough_demo_each_planted_thing_is_found_and_nothing_else():
    path = Path(pravix.demo.__file__).with_name("deliveries_rough.csv")
    relation = read_source(str(path)).relation
    found = findings(relation)
    assert [finding.id for finding in found] == [
        "list: forage",
        "family: moisture_1, moisture_2, moisture_3",
        "one fact: raw, filtered",
        "computed: net_kg",
        "computed: amount",
        "spelling: from_town",
        "spelling: honey",
        "spelling: village",
        "spelling: district",
        "compound: driver",
        "compound: keeper",
    ]
    planted = {
        ("Hazlebank", "Hazelbank"), ("Marow Hill", "Marrow Hill"), ("Lime blosom", "Lime blossom"),
        ("white clover", "White clover"), ("Garick", "Garrick"), ("Lower  Vale", "Lower Vale"),
    }  # fmt: skip
    assert {(variant.now, variant.instead) for variant in variants(relation)} == planted
