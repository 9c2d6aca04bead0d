"""Links among tables: known ones found, lucky ones not, and what is wrong with them."""

from pathlib import Path

import pytest
from linked_sets import FAMILIES, linked_set, score

import pravix.demo
from pravix.discovery.inclusions import Columns, Tables, inclusions
from pravix.judgement.link_remarks import link_remarks
from pravix.judgement.linking import linked
from pravix.relation.relation import Relation
from pravix.sources.read import read_source


@pytest.fixture(scope="module")
def registers():
    folder = Path(pravix.demo.__file__).parent
    return {
        name: read_source(str(folder / f"register_{name}.csv")).relation
        for name in ("keepers", "apiaries", "hives", "inspections")
    }


def ends(found):
    return {(str(link.inclusion.here), str(link.inclusion.there)) for link in found.links}


def test_the_registers_are_linked_and_nothing_else_is(registers):
    assert ends(linked(registers)) == {
        ("hives.apiary_no", "apiaries.apiary_no"),
        ("inspections.hive", "hives.hive_no"),
        ("apiaries.keeper", "keepers.no"),
        ("inspections.inspector", "keepers.no"),
    }


def test_orphans_are_named_with_their_rows(registers):
    found = linked(registers)
    remarks = link_remarks(registers, found)
    assert sorted(remark.text.rsplit(": ", 1)[1] for remark in remarks if remark.about == "orphans") == [
        "H999 (row 42)", "K-900 (row 9)",
    ]  # fmt: skip
    assert {remark.about for remark in remarks} == {"orphans"}


@pytest.mark.parametrize("family", FAMILIES)
def test_made_up_sets(family):
    """Two seeds of each family, planted lucky matches included; the benchmark has the measure."""
    for seed in (1, 2):
        made = linked_set(family, seed)
        hit, found, wanted, wrong = score(made.links, made.tables)
        assert hit == wanted, wrong
        assert found - hit <= 1, wrong


@pytest.mark.parametrize("count", [3, 40])
def test_inclusions_are_those_of_the_definition(count):
    here = Relation.from_rows(["a", "b"], [[f"x{n % 7}", str(n)] for n in range(count)])
    there = Relation.from_rows(["k", "m"], [[f"x{n}", str(n * 2)] for n in range(6)])
    tables = Tables({"here": here, "there": there})
    found = {
        (str(one.here), one.found, one.values, one.exact)
        for one in inclusions(tables, {"there": [("k",)]}, 0.5)
    }
    values = {f"x{n % 7}" for n in range(count)}
    known = {f"x{n}" for n in range(6)}
    assert ("here.a", len(values & known), len(values), values <= known) in found
    assert tables.values(Columns("here", ("a", "b"))) == set(here.rows())


def test_a_composite_key_is_referred_to_as_a_whole():
    rates = [
        [honey, size, str(3 + place)]
        for place, (honey, size) in enumerate(
            (h, s) for h in ("RAP", "CLO", "FIR", "LIM") for s in ("250", "500")
        )
    ]
    sales = [[str(n), *rates[n * 5 % 8][:2], str(n % 3)] for n in range(60)]
    tables = {
        "rates": Relation.from_rows(["honey_code", "size_g", "price"], rates),
        "sales": Relation.from_rows(["sale_no", "honey_code", "size_g", "jars"], sales),
    }
    assert ends(linked(tables)) == {("sales.honey_code, size_g", "rates.honey_code, size_g")}


def remarks(tables):
    return {(remark.about, remark.tables) for remark in link_remarks(tables, linked(tables))}


def test_mistakes_that_people_make_are_pointed_out():
    hives = [[f"H{n}", f"K{n % 6}", str(2020 + n % 5)] for n in range(30)]
    keepers = [[f"K{n}", f"name {n}", f"H{n}"] for n in range(6)]
    tables = {
        "hive": Relation.from_rows(["hive_no", "keeper_no", "year"], hives),
        "keeper": Relation.from_rows(["keeper_no", "name", "first_hive_no"], keepers),
        "old_hive": Relation.from_rows(
            ["hive_no", "keeper_no", "year"], [[f"O{n}", f"K{n % 6}", "2019"] for n in range(8)]
        ),
        "weather": Relation.from_rows(
            ["day", "rain"], [[f"2026-05-{n + 1:02d}", str(n % 4)] for n in range(20)]
        ),
    }
    found = remarks(tables)
    assert ("circle", ("hive", "keeper")) in found or ("circle", ("keeper", "hive")) in found
    assert ("same kind", ("hive", "old_hive")) in found
    assert ("unlinked", ("weather",)) in found


def test_types_and_names_that_differ_are_told():
    keepers = [[f"{n + 100}", f"village {n % 6}"] for n in range(12)]
    keepers[3][0] = "X103"
    apiaries = [
        [f"A{n}", keepers[n * 5 % 12][0] if n * 5 % 12 != 3 else "100", f"village {n % 6}"] for n in range(40)
    ]
    tables = {
        "keeper": Relation.from_rows(["keeper_no", "home"], keepers),
        "apiary": Relation.from_rows(["apiary_no", "keeper_no", "place"], apiaries),
    }
    found = remarks(tables)
    assert ("types", ("apiary", "keeper")) in found
    assert ("two names", ("keeper", "apiary")) in found
