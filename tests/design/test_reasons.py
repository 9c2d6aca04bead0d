"""Why tables, keys and links are as they are: every number and row is recomputed from the flat table."""

import re
from pathlib import Path

import pytest

import pravix.demo
from pravix.design.build import designed
from pravix.design.excerpt import excerpt
from pravix.design.reasons import key_reasons, link_reasons, table_reasons, why_not
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.sources.read import read_source


@pytest.fixture(scope="module")
def demo():
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    judgement = judge(relation, discover(relation, largest=3))
    return designed(Repaired(relation, relation), judgement), judgement


def flat(design, *names):
    return list(zip(*(design.relation.column(name).texts() for name in names), strict=True))


def test_a_table_exists_for_a_rule_with_its_counts(demo):
    design, _ = demo
    told = table_reasons(design, design.table("keeper"))
    keepers = flat(design, "keeper_no")
    assert told[0] == (
        "keeper exists because keeper, phone and village are fixed by keeper_no: the file states this "
        f"{len(keepers)} times, the table {len(set(keepers))} times."
    )
    saved = (len(keepers) - len(set(keepers))) * 3
    assert (
        told[1]
        == f"It saves {saved:,} repeated cells and costs 1 join and {len(set(keepers)) * 4} cells of its own."
    )
    assert "one row for each row of the file" in table_reasons(design, design.table(design.main))[0]
    assert "costs 2 joins" in " ".join(table_reasons(design, design.table("depot")))


def test_a_key_is_chosen_and_the_others_stay_unique(demo):
    design, judgement = demo
    told = key_reasons(design.table("honey"), judgement.uses)
    assert told[0].startswith(
        "The primary key is honey_code: it differs in each of the 8 rows, never blank, short"
    )
    assert told[1].startswith("honey would identify a row as well")
    assert "kept unique" in told[1]
    assert key_reasons(design.table("drum"), judgement.uses)[1].startswith("No other columns")


def test_a_link_is_told_with_its_counts(demo):
    design, _ = demo
    apiary = design.table("apiary")
    (link,) = apiary.foreign_keys
    told = " ".join(link_reasons(design, apiary, link))
    owners = [keeper for _, keeper in set(flat(design, "apiary_no", "keeper_no"))]
    most = max(owners.count(keeper) for keeper in owners)
    assert f"referred to by up to {most} rows, so apiary is the many side" in told
    assert "cannot be deleted" in told


def test_why_a_column_is_not_elsewhere(demo):
    design, _ = demo
    told = " ".join(why_not(design, "phone", design.table("drum")))
    assert "only by way of keeper_no" in told
    assert f"stand in {len(set(flat(design, 'drum_no')))} rows" in told
    (several,) = why_not(design, "price_kg", design.table("delivery"))
    here, there = map(int, re.findall(r"row (\d+)", several))
    rows = dict(
        zip(design.relation.row_numbers.tolist(), flat(design, "delivery_no", "price_kg"), strict=True)
    )
    assert rows[here][0] == rows[there][0]
    assert rows[here][1] != rows[there][1]
    assert rows[here][1] in several
    assert why_not(design, "phone", design.table("keeper")) == ["phone does live in keeper."]
    assert "keeper reaches it" not in why_not(design, "village", design.table("drum"))[0]


def test_the_rows_before_and_after_a_step_are_those_of_the_file(demo):
    design, _ = demo
    numbers = design.relation.row_numbers.tolist()
    for step in design.steps:
        shown = excerpt(design.relation, step)
        rows = dict(zip(numbers, flat(design, *shown.columns), strict=True))
        assert 2 <= len(shown.before) <= 4
        for number, *cells in shown.before:
            assert rows[int(number)] == tuple(cells)
        assert set(shown.after) == {tuple(cells) for _, *cells in shown.before}
        assert len(shown.after) < len(shown.before)
