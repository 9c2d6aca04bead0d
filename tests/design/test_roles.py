"""Things in several roles: one table, a reference for each role, and what keeps tables apart."""

import json

import pytest
from databases import sqlite_at

from pravix.databases.known import database as database_called
from pravix.design.build import designed
from pravix.design.telling import roles_told
from pravix.discovery.search import discover
from pravix.document.design_document import design_document
from pravix.document.design_file import json_text
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.relation.words import cut_words
from pravix.sql.schema import schema_statements


def design_of(header, rows, wishes=None):
    relation = Relation.from_rows(header, rows)
    judgement = judge(relation, discover(relation, largest=3))
    return designed(repaired(relation, (), "the ledger"), judgement, wishes or Wishes())


TOWNS = {"D1": ("Garrick", "North"), "D2": ("Inver", "South"), "D3": ("Kelder", "South"), "D4": ("Moss", "East"),
         "D5": ("Fern", "North")}  # fmt: skip


def trips(towns_to=TOWNS, header=("trip_no", "from_depot", "from_town", "to_depot", "to_town", "crates")):
    """Trips between depots; the towns of the depots of destination may be others."""
    rows = []
    for number in range(120):
        start, end = f"D{number * 7 % 5 + 1}", f"D{number * number % 4 + 1}"
        rows.append([str(700 + number), start, TOWNS[start][0], end, towns_to[end][0], str(number * 13 % 37)])
    return design_of(header, rows)


@pytest.mark.parametrize(
    "header",
    [
        ("trip_no", "from_depot", "from_town", "to_depot", "to_town", "crates"),
        ("TripNo", "FromDepot", "FromTown", "ToDepot", "ToTown", "Crates"),
        ("Trip No", "Depot From", "Town From", "Depot To", "Town To", "Crates"),
    ],
)
def test_two_roles_share_one_table(header):
    design = trips(header=header)
    (depot,) = [table for table in design.tables if table.roles]
    assert {name.lower() for name in depot.column_names} == {"depot", "town"}
    assert [role.name for role in depot.roles] == ["from", "to"]
    assert set(depot.flat_names) == set(header[1:5])
    (main,) = [table for table in design.tables if not table.roles]
    assert {(link.columns, link.role) for link in main.foreign_keys} == {
        ((header[1],), "from"),
        ((header[3],), "to"),
    }
    assert depot.rows.row_count == 5
    assert design.proof.holds
    assert design.home(header[4]) is depot
    assert f"one table {depot.name} (5 rows) serves the roles from and to" in roles_told(design)[0]


def test_the_contract_names_the_role_of_each_column_and_link():
    document = json.loads(json_text(design_document(trips())))
    depot = next(table for table in document["tables"] if "roles" in table)
    assert depot["roles"] == [
        {"role": "from", "columns": {"depot": "from_depot", "town": "from_town"}},
        {"role": "to", "columns": {"depot": "to_depot", "town": "to_town"}},
    ]
    assert [column["source"] for column in depot["columns"]] == ["from_depot", "from_town"]
    main = next(table for table in document["tables"] if "roles" not in table)
    assert [
        (link["columns"], link["references"]["columns"], link["role"]) for link in main["foreign_keys"]
    ] == [
        (["from_depot"], ["depot"], "from"),
        (["to_depot"], ["depot"], "to"),
    ]


def test_the_schema_with_roles_holds_the_rows():
    design = trips()
    database = sqlite_at(":memory:")
    for statement in schema_statements(design_document(design), database_called("sqlite")):
        database.execute(statement)
    for table in design.tables:
        marks = ", ".join("?" * len(table.columns))
        database.executemany(f'INSERT INTO "{table.name}" VALUES ({marks})', table.rows.rows())
    rows = database.execute(
        "SELECT trip_no, from_depot, a.town, to_depot, b.town, crates FROM trip"
        " JOIN depot a ON from_depot = a.depot JOIN depot b ON to_depot = b.depot"
    ).fetchall()
    assert sorted(tuple(map(str, row)) for row in rows) == sorted(design.relation.rows())


def test_tables_that_contradict_each_other_stay_apart_and_say_why():
    other = TOWNS | {"D2": ("Invers", "South")}
    design = trips(other)
    assert not any(table.roles for table in design.tables)
    (told,) = roles_told(design)
    assert "from_depot and to_depot are called alike, but stay two tables: D2 is Inver in row" in told
    assert "and Invers in row" in told
    (conflict,) = design.conflicts
    for row, column, town in zip(conflict.rows, ("from_town", "to_town"), ("Inver", "Invers"), strict=True):
        assert design.relation.column(column).text(row - 2) == town


