"""A code that only some things have, one to one: it leads to what describes it, and never back to the thing."""

from random import Random

import pytest
from schemas import FAMILIES, case

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.evidence import fits_a_key
from pravix.judgement.judge import judge
from pravix.judgement.weights import WEIGHED_TO
from pravix.ledger.said import NOTHING_SAID, Said
from pravix.relation.relation import Relation

HEADER = ["drum_no", "keeper_no", "licence", "licence_year", "keeper", "kg"]


def deliveries():
    """Two hundred drums of twenty keepers, one of whom has no licence."""
    keepers = [
        [f"K-{n:02d}", *(["", ""] if n == 3 else [f"L{n * 37 % 90 + 10}", f"{2020 + n % 4}"]), f"Ada {n}"]
        for n in range(20)
    ]
    return Relation.from_rows(
        HEADER, [[f"D-{n:03d}", *keepers[n % 20], f"{n * 7 % 31}.5"] for n in range(200)]
    )


def tables_of(relation, said=NOTHING_SAID):
    judgement = judge(relation, discover(relation, largest=WEIGHED_TO), said=said)
    assert [str(rule) for rule in judgement.trusted if not fits_a_key(relation, rule)] == []
    design = designed(repaired(relation, []), judgement)
    assert design.proof.holds
    return {table.keys[0]: table.rows.row_count for table in design.tables}


@pytest.mark.parametrize("said", [NOTHING_SAID, Said(refer_by=(frozenset({"licence"}),))])
def test_the_keeper_without_a_licence_is_not_lost(said):
    assert tables_of(deliveries(), said) == {("licence",): 19, ("keeper_no",): 20, ("drum_no",): 200}


def with_optional_codes(seed):
    """A made-up table, with one or two codes more that some of the values of another column have."""
    draw = Random(seed)
    made = case(draw.choice(FAMILIES), seed)
    header, rows = list(made.header), [list(row) for row in made.rows]
    for code in draw.sample(["licence_no", "permit", "mark code"], draw.randint(1, 2)):
        place = draw.randrange(len(made.header))
        values = sorted({row[place] for row in rows})
        without = set(draw.sample(values, max(1, len(values) // draw.choice([4, 10, 40]))))
        told = {
            value: ["", ""] if value in without else [f"{code[0]}{n * 37 % 97 + 100 + n}", f"{2000 + n % 9}"]
            for n, value in enumerate(values)
        }
        header += [code, f"{code} year"]
        rows = [[*row, *told[row[place]]] for row in rows]
    return Relation.from_rows(header, rows)


def test_every_row_of_made_up_tables_comes_back():
    for seed in range(44, 64):
        tables_of(with_optional_codes(seed))
