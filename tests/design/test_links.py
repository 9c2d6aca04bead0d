"""Links in words: the counts are those of the rows."""

from pathlib import Path

from honey import rules

import pravix.demo
from pravix.design.build import designed
from pravix.design.links import found_cardinality, link_told
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation
from pravix.sources.read import read_source


def design_of(relation, accepted=()):
    return designed(Repaired(relation, relation), judge(relation, discover(relation, largest=3), accepted))


def test_every_link_of_the_demo_is_counted_right():
    design = design_of(read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation)
    linked = [(table, link) for table in design.tables for link in table.foreign_keys]
    assert len(linked) == 8
    for table, link in linked:
        other = design.table(link.table)
        referring = table.rows.project(link.columns).rows()
        counts = [referring.count(row) for row in other.rows.project(link.references).rows()]
        found = found_cardinality(table, link, other)
        assert (found.least, found.most, found.blank) == (min(counts), max(counts), 0)
        assert abs(found.mean - sum(counts) / len(counts)) < 1e-9
        told = link_told(table, link, design.tables)
        assert told.startswith(f"a row of {table.name} refers to exactly one row of {other.name}")
        assert (f" as {link.role};" in told) == bool(link.role)


def test_an_optional_link_says_how_many_rows_refer_to_none():
    keepers = [("K-1", "Ada"), ("K-2", "Milo"), ("K-3", "Nora"), ("", "")]
    rows = [[str(50 + place), *keepers[place * 3 % 4], str(place % 7)] for place in range(60)]
    design = design_of(Relation.from_rows(["line_no", "keeper_no", "keeper_name", "crates"], rows))
    ((table, link),) = [(table, link) for table in design.tables for link in table.foreign_keys]
    told = link_told(table, link, design.tables)
    assert told == (
        "a row of line refers to no or one row of keeper (15 rows to none); "
        "a row of keeper is referred to by 15 rows of line"
    )


def test_both_ends_of_a_link_have_one_type():
    depots = {"7": "Kelder", "8": "Inver", "X9": "Garrick"}
    rows = [
        [str(400 + place), here, depots[here], there, depots[there], str(place * 5 % 17)]
        for place in range(60)
        for here in ["78"[place % 2]]
        for there in [["7", "8", "X9"][place % 3]]
    ]
    names = ["trip_no", "from_depot_no", "from_town", "to_depot_no", "to_town", "crates"]
    design = design_of(
        Relation.from_rows(names, rows),
        rules("from_depot_no -> from_town", "to_depot_no -> to_town", "trip_no -> crates"),
    )
    depot = design.table("depot")
    assert len(depot.roles) == 2
    for table in design.tables:
        types = {column.name: column.type for column in table.columns}
        for link in table.foreign_keys:
            there = {column.name: column.type for column in design.table(link.table).columns}
            assert [types[name] for name in link.columns] == [there[name] for name in link.references]
    (kind,) = {column.type.kind.value for column in depot.columns if column.name == "depot_no"}
    assert kind != "integer"
