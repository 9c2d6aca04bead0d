"""References that values show inside one design, and kinds of things that the analyst names."""

import pytest
from databases import DUCKDB, MARIADB, POSTGRES, new_database
from folders import folder_of
from sheets import jobs, poles

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repair import Repaired
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies


def made(relation, *wishes):
    mended = Repaired(relation, relation)
    return designed(mended, judge(relation, discover(relation, largest=3)), Wishes(arrangements=wishes))


def by_values(design):
    return {
        (table.name, link.columns, link.table, link.references)
        for table in design.tables
        for link in table.foreign_keys
        if link.by_values
    }


def test_nothing_refers_to_columns_set_apart_but_to_their_thing():
    """All cells alike make every column a key of every other: also where the thing gets a number."""
    relation = Relation.from_rows("ABCDE", [[*"aaaaa"]] * 3 + [[*"aabaa"]])
    rules = parse_dependencies("A, C -> B") + parse_dependencies("B, C, D -> E")
    judgement = judge(relation, discover(relation, largest=3), rules)
    for surrogates in ("never", "referred", "always"):
        arranged = (Arrangement("table", ("A",)), Arrangement("apart", ("B",)))
        wishes = Wishes(surrogates=surrogates, arrangements=arranged)
        design = designed(Repaired(relation, relation), judgement, wishes)
        apart = {table.name for table in design.tables if "B" in table.column_names} - {"B_C_D"}
        assert design.proof.holds
        assert not apart & {link.table for table in design.tables for link in table.foreign_keys}


def test_a_thing_refers_to_its_own_kind_and_by_a_name():
    design = made(poles())
    assert by_values(design) == {
        ("pole", ("fed_from_pole",), "pole", ("pole",)),
        ("cabinet", ("cabinet_street",), "street", ("street",)),
    }
    (link,) = [one for one in design.table("pole").foreign_keys if one.by_values]
    assert link.optional
    assert not link.circular
    assert design.proof.holds


def test_rows_come_after_those_that_they_refer_to():
    rows = made(poles()).table("pole").rows
    seen = {""}
    for pole, fed in rows.project(["pole", "fed_from_pole"]).rows():
        assert fed in seen
        seen.add(pole)


@pytest.mark.parametrize("circle", [False, True])
@pytest.mark.parametrize(
    "server", [None, POSTGRES, MARIADB, DUCKDB], ids=["sqlite", "postgresql", "mariadb", "duckdb"]
)
def test_every_database_takes_rows_that_refer_to_rows(circle, server, tmp_path):
    folder = folder_of(poles(circle=circle), tmp_path / "made")
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))
    if server is None and not POSTGRES:
        server = DUCKDB
    if server is None:
        assert load_folder(folder, f"sqlite:///{tmp_path}/made.db").views == {"flat": 240}
        return
    with new_database(server) as url:
        loaded = load_folder(folder, url)
        assert loaded.views == {"flat": 240}
        assert bool(loaded.notes) == (circle and server == DUCKDB)


def test_what_the_analyst_calls_different_is_not_linked():
    wish = Arrangement("different", ("fed_from_pole", "pole"))
    assert "pole" not in {there for *_, there, _ in by_values(made(poles(), wish))}


def test_what_the_analyst_calls_the_same_must_be_so_in_every_row():
    relation = poles()
    rows = [list(row) for row in relation.rows()]
    for row in rows:
        row[4] = "P999" if row[1] == "P005" else row[4]
    broken = Relation.from_rows(relation.names, rows)
    design = made(broken)
    assert ("pole", ("fed_from_pole",), "pole", ("pole",)) not in by_values(design)
    (doubt,) = [one for one in design.doubts if one.one == ("fed_from_pole",)]
    assert "P999" in doubt.told
    with pytest.raises(InputError, match="fed_from_pole is P999 in row"):
        made(broken, Arrangement("same", ("fed_from_pole", "pole")))


def test_two_columns_of_which_neither_is_a_key_are_refused_with_what_to_do():
    with pytest.raises(InputError, match="neither metres nor cabinet_street identifies") as refused:
        made(poles(), Arrangement("same", ("metres", "cabinet_street")))
    assert "--table-of" in refused.value.hint


def split(relation):
    found = findings(relation, topics=["family"])
    mended = repaired(relation, [Answer(one.id, "split") for one in found])
    judgement = judge(mended.relation, discover(mended.relation, largest=3), opaque=mended.opaque)
    return mended, judgement


def test_one_side_of_a_role_may_stand_in_parts():
    design = designed(*split(jobs()))
    tech = design.table("tech")
    assert {role.name for role in tech.roles} == {"lead", "tech"}
    assert tech.column_names == ("tech_no", "tech_name")
    assert tech.keys == (("tech_no",),)
    assert {link.role for link in design.table("job").foreign_keys if link.table == "tech"} == {"lead"}
    assert {link.role for link in design.table("job_tech").foreign_keys if link.table == "tech"} == {"tech"}
    assert design.proof.holds


def test_roles_that_are_called_different_stay_two_tables():
    wish = Arrangement("different", ("lead_tech_no", "tech_no"))
    design = designed(*split(jobs()), Wishes(arrangements=(wish,)))
    assert {"lead_tech", "tech"} <= {table.name for table in design.tables}
    assert not any(table.roles for table in design.tables)
    assert design.proof.holds