def test_things_that_only_share_their_names_stay_apart():
    rows = [
        [
            str(number),
            f"D{number % 5}",
            f"the old {number % 5}",
            ["Ada", "Milo", "Nora"][number % 3],
            ["upper mill", "long field", "old bridge"][number % 3],
        ]
        for number in range(90)
    ]
    design = design_of(["trip_no", "from_post", "from_town", "to_post", "to_town"], rows)
    assert not any(table.roles for table in design.tables)
    assert "no value in common" in roles_told(design)[0]


def numbered(keeper, presser, wishes=None):
    """Deliveries whose keepers and pressers are told by number, name and village."""
    rows = []
    for number in range(200):
        here, there = number * 7 % 11, number * number % 9
        told = [keeper(here), f"Ada {here}", f"Inver {here % 4}", *presser(there)]
        rows.append([str(700 + number), *told, str(number * 13 % 37)])
    facts = ["no", "name", "village"]
    header = ["delivery_no", *(f"{role}_{fact}" for role in ("keeper", "presser") for fact in facts)]
    return design_of([*header, "crates"], rows, wishes)


def test_keys_that_share_nothing_but_no_are_two_kinds_unless_they_have_values_in_common():
    apart = numbered("K-{:03}".format, lambda n: [f"P-{n:03}", f"Milo {n}", f"Kelder {n % 3}"])
    assert not any(table.roles for table in apart.tables)
    assert not apart.doubts
    assert not apart.conflicts
    alike = numbered("K-{:03}".format, lambda n: [f"K-{n + 400:03}", f"Milo {n}", f"Kelder {n % 3}"])
    assert not any(table.roles for table in alike.tables)
    (doubt,) = alike.doubts
    assert doubt.question.startswith("Keeper_no and presser_no are written alike (K-000 and K-400)")
    said = Wishes(arrangements=(Arrangement("same", ("keeper_no", "presser_no")),))
    answered = numbered("K-{:03}".format, lambda n: [f"K-{n + 400:03}", f"Milo {n}", f"Kelder {n % 3}"], said)
    (together,) = (table for table in answered.tables if table.roles)
    assert together.column_names == ("no", "name", "village")
    assert not answered.doubts
    same = numbered("K-{:03}".format, lambda n: [f"K-{n:03}", f"Ada {n}", f"Inver {n % 4}"])
    assert [len(table.roles) for table in same.tables if table.roles] == [2]
    unlike = numbered("K-{:03}".format, lambda n: [f"K-{n:03}", f"Milo {n}", f"Kelder {n % 3}"])
    assert not any(table.roles for table in unlike.tables)
    assert not unlike.conflicts


@pytest.mark.parametrize(
    ("name", "start", "count", "expected"),
    [
        ("from_depot", 0, 1, "depot"),
        ("FromDepotNo", 0, 1, "DepotNo"),
        ("Depot From", 1, 1, "Depot"),
        ("to", 0, 1, ""),
    ],
)
def test_words_are_cut_from_a_name_as_it_is_spelled(name, start, count, expected):
    assert cut_words(name, start, count) == expected


def legs(seed=3):
    """Legs from a post by way of another to a third; every post has a region, and a region a chief."""
    posts = {f"P{place}": ("Upper", "Lower", "Outer")[place % 3] for place in range(7)}
    chiefs = {"Upper": "Ada Moss", "Lower": "Milo Fern", "Outer": "Nora Dale"}
    header = ["leg_no"]
    for role in ("from", "via", "to"):
        header += [f"{role}_post", f"{role}_region", f"{role}_chief"]
    rows = []
    for number in range(160):
        row = [str(3000 + number)]
        for place in (number * seed % 7, (number * number + number // 5) % 7, (number // 3) % 7):
            region = posts[f"P{place}"]
            row += [f"P{place}", region, chiefs[region]]
        rows.append(row)
    return design_of(header, rows)


def test_nested_things_in_roles_are_merged_from_the_far_end():
    design = legs()
    assert design.proof.holds
    assert design.proof.broken_roles == ()
    for flat in ("from_chief", "via_chief", "to_chief"):
        home = design.home(flat)
        assert {role.name for role in home.roles} == {"from", "via", "to"}
        assert home.flat_names[flat] in home.described
    for table in design.tables:
        for role in table.roles:
            assert [name for name, _ in role.columns] == list(table.column_names)


def test_every_flat_column_is_found_in_exactly_one_home():
    design = legs()
    for name in design.relation.names:
        assert name in design.home(name).flat_names
